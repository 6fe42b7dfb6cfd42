/** What an earlier payer has decided of services, as it goes to the next one: its standing words, as they were received. */
import type { CalendarDate } from '../calendar';
import { type Cents, add, sum } from '../money';
import type { Adjustment } from '../x12/adjustments';
import type { RemitClaim, RemitLine } from '../x12/remittance835';
import type { OtherPayer } from './content';

/** Claim status code of a word that takes back what was decided (CLP02, 005010X221A1). */
const TAKEN_BACK = '22';

type Decided = NonNullable<OtherPayer['decided']>;
type DecidedLine = Decided['lines'][number];

/** A posted word of the earlier payer on one claim, and the day of its payment. */
export interface Word {
  claim: RemitClaim;
  date: CalendarDate;
}

/** A line of the claim to the next payer: under which control number the earlier one knew it, its code and its charge. */
export interface LineBefore {
  number: number;
  control: string;
  /** Under which other number it was handed on to it, if it was. */
  also?: string | null;
  code: string;
  charge: Cents;
}

/** Adjustments of several words together; one word's stay as they are. */
function together(lists: readonly (readonly Adjustment[])[]): Adjustment[] {
  const some = lists.filter((list) => list.length > 0);
  if (some.length < 2) return [...(some[0] ?? [])];
  const found = new Map<string, Adjustment>();
  for (const one of some.flat()) {
    const { group, reason, amount } = one;
    const key = `${group}-${reason}`;
    const other = found.get(key);
    // The units of several are no sum.
    found.set(key, other ? { group, reason, amount: add(other.amount, amount) } : one);
  }
  return [...found.values()].filter(({ amount }) => amount !== 0);
}

/**
 * What a word says of lines of ours, by their number: by the number that we gave them, or by code and charge where the payer said
 * none, each once as far as there are so many.
 */
function linesOf({ claim }: Word, ours: readonly LineBefore[]): Map<number, RemitLine[]> {
  const found = new Map<number, RemitLine[]>(ours.map(({ number }) => [number, []]));
  for (const line of claim.lines) {
    const code = line.billed || line.code;
    const same = ours.filter((own) => own.code === code);
    const free = same.filter(({ number }) => found.get(number)!.length === 0);
    const own =
      line.lineControl === ''
        ? (free.find(({ charge }) => charge === line.charge) ?? free[0] ?? same[0])
        : ours.find(({ control, also }) => [control, also].includes(line.lineControl));
    if (own) found.get(own.number)!.push(line);
  }
  return found;
}

/** What was said of one line, by what was decided: a line that the payer split has a decision each (005010X221A1, 1.10.2.6). */
function apart(said: readonly RemitLine[]): RemitLine[][] {
  const found = new Map<string, RemitLine[]>();
  for (const line of said) {
    const key = [line.code, ...line.modifiers].join(':');
    found.set(key, [...(found.get(key) ?? []), line]);
  }
  return [...found.values()];
}

/** Lines that the payer decided under one code that it did not get from all of them: those without money name the one with it. */
function bundled(decided: readonly DecidedLine[], ours: readonly LineBefore[]): DecidedLine[] {
  const billed = new Map(ours.map(({ number, code }) => [number, code]));
  return decided.map((line) => {
    if (line.paid !== 0 || line.code === billed.get(line.number)) return line;
    const into = decided.find(
      ({ number, code, paid }) => number !== line.number && code === line.code && paid > 0,
    );
    return into ? { ...line, bundledInto: into.number } : line;
  });
}

/**
 * What stands of an earlier payer's words on lines. What it took back leaves nothing of what it said before.
 * @param words posted, in the order in which they were posted
 * @param whole whether the lines are all that the payer decided: then what it said of the claim as a whole goes along
 * @returns undefined where no word stands
 */
export function decidedBefore(
  words: readonly Word[],
  lines: readonly LineBefore[],
  whole: boolean,
): Decided | undefined {
  const back = words.findLastIndex(({ claim }) => claim.status === TAKEN_BACK);
  const stand = words.slice(back + 1);
  const last = stand.at(-1);
  if (!last) return undefined;
  const said = stand.map((word) => linesOf(word, lines));
  const decided = bundled(
    lines.flatMap((own) =>
      apart(said.flatMap((word) => word.get(own.number)!)).map((theirs) => {
        const newest = theirs.at(-1)!;
        return {
          number: own.number,
          code: newest.code,
          modifiers: newest.modifiers,
          paid: sum(theirs.map(({ paid }) => paid)),
          units: newest.units,
          adjustments: together(theirs.map(({ adjustments }) => adjustments)),
        };
      }),
    ),
    lines,
  );
  return {
    paid: sum((whole ? stand.map(({ claim }) => claim) : decided).map(({ paid }) => paid)),
    date: last.date,
    payerClaimNumber: last.claim.payerClaimNumber,
    adjustments: whole ? together(stand.map(({ claim }) => claim.adjustments)) : [],
    remarks: [...new Set(stand.flatMap(({ claim }) => claim.remarks))].slice(0, 5),
    lines: decided,
  };
}

/** A decision with the codes of our own as the standard ones as which they go on; what becomes the same is one. */
export function asStandard(decided: Decided, travels: (adjustment: Adjustment) => Adjustment): Decided {
  const of = (list: readonly Adjustment[]): Adjustment[] => {
    const sent = list.map(travels);
    // Only what is changed is put together with others.
    return sent.every((one, at) => one === list[at]) ? [...list] : together(sent.map((one) => [one]));
  };
  return {
    ...decided,
    adjustments: of(decided.adjustments),
    lines: decided.lines.map((line) => ({ ...line, adjustments: of(line.adjustments) })),
  };
}

/** Whether two decisions say the same of the services; the day and the payer's number may be others. */
export function saysTheSame(one: Decided | undefined, other: Decided | undefined): boolean {
  const adjusted = (list: readonly Adjustment[]): string[] =>
    list.map(({ group, reason, amount }) => `${group}-${reason} ${amount}`).sort();
  const plain = (decided: Decided | undefined) =>
    decided && [
      decided.paid,
      adjusted(decided.adjustments),
      decided.lines
        .map(
          ({ number, code, paid, adjustments }) =>
            `${number} ${code} ${paid} ${adjusted(adjustments).join()}`,
        )
        .sort(),
    ];
  return JSON.stringify(plain(one)) === JSON.stringify(plain(other));
}
