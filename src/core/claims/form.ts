/**
 * Where each value of a professional claim stands on the pre-printed form of the National Uniform Claim Committee (1500, version 02/12):
 * ten letters to an inch across, six lines to an inch down, from memory. Only values are printed, never the form; a practice moves them by
 * offsets until its test page fits.
 */
import { CASE_DATES, REFERRING_ROLES, paperDates } from '../accounts/cases';
import type { CalendarDate } from '../calendar';
import { type Cents, sum, toDecimal } from '../money';
import type { ClaimContent, ClaimLineContent, ClaimReference, PersonName, PostalAddress } from './content';

/** A value in its box: in points from the left and the top of the sheet, and how much room it has. */
export interface Mark {
  /** The box by its number; services have their line behind it, such as 24F.2. */
  box: string;
  text: string;
  x: number;
  y: number;
  width: number;
  /** It ends at the right of its room, as amounts do. */
  right?: true;
}

/** A box: its line and column on the grid, and how many letters it holds. */
type Place = readonly [line: number, column: number, letters: number];

const ACROSS = 7.2;
const DOWN = 12;
const LEFT = 21.6;
const TOP = 24;

/** Services of a page. */
export const FORM_LINES = 6;

/** The boxes that hold one value each. */
const BOXES = {
  carrier1: [1, 41, 38],
  carrier2: [2, 41, 38],
  carrier3: [3, 41, 38],
  carrier4: [4, 41, 38],
  '1a': [8, 50, 28],
  '2': [10, 1, 28],
  '3.month': [10, 31, 2],
  '3.day': [10, 34, 2],
  '3.year': [10, 37, 4],
  '4': [10, 50, 29],
  '5.street': [12, 1, 28],
  '5.city': [14, 1, 24],
  '5.state': [14, 26, 3],
  '5.zip': [16, 1, 12],
  '7.street': [12, 50, 29],
  '7.city': [14, 50, 23],
  '7.state': [14, 74, 3],
  '7.zip': [16, 50, 12],
  '9': [18, 1, 28],
  '9a': [20, 1, 28],
  '9d': [26, 1, 28],
  '10b.state': [22, 45, 2],
  '11': [18, 50, 29],
  '11a.month': [20, 53, 2],
  '11a.day': [20, 56, 2],
  '11a.year': [20, 59, 4],
  '11b': [22, 50, 29],
  '11c': [24, 50, 29],
  '12': [30, 7, 20],
  '13': [30, 56, 20],
  '14.month': [32, 2, 2],
  '14.day': [32, 5, 2],
  '14.year': [32, 8, 4],
  '14.kind': [32, 16, 3],
  '15.kind': [32, 31, 3],
  '15.month': [32, 37, 2],
  '15.day': [32, 40, 2],
  '15.year': [32, 43, 4],
  '16.from': [32, 54, 10],
  '16.to': [32, 68, 10],
  '17.role': [34, 1, 2],
  '17': [34, 4, 24],
  '17a.kind': [33, 29, 2],
  '17a': [33, 32, 16],
  '17b': [34, 32, 12],
  '18.from': [34, 54, 10],
  '18.to': [34, 68, 10],
  '19': [36, 1, 47],
  '21.kind': [37, 42, 1],
  '22.code': [38, 50, 8],
  '22': [38, 62, 17],
  '23': [40, 50, 29],
  '25': [56, 1, 15],
  '26': [56, 23, 13],
  '28': [56, 51, 10],
  '29': [56, 63, 9],
  '31': [60, 1, 20],
  '31.date': [61, 12, 10],
  '32.name': [58, 23, 26],
  '32.street': [59, 23, 26],
  '32.city': [60, 23, 26],
  '32b': [61, 35, 14],
  '33.phone': [57, 66, 13],
  '33.name': [58, 50, 29],
  '33.street': [59, 50, 29],
  '33.city': [60, 50, 29],
  '33a': [61, 51, 11],
  '33b': [61, 63, 16],
} as const satisfies Record<string, Place>;
type Box = keyof typeof BOXES;

