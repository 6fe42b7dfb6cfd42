/** Reasons and remarks that go together. The combinations are made up after the form of the list of CAQH CORE 360. */
import { readCombinations, outsideScenarios } from './combinations';

const LIST = [
  'scenario,reason,remark,groups',
  '1,252,N706,CO PI',
  '2,16,M76,CO PI',
  '2,16,N290,CO',
  '3,204,,PR CO',
  '4,97,,CO',
  '4,97,N19,PI',
].join('\n');
const { lines } = readCombinations(LIST);
const outside = (group: 'CO' | 'PI' | 'PR' | 'OA', reason: string, remarks: string[] = []): string[] =>
  outsideScenarios([{ group, reason }], remarks, lines);

test('the list is read; a combination that is there twice has the groups of both', () => {
  expect(lines).toHaveLength(6);
  expect(lines[0]).toEqual({ scenario: 1, reason: '252', remark: 'N706', groups: ['CO', 'PI'] });
  expect(readCombinations('3,204,,PR\n3,204,,CO/PR').lines).toEqual([
    { scenario: 3, reason: '204', remark: '', groups: ['PR', 'CO'] },
  ]);
});

test.each([
  ['5,16,M76,CO', 'is no scenario'],
  [',16,M76,CO', 'is no scenario'],
  ['toString,16,M76,CO', 'is no scenario'],
  ['1,,M76,CO', 'is no reason code'],
  ['1,16;,M76,CO', 'is no reason code'],
  ['1,16,M76-1,CO', 'is no remark code'],
  ['1,16,M76,', 'names no group'],
  ['1,16,M76,CO XX', '“XX” is no group'],
])('“%s” %s', (line, words) => {
  const read = readCombinations(`${LIST}\n${line}`);
  expect(read.wrong).toEqual([{ line: 8, words: expect.stringContaining(words) as string }]);
});

test('what goes together says nothing; what does not is said, once', () => {
  expect(outside('CO', '16', ['M76'])).toEqual([]);
  expect(outside('PI', '16', ['N130', 'M76'])).toEqual([]);
  expect(outside('PR', '204')).toEqual([]);
  expect(outside('CO', '97', ['N19'])).toEqual([]);
  expect(outside('CO', '16')).toEqual(['CO-16 comes without the remark that its scenarios ask for']);
  expect(outside('CO', '16', ['N130'])).toEqual(['CO-16 does not go with N130 in any scenario']);
  // N290 goes with it under CO alone.
  expect(outside('PI', '16', ['N290'])).toEqual(['PI-16 does not go with N290 in any scenario']);
  expect(outside('OA', '97')).toEqual(['OA-97: the scenarios have it under CO, PI alone']);
  expect(outside('CO', '50')).toEqual(['CO-50 is in none of the four scenarios']);
  const twice = [
    { group: 'CO' as const, reason: '50' },
    { group: 'CO' as const, reason: '50' },
  ];
  expect(outsideScenarios(twice, [], lines)).toHaveLength(1);
});
