import { filterAddress, filtered } from './filters';

test.each([
  [{ payer: '3' }, { payer: 3 }],
  [{ payer: ['4', '5'] }, { payer: 4 }],
  [{ payer: '' }, {}],
  [{ payer: '0' }, {}],
  [{ payer: '-1' }, {}],
  [{ payer: '1; drop table payer' }, {}],
  [{ payer: '9'.repeat(16) }, {}],
  [{ site: '2', provider: '7' }, { provider: 7 }],
])('%j says %j of payer and provider', (address, chosen) =>
  expect(filtered(['payer', 'provider'], address)).toEqual(chosen),
);

test('what is chosen is said again as it was, whatever the order', () => {
  const chosen = { site: 2, payer: 1 };
  expect(Object.keys(filterAddress(chosen))).toEqual(['payer', 'site']);
  expect(filtered(['payer', 'provider', 'site'], filterAddress(chosen))).toEqual(chosen);
  expect(filterAddress({})).toEqual({});
});