/** Squares that are marked: by what they say. */
const SQUARES = {
  '1.medicare': [8, 1],
  '1.medicaid': [8, 8],
  '1.tricare': [8, 15],
  '1.group': [8, 31],
  '1.feca': [8, 39],
  '1.other': [8, 45],
  '3.M': [10, 42],
  '3.F': [10, 47],
  '6.self': [12, 33],
  '6.spouse': [12, 38],
  '6.child': [12, 42],
  '6.other': [12, 47],
  '10a.yes': [20, 35],
  '10a.no': [20, 41],
  '10b.yes': [22, 35],
  '10b.no': [22, 41],
  '10c.yes': [24, 35],
  '10c.no': [24, 41],
  '11a.M': [20, 68],
  '11a.F': [20, 75],
  '11d.yes': [26, 52],
  '11d.no': [26, 57],
  '20.no': [36, 57],
  '25.SSN': [56, 17],
  '25.EIN': [56, 19],
  '27.yes': [56, 38],
  '27.no': [56, 43],
} as const satisfies Record<string, readonly [line: number, column: number]>;
type Square = keyof typeof SQUARES;

/** Columns of a service (24): those of the shaded line above it, and its own. */
const SERVICE = {
  '24A.from': [0, 1, 8],
  '24A.to': [0, 10, 8],
  '24B': [0, 19, 2],
  '24D': [0, 25, 7],
  '24D.1': [0, 33, 2],
  '24D.2': [0, 36, 2],
  '24D.3': [0, 39, 2],
  '24D.4': [0, 42, 2],
  '24E': [0, 45, 4],
  '24F': [0, 49, 9],
  '24G': [0, 59, 3],
  '24I': [-1, 65, 2],
  '24J.own': [-1, 68, 11],
  '24J': [0, 68, 11],
  '24.drug': [-1, 1, 60],
} as const satisfies Record<string, Place>;
const FIRST_SERVICE = 44;

const KINDS: Readonly<Record<string, Square>> = {
  MA: '1.medicare',
  MB: '1.medicare',
  MC: '1.medicaid',
  CH: '1.tricare',
  CI: '1.group',
  HM: '1.group',
  BL: '1.group',
  WC: '1.feca',
};
const LETTERS = 'ABCDEFGHIJKL';

const at = (box: string, [line, column, letters]: Place, text: string, right?: true): Mark => ({
  box,
  text,
  x: LEFT + (column - 1) * ACROSS,
  y: TOP + (line - 1) * DOWN,
  width: letters * ACROSS,
  ...(right ? { right } : {}),
});
const upper = (text: string): string => text.toUpperCase();
const name = ({ last, first, middle }: PersonName): string =>
  upper([last, first, middle].filter(Boolean).join(', '));
const plain = (text: string): string => text.replace(/[^\dA-Z]/gi, '');
/** The form has no point and no sign in amounts. */
const money = (amount: Cents): string => toDecimal(amount).replace('.', ' ');
const shortDay = (date: CalendarDate): string =>
  `${date.slice(5, 7)} ${date.slice(8, 10)} ${date.slice(2, 4)}`;
const longDay = (date: CalendarDate): string =>
  `${date.slice(5, 7)} ${date.slice(8, 10)} ${date.slice(0, 4)}`;

/** Values by their box, of those that say something. */
type Said = Partial<Record<Box, string>>;

/** A day in three boxes. */
const dayIn = (box: '3' | '11a' | '14' | '15', date: CalendarDate | '' | null | undefined): Said =>
  date
    ? {
        [`${box}.month`]: date.slice(5, 7),
        [`${box}.day`]: date.slice(8, 10),
        [`${box}.year`]: date.slice(0, 4),
      }
    : {};

const streets = (box: '5' | '7', address: PostalAddress): Said => ({
  [`${box}.street`]: upper([address.line1, address.line2].filter(Boolean).join(' ')),
  [`${box}.city`]: upper(address.city),
  [`${box}.state`]: address.state,
  [`${box}.zip`]: address.zip,
});

/** The number of our group at the payer. */
function groupNumber({ billing, payer }: ClaimContent): ClaimReference | undefined {
  return (
    billing.references?.find(({ qualifier }) => ['0B', '1G'].includes(qualifier)) ??
    payer.references?.find(({ qualifier }) => ['G2', 'LU'].includes(qualifier))
  );
}

/** What is said of people and of their insurance (1 to 13). */
function people(claim: ClaimContent): Said {
  const { patient, subscriber: s } = claim;
  const other = claim.otherPayers?.[0];
  const onFile = claim.assignment?.signed === false ? '' : 'SIGNATURE ON FILE';
  return {
    '1a': s.memberId,
    '2': name(patient),
    ...dayIn('3', patient.birthDate),
    '4': s.organization ? upper(s.last) : name(s),
    ...streets('5', patient.address),
    ...streets('7', s.address),
    ...(other
      ? {
          '9': name(other.subscriber),
          '9a': other.subscriber.groupNumber || other.subscriber.memberId,
          '9d': upper(other.subscriber.planName || other.payer.name),
        }
      : {}),
    '10b.state': claim.accident?.kind === 'AA' ? claim.accident.state : '',
    '11': s.groupNumber || (claim.coverageOrder === 1 ? 'NONE' : ''),
    ...(s.organization ? {} : dayIn('11a', s.birthDate)),
    '11b': s.casualtyNumber ? `Y4 ${s.casualtyNumber}` : '',
    '11c': upper(s.planName || claim.payer.name),
    '12': onFile,
    '13': claim.assignment?.benefits === false ? '' : onFile,
  };
}

