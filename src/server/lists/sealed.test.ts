import fc from 'fast-check';
import { openSearch, sealSearch } from './sealed';

process.env.WERGELD_SECRET ??= 'a secret for tests only, of no use elsewhere';

test('property: a sealed search opens as it was, says nothing of itself, and has one address', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 4, maxLength: 200, unit: 'grapheme' }), (text) => {
      const sealed = sealSearch(text);
      expect(openSearch(sealed)).toBe(text);
      expect(sealSearch(text)).toBe(sealed);
      expect(sealed).toMatch(/^~[\w-]+$/);
      expect(Buffer.from(sealed.slice(1), 'base64url').toString('latin1')).not.toContain(text);
    }),
  );
});

test('what somebody wrote by hand is taken as it is; what was tampered with, or comes from elsewhere, is nothing', () => {
  expect(openSearch('Beaumont')).toBe('Beaumont');
  const sealed = sealSearch('Beaumont');
  expect(openSearch(`${sealed.slice(0, -2)}AA`)).toBe('');
  for (const text of ['~', '~x', '~~~~', `~${'A'.repeat(80)}`, '~Ελένη']) expect(openSearch(text)).toBe('');
  const secret = process.env.WERGELD_SECRET;
  process.env.WERGELD_SECRET = 'another';
  expect(openSearch(sealed)).toBe('');
  process.env.WERGELD_SECRET = secret;
});
