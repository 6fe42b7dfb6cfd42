/**
 * What a professional claim says in the boxes of the paper form of the National Uniform Claim Committee (1500, version 02/12; its
 * instruction manual from memory): the same content that goes over the wire. Six services fill a page, and each page is a claim.
 */
import { CASE_DATES, paperDates } from '../accounts/cases';
import type { CalendarDate } from '../calendar';
import { type Cents, toDecimal, sum } from '../money';
import type { ClaimContent, ClaimLineContent, ClaimReference, PersonName, PostalAddress } from './content';

/** A box by its number on the form, what it asks for, and what it says. */
export interface PaperBox {
  box: string;
  asks: string;
  says: string;
}

/** A page of the form: its boxes, and its services with the shaded line above each (24). */
export interface PaperPage {
  boxes: PaperBox[];
  lines: {
    date: string;
    place: string;
    procedure: string;
    pointers: string;
    charge: string;
    units: string;
    /** Of who did it: the qualifier and the number in the shaded line, and the NPI. */
    qualifier: string;
    id: string;
    npi: string;
  }[];
}

/** Services of a page. */
const LINES = 6;

/** Which square of box 1 is marked, by the claim filing indicator. */
const KINDS: Readonly<Record<string, string>> = {
  MB: 'Medicare',
  MA: 'Medicare',
  MC: 'Medicaid',
  CH: 'Tricare',
  CI: 'Group health plan',
  HM: 'Group health plan',
  BL: 'Group health plan',
  WC: 'FECA',
};

const LETTERS = 'ABCDEFGHIJKL';

/** MM DD YYYY, as the form has its dates. */
const day = (date: CalendarDate | '' | null | undefined): string =>
  date ? `${date.slice(5, 7)} ${date.slice(8, 10)} ${date.slice(0, 4)}` : '';
const short = (date: CalendarDate): string => `${date.slice(5, 7)} ${date.slice(8, 10)} ${date.slice(2, 4)}`;
const upper = (text: string): string => text.toUpperCase();
const person = ({ last, first, middle }: PersonName): string =>
  upper([last, first, middle].filter(Boolean).join(', '));
const place = ({ line1, line2, city, state, zip }: PostalAddress): string =>
  upper([[line1, line2].filter(Boolean).join(' '), city, `${state} ${zip}`].join(', '));
/** The form has no point in amounts. */
const money = (amount: Cents): string => toDecimal(amount).replace('.', ' ');
const number = (reference: ClaimReference | undefined): string =>
  reference ? `${reference.qualifier} ${reference.id}` : '';

/** The number of our group at the payer, where the form has it: that of a place in 32b, any other in 33b. */
function groupNumber({ billing, payer }: ClaimContent): ClaimReference | undefined {
  return (
    billing.references?.find(({ qualifier }) => ['0B', '1G'].includes(qualifier)) ??
    payer.references?.find(({ qualifier }) => ['G2', 'LU'].includes(qualifier))
  );
}

function aboutPeople(claim: ClaimContent): [string, string, string][] {
  const { patient, subscriber: s, relationship } = claim;
  const other = claim.otherPayers?.[0];
  const onFile = claim.assignment?.signed === false ? '' : 'SIGNATURE ON FILE';
  return [
    ['1', 'Kind of insurance', KINDS[claim.filingCode] ?? 'Other'],
    ['1a', 'Insured’s number', s.memberId],
    ['2', 'Patient’s name', person(patient)],
    ['3', 'Birth date and sex', `${day(patient.birthDate)} ${patient.sex === 'U' ? '' : patient.sex}`],
    ['4', 'Insured’s name', s.organization ? upper(s.last) : person(s)],
    ['5', 'Patient’s address', place(patient.address)],
    ['6', 'Relationship', relationship],
    ['7', 'Insured’s address', place(s.address)],
    ['9', 'Other insured’s name', other ? person(other.subscriber) : ''],
    ['9a', 'Other policy or group', other ? other.subscriber.groupNumber : ''],
    ['9d', 'Other plan', other ? upper(other.subscriber.planName || other.payer.name) : ''],
    ['11', 'Insured’s group', s.groupNumber],
    ['11a', 'Insured’s birth date and sex', s.organization ? '' : `${day(s.birthDate)} ${s.sex}`],
    ['11b', 'Other claim number', s.casualtyNumber ? `Y4 ${s.casualtyNumber}` : ''],
    ['11c', 'Plan', upper(s.planName)],
    ['11d', 'Another plan', other ? 'YES' : 'NO'],
    ['12', 'Patient’s signature', onFile],
    ['13', 'Insured’s signature', claim.assignment?.benefits === false ? '' : onFile],
  ];
}

