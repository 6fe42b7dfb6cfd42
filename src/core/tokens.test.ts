import { type Mode, TOKENS, TOKEN_SHEET } from './tokens';

/** Relative luminance of a color and contrast of two, as WCAG 2.2 defines them. */
function luminance(color: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5]
    .map((at) => parseInt(color.slice(at, at + 2), 16) / 255)
    .map((part) => (part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
function contrast(one: string, other: string): number {
  const [light = 0, dark = 0] = [luminance(one), luminance(other)].sort((a, b) => b - a);
  return (light + 0.05) / (dark + 0.05);
}

test('black on white is 21 to 1, and a color on itself 1 to 1', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5);
  expect(contrast('#1f5c4a', '#1f5c4a')).toBe(1);
});

describe.each(Object.keys(TOKENS) as Mode[])('%s', (mode) => {
  const c = TOKENS[mode];
  test.each(['ink', 'quiet', 'spruce', 'brass', 'brick'] as const)('%s is read on every ground', (name) => {
    // WCAG 2.2, 1.4.3: 4.5 to 1.
    for (const ground of [c.paper, c.raised, c.band, c.mark])
      expect([name, ground, contrast(c[name], ground) >= 4.5]).toEqual([name, ground, true]);
  });

  test('the parts of the fee strip stand out from its ground', () => {
    // WCAG 2.2, 1.4.11 asks for 3 to 1 where the color alone says it; here hatchings and words say it too.
    for (const part of ['payerPaid', 'withPayer', 'onPlan', 'atAgency'] as const)
      expect([part, contrast(c[part], c.raised) >= 3]).toEqual([part, true]);
  });
});

test('both modes have the same names, and the sheet has them all', () => {
  expect(Object.keys(TOKENS.dark)).toEqual(Object.keys(TOKENS.light));
  for (const [name, color] of [...Object.entries(TOKENS.light), ...Object.entries(TOKENS.dark)])
    expect(TOKEN_SHEET).toContain(
      `--${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}:${color};`,
    );
});
