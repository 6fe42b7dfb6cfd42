/**
 * Which reasons and remarks go together in the four scenarios of the operating rule for the uniform use of codes (CAQH CORE 360): more
 * information is needed, what was sent is missing or wrong, the plan does not cover it, it is not paid beside another service. The list
 * changes three times a year: the practice brings it in, none is known to the program.
 */
import Papa from 'papaparse';
import type { Adjustment } from '../x12/adjustments';
import { codeOf } from './decide';

/** The scenarios, in words of our own. */
export const SCENARIOS = {
  1: '1 documents missing',
  2: '2 missing or wrong',
  3: '3 not covered',
  4: '4 not separately',
} as const;
/** A scenario's number. */
export type Scenario = keyof typeof SCENARIOS;

/** A combination: a reason, with a remark or with none, under these groups. */
export interface Combination {
  scenario: Scenario;
  reason: string;
  /** Empty: it needs none. */
  remark: string;
  groups: string[];
}

/** What was read, and what is wrong with which line, from 1. */
export interface ReadCombinations {
  lines: Combination[];
  wrong: { line: number; words: string }[];
}

/** Groups under which a combination goes. */
export const COMBINED_GROUPS: readonly string[] = ['CO', 'PI', 'PR', 'OA', 'CR'];

/** Reads a list as CSV: `scenario,reason,remark,groups`, groups with spaces between; the first line may name them. One that is there twice has the groups of both. */
export function readCombinations(text: string): ReadCombinations {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
  const found = new Map<string, Combination>();
  const wrong: ReadCombinations['wrong'] = [];
  for (const [index, cells] of data.entries()) {
    const [scenario = '', reason = '', remark = '', groups = ''] = cells.map((cell) =>
      cell.trim().toUpperCase(),
    );
    if (index === 0 && scenario === 'SCENARIO') continue;
    const say = (words: string): void => void wrong.push({ line: index + 1, words });
    const under = groups.split(/[ /;]+/).filter(Boolean);
    const strange = under.find((group) => !COMBINED_GROUPS.includes(group));
    if (!Object.hasOwn(SCENARIOS, scenario)) say(`“${scenario.slice(0, 20)}” is no scenario from 1 to 4`);
    else if (!/^[A-Z0-9]{1,5}$/.test(reason)) say(`“${reason.slice(0, 20)}” is no reason code`);
    else if (!/^[A-Z0-9]{0,6}$/.test(remark)) say(`“${remark.slice(0, 20)}” is no remark code`);
    else if (under.length === 0) say('it names no group');
    else if (strange) say(`“${strange.slice(0, 20)}” is no group`);
    else {
      const key = `${scenario}/${reason}/${remark}`;
      const before = found.get(key)?.groups ?? [];
      found.set(key, {
        scenario: Number(scenario) as Scenario,
        reason,
        remark,
        groups: [...new Set([...before, ...under])],
      });
    }
  }
  return { lines: [...found.values()], wrong };
}

/**
 * What of a refused line stands outside the scenarios, as information: a reason that is in none, a group that it does not go under, a
 * remark that it does not go with. Where no list was brought in nobody asks.
 * @param refused what refuses, of the line and its claim
 * @param remarks of the line and its claim
 */
export function outsideScenarios(
  refused: readonly Pick<Adjustment, 'group' | 'reason'>[],
  remarks: readonly string[],
  list: readonly Combination[],
): string[] {
  const said = refused.flatMap((item): string[] => {
    const name = codeOf(item);
    const ofReason = list.filter(({ reason }) => reason === item.reason);
    if (ofReason.length === 0) return [`${name} is in none of the four scenarios`];
    const ofGroup = ofReason.filter(({ groups }) => groups.includes(item.group));
    if (ofGroup.length === 0) {
      const known = [...new Set(ofReason.flatMap(({ groups }) => groups))].sort().join(', ');
      return [`${name}: the scenarios have it under ${known} alone`];
    }
    if (ofGroup.some(({ remark }) => remark === '' || remarks.includes(remark))) return [];
    return [
      remarks.length === 0
        ? `${name} comes without the remark that its scenarios ask for`
        : `${name} does not go with ${remarks.join(', ')} in any scenario`,
    ];
  });
  return [...new Set(said)];
}