function aboutCare(claim: ClaimContent): [string, string, string][] {
  const { accident, referring, dates = {} } = claim;
  const known = { ...dates, ...(accident?.date ? { accident: accident.date } : {}) };
  const { box14, box15 } = paperDates(known);
  const at = (name: keyof typeof CASE_DATES | null): string =>
    name ? `${CASE_DATES[name].x12} ${day(known[name])}` : '';
  const is = (kind: 'EM' | 'AA' | 'OA'): string => (accident?.kind === kind ? 'YES' : 'NO');
  return [
    ['10a', 'Employment', is('EM')],
    ['10b', 'Car accident', [is('AA'), accident?.kind === 'AA' && accident.state].filter(Boolean).join(' ')],
    ['10c', 'Other accident', is('OA')],
    ['14', 'Onset', at(box14)],
    ['15', 'Other date', at(box15)],
    ['16', 'Unable to work', [day(dates.disabledFrom), day(dates.disabledTo)].filter(Boolean).join(' – ')],
    ['17', 'Referred by', referring ? `DN ${upper(`${referring.first} ${referring.last}`)}` : ''],
    ['17a', 'Other number of who referred', number(referring?.references?.[0])],
    ['17b', 'NPI of who referred', referring?.npi ?? ''],
    ['19', 'More about the claim', upper(claim.note ?? '')],
    [
      '21',
      'Diagnoses (ICD-10)',
      claim.diagnoses.map((code, index) => `${LETTERS[index]} ${code.replace('.', '')}`).join('  '),
    ],
    [
      '22',
      'Resubmission',
      claim.frequency === '1' ? '' : `${claim.frequency} ${claim.payerClaimNumber ?? ''}`,
    ],
    ['23', 'Authorization', claim.authorizationNumber ?? claim.referralNumber ?? ''],
  ];
}

function aboutUs(claim: ClaimContent, lines: readonly ClaimLineContent[]): [string, string, string][] {
  const { billing, facility } = claim;
  const group = groupNumber(claim);
  const before = claim.otherPayers?.flatMap(({ decided }) => (decided ? [decided.paid] : [])) ?? [];
  const who = claim.rendering ?? { first: billing.first ?? '', last: billing.last ?? '' };
  const atPlace = group?.qualifier === 'LU' && facility !== undefined;
  return [
    ['25', 'Tax number', `${billing.taxId} ${billing.taxIdKind === 'EI' ? 'EIN' : 'SSN'}`],
    ['26', 'Our number of the claim', claim.controlNumber],
    ['27', 'Assignment accepted', claim.assignment?.accepted === false ? 'NO' : 'YES'],
    ['28', 'Total', money(sum(lines.map(({ charge }) => charge)))],
    ['29', 'Paid by payers before', before.length > 0 ? money(sum(before)) : ''],
    ['31', 'Signed', upper(`${who.first} ${who.last}`)],
    ['32', 'Done at', facility ? `${upper(facility.name)}, ${place(facility.address)}` : ''],
    ['32b', 'Other number of the place', atPlace ? number(group) : ''],
    [
      '33',
      'Billed by',
      `${upper(billing.organization ?? `${billing.first} ${billing.last}`)}, ${place(billing.address)}`,
    ],
    ['33a', 'NPI of who bills', billing.npi],
    ['33b', 'Other number of who bills', atPlace ? '' : number(group)],
  ];
}

/** What a professional claim says on paper, page by page. */
export function paperPages(claim: ClaimContent): PaperPage[] {
  const own = claim.rendering?.references?.[0];
  const pages = Array.from({ length: Math.ceil(claim.lines.length / LINES) }, (_, page) =>
    claim.lines.slice(page * LINES, (page + 1) * LINES),
  );
  return pages.map((lines) => ({
    boxes: [...aboutPeople(claim), ...aboutCare(claim), ...aboutUs(claim, lines)]
      .map(([box, asks, says]) => ({ box, asks, says: says.trim() }))
      .sort((a, b) => parseInt(a.box) - parseInt(b.box) || (a.box < b.box ? -1 : 1)),
    lines: lines.map((line) => ({
      date: short(line.date),
      place: claim.placeOfService,
      procedure: [line.code, ...line.modifiers].join(' '),
      pointers: line.pointers.map((pointer) => LETTERS[pointer - 1]).join(''),
      charge: money(line.charge),
      units: String(line.units),
      qualifier: own?.qualifier ?? '',
      id: own?.id ?? '',
      npi: claim.rendering?.npi ?? claim.billing.npi,
    })),
  }));
}
