/** How the cells of a line under a row lie in the columns of the table. */

/**
 * How many columns each cell covers: words run on over the empty columns after them, an amount stays in its own column.
 * @param filled whether the line says something in each column
 * @param amounts whether each column holds amounts
 */
export function spansOf(filled: readonly boolean[], amounts: readonly boolean[]): number[] {
  const found: number[] = [];
  filled.forEach((full, index) => {
    const owner = found.findLastIndex((span) => span > 0);
    const runsOn = !full && owner >= 0 && filled[owner]! && !amounts[owner]!;
    found.push(runsOn ? 0 : 1);
    if (runsOn) found[owner] = index - owner + 1;
  });
  return found;
}
