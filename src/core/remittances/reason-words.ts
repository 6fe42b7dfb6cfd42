/** What Setup says of a reason code, in sentences: what it does to the money, and where it shows. */
import { type CalendarDate, formatDate } from '../calendar';
import { counted } from '../words';
import { looksAtPatient } from './decide';

/** What Setup says of a code under a group; `*` for every group that has no row of its own. */
export interface ReasonRow {
  group: string;
  words: string;
  patientWords: string;
  denial: boolean;
  followUp: 'never' | 'while-money' | 'always';
  /** Who works its follow-ups, and in how many days; empty and null where nothing is said. */
  owner: string;
  days: number | null;
  /** The book account of what it takes off, in words, and whether that is the contract's. */
  account: string;
  contract: boolean;
  travelsAs: string;
  standard: boolean;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
}

const REFUSES = 'refuses: what it takes stays with the payer until somebody settles it';
const LOOK = 'waits for a look before anybody is asked for it';

/** What it does to the money, by its group. */
function moves(code: string, { group, denial, account, contract }: ReasonRow): string {
  const takes = `takes off, as “${account}”; the report “Written off, by reason” names it`;
  if (group === '*') {
    // What a payer takes off on its own initiative is no contract's.
    const own = denial
      ? `Under the payer’s own groups (CO, PI) it ${REFUSES}.`
      : contract
        ? `Under CO it ${takes}; under PI it takes off on the payer’s own account.`
        : `Under the payer’s own groups (CO, PI) it ${takes}.`;
    return `${own} Under PR it ${looksAtPatient(code) ? LOOK : 'passes on'}, under OA it moves nothing.`;
  }
  if (group === 'CO' || group === 'PI') return `It ${denial ? REFUSES : takes}.`;
  if (group === 'PR')
    return denial || looksAtPatient(code)
      ? `It ${LOOK}.`
      : 'It passes on to the next payer, or to the patient.';
  return 'It moves nothing by itself.';
}

const FOLLOWED: Record<ReasonRow['followUp'], string> = {
  never: 'never followed up',
  'while-money': 'followed up while money is open',
  always: 'always followed up, even at zero',
};

/** Where a row of Setup shows, in sentences. */
export function reasonShows(code: string, row: ReasonRow): string[] {
  const by = row.owner === '' ? '' : ` by ${row.owner}`;
  const within = row.days === null ? '' : `, within ${counted(row.days, 'day')}`;
  return [
    moves(code, row),
    `On follow-ups: ${FOLLOWED[row.followUp]}${row.followUp === 'never' ? '' : `${by}${within}`}.`,
    row.patientWords === ''
      ? 'To the patient it is said in no words of its own.'
      : `On the statement and in the balance story: “${row.patientWords}”.`,
    row.travelsAs !== ''
      ? `To the next payer it goes on as ${row.travelsAs}.`
      : row.standard
        ? 'To the next payer it goes on as it is.'
        : 'It is a code of our own and names no standard one: the next payer’s claim stops at it.',
    ...(row.validFrom || row.validTo
      ? [
          `Valid${row.validFrom ? ` from ${formatDate(row.validFrom)}` : ''}${row.validTo ? ` until ${formatDate(row.validTo)}` : ''}.`,
        ]
      : []),
  ];
}
