/** Parts of what accounts owe, as the entries that take it off or hand it over need them. */
import type { ChargePart } from '../../core/books/entry';
import { type Cents, least, minus } from '../../core/money';

/** The first parts that come to an amount, oldest first. */
export function partsUpTo(parts: readonly ChargePart[], amount: Cents): ChargePart[] {
  let rest = amount;
  return parts.flatMap(({ about, amount: open }): ChargePart[] => {
    const part = least(rest, open);
    rest = minus(rest, part);
    return part > 0 ? [{ about, amount: part }] : [];
  });
}
