import { ownPath } from './own-path';

test.each([
  ['/accounts?view=owes&page=2', '/accounts?view=owes&page=2'],
  ['/', '/'],
  [undefined, '/'],
  ['', '/'],
  ['//example.org', '/'],
  ['/\\example.org', '/'],
  ['https://example.org', '/'],
  ['javascript:alert(1)', '/'],
  ['/a\nb', '/'],
])('%s leads to %s', (given, path) => {
  expect(ownPath(given)).toBe(path);
  // What a browser makes of it stays on our host.
  expect(new URL(ownPath(given), 'http://wergeld.test').host).toBe('wergeld.test');
});