/** What is said of the care (14 to 23). */
function care(claim: ClaimContent): Said {
  const { accident, referring, dates = {} } = claim;
  const known = { ...dates, ...(accident?.date ? { accident: accident.date } : {}) };
  const { box14, box15 } = paperDates(known);
  const own = referring?.references?.[0];
  return {
    ...(box14 ? { ...dayIn('14', known[box14]), '14.kind': CASE_DATES[box14].x12 } : {}),
    ...(box15 ? { ...dayIn('15', known[box15]), '15.kind': CASE_DATES[box15].x12 } : {}),
    '16.from': dates.disabledFrom ? longDay(dates.disabledFrom) : '',
    '16.to': dates.disabledTo ? longDay(dates.disabledTo) : '',
    ...(referring
      ? {
          '17.role': referring.role ?? ('DN' satisfies keyof typeof REFERRING_ROLES),
          '17': upper(`${referring.first} ${referring.last}`),
          '17a.kind': own?.qualifier ?? '',
          '17a': own?.id ?? '',
          '17b': referring.npi,
        }
      : {}),
    '18.from': dates.admitted ? longDay(dates.admitted) : '',
    '18.to': dates.released ? longDay(dates.released) : '',
    '19': upper(claim.note ?? ''),
    '21.kind': '0',
    ...(claim.frequency === '1' ? {} : { '22.code': claim.frequency, '22': claim.payerClaimNumber ?? '' }),
    '23': claim.authorizationNumber ?? claim.referralNumber ?? claim.clia ?? '',
  };
}

/** What is said of us (25 to 33). */
function us(claim: ClaimContent, page: FormPage, today: CalendarDate): Said {
  const { billing, facility } = claim;
  const group = groupNumber(claim);
  const atPlace = group?.qualifier === 'LU' && facility !== undefined;
  const groupWords = group ? `${group.qualifier} ${group.id}` : '';
  const before = (claim.otherPayers ?? []).flatMap(({ decided }) => (decided ? [decided.paid] : []));
  const who = claim.rendering ?? { first: billing.first ?? '', last: billing.last ?? '' };
  const city = (address: PostalAddress): string => upper(`${address.city} ${address.state} ${address.zip}`);
  return {
    '25': plain(billing.taxId),
    '26': claim.controlNumber,
    '28': page.total === null ? 'CONTINUED' : money(page.total),
    '29': page.total !== null && before.length > 0 ? money(sum(before)) : '',
    '31': upper(`${who.first} ${who.last}`),
    '31.date': longDay(today),
    ...(facility
      ? {
          '32.name': upper(facility.name),
          '32.street': upper(facility.address.line1),
          '32.city': city(facility.address),
          '32b': atPlace ? groupWords : '',
        }
      : {}),
    '33.name': upper(billing.organization ?? `${billing.first} ${billing.last}`),
    '33.street': upper((billing.payTo ?? billing.address).line1),
    '33.city': city(billing.payTo ?? billing.address),
    '33a': billing.npi,
    '33b': atPlace ? '' : groupWords,
  };
}

function squares(claim: ClaimContent): Square[] {
  const { patient, subscriber: s, accident } = claim;
  const yes = (box: '10a' | '10b' | '10c', kind: string): Square =>
    `${box}.${accident?.kind === kind ? 'yes' : 'no'}`;
  return [
    KINDS[claim.filingCode] ?? '1.other',
    ...(patient.sex === 'U' ? [] : [`3.${patient.sex}` as const]),
    `6.${claim.relationship}`,
    yes('10a', 'EM'),
    yes('10b', 'AA'),
    yes('10c', 'OA'),
    ...(s.organization || s.sex === 'U' ? [] : [`11a.${s.sex}` as const]),
    (claim.otherPayers ?? []).length > 0 ? '11d.yes' : '11d.no',
    '20.no',
    claim.billing.taxIdKind === 'EI' ? '25.EIN' : '25.SSN',
    claim.assignment?.accepted === false ? '27.no' : '27.yes',
  ];
}

/** A page: its services, and the total that stands on it; null where it goes on. */
interface FormPage {
  lines: readonly ClaimLineContent[];
  total: Cents | null;
}

/** The pages of a claim: each a claim of its own with its total, unless the payer lets one go on. */
function pagesOf({ lines, total }: ClaimContent, continued: boolean): FormPage[] {
  const count = Math.max(1, Math.ceil(lines.length / FORM_LINES));
  return Array.from({ length: count }, (_, page) => {
    const own = lines.slice(page * FORM_LINES, (page + 1) * FORM_LINES);
    if (!continued) return { lines: own, total: sum(own.map(({ charge }) => charge)) };
    return { lines: own, total: page === count - 1 ? total : null };
  });
}

function service(claim: ClaimContent, line: ClaimLineContent, index: number): Mark[] {
  const own = claim.rendering?.references?.[0];
  const { drug } = line;
  const said: Partial<Record<keyof typeof SERVICE, string>> = {
    '24A.from': shortDay(line.date),
    '24A.to': shortDay(line.date),
    '24B': claim.placeOfService,
    '24D': line.code,
    '24D.1': line.modifiers[0] ?? '',
    '24D.2': line.modifiers[1] ?? '',
    '24D.3': line.modifiers[2] ?? '',
    '24D.4': line.modifiers[3] ?? '',
    '24E': line.pointers.map((pointer) => LETTERS[pointer - 1]).join(''),
    '24F': money(line.charge),
    '24G': String(line.units),
    '24I': own?.qualifier ?? '',
    '24J.own': own?.id ?? '',
    '24J': claim.rendering?.npi ?? claim.billing.npi,
    '24.drug': drug ? `N4${drug.ndc} ${drug.measure}${drug.thousandths / 1000}` : '',
  };
  return Object.entries(SERVICE).flatMap(([box, [shift, column, letters]]) => {
    const text = said[box as keyof typeof SERVICE];
    const line_ = FIRST_SERVICE + index * 2 + shift;
    return text
      ? [at(`${box}.${index + 1}`, [line_, column, letters], text, box === '24F' ? true : undefined)]
      : [];
  });
}

/** The diagnoses in their boxes, four to a line. */
const diagnoses = ({ diagnoses: codes }: ClaimContent): Mark[] =>
  codes
    .slice(0, 12)
    .map((code, index) =>
      at(
        `21.${LETTERS[index]}`,
        [38 + Math.floor(index / 4), 3 + (index % 4) * 13, 8],
        code.replace('.', ''),
      ),
    );

/**
 * What a professional claim prints into the boxes of the form, page by page.
 * @param continued whether the payer lets a claim go on over pages
 */
export function formPages(claim: ClaimContent, continued: boolean, today: CalendarDate): Mark[][] {
  const { payer } = claim;
  const carrier: Said = {
    carrier1: upper(payer.name),
    ...(payer.address
      ? {
          carrier2: upper(payer.address.line1),
          carrier3: upper(
            payer.address.line2 || `${payer.address.city} ${payer.address.state} ${payer.address.zip}`,
          ),
          carrier4: payer.address.line2
            ? upper(`${payer.address.city} ${payer.address.state} ${payer.address.zip}`)
            : '',
        }
      : {}),
  };
  return pagesOf(claim, continued).map((page) => {
    const said: Said = { ...carrier, ...people(claim), ...care(claim), ...us(claim, page, today) };
    return [
      ...(Object.entries(said) as [Box, string][]).flatMap(([box, text]) =>
        text ? [at(box, BOXES[box], text, box === '28' || box === '29' ? true : undefined)] : [],
      ),
      ...squares(claim).map((square) => at(square, [...SQUARES[square], 1], 'X')),
      ...diagnoses(claim),
      ...page.lines.flatMap((line, index) => service(claim, line, index)),
    ];
  });
}

/** A test page: a mark in every box, which says the box, so that offsets are found before a form is spoiled. */
export const testMarks = (): Mark[] => [
  ...(Object.entries(BOXES) as [string, Place][]).map(([box, place]) =>
    at(box, place, box.replace(/\..*$/, '').slice(0, place[2])),
  ),
  ...Object.entries(SQUARES).map(([square, place]) => at(square, [...place, 1], 'X')),
  ...Array.from({ length: FORM_LINES }, (_, index) =>
    Object.entries(SERVICE)
      .filter(([box]) => box !== '24.drug')
      .map(([box, [shift, column, letters]]) =>
        at(`${box}.${index + 1}`, [FIRST_SERVICE + index * 2 + shift, column, letters], 'X'.repeat(letters)),
      ),
  ).flat(),
];
