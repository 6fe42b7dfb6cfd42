/** Generators of claims, decisions and acknowledgments for property tests: any that the models allow. */
import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../core/calendar';
import type {
  ClaimContent,
  ClaimForm,
  ClaimReference,
  ClaimLineContent,
  OtherPayer,
} from '../core/claims/content';
import { cents, sum } from '../core/money';
import type { ClaimAcknowledgments, ImplementationAcknowledgment } from '../core/x12/acknowledgments';
import { type Adjustment, GROUP_CODES } from '../core/x12/adjustments';
import type { RemitClaim } from '../core/x12/remittance835';
import { sampleClaim } from '../core/x12/samples';

const money = fc.integer({ min: 0, max: 500_000 }).map(cents);
const day = fc.integer({ min: 0, max: 800 }).map((days) => addDays(calendarDate('2025-01-01'), days));

/** Words as they stand on forms: letters of several alphabets, apostrophes, up to 60 characters. */
const words = fc.oneof(
  fc.constantFrom('Marchetti', 'O’Rourke', "O'Neil", 'Zsófia', 'A'.repeat(60), 'Mbeki-Larsson', 'de la Cruz'),
  fc.stringMatching(/^[A-Za-z][A-Za-z' .-]{0,40}[A-Za-z]$/),
);
const orNothing = <T>(some: fc.Arbitrary<T>, nothing: T): fc.Arbitrary<T> =>
  fc.oneof(some, fc.constant(nothing));
const digits = (length: number): fc.Arbitrary<string> => fc.stringMatching(new RegExp(`^\\d{${length}}$`));
const address = fc.record({
  line1: words,
  line2: orNothing(words, ''),
  city: words,
  state: fc.constantFrom('WA', 'NY'),
  zip: fc.oneof(digits(5), digits(9)),
});
const person = fc.record({
  last: words,
  first: words,
  middle: orNothing(words, ''),
  suffix: orNothing(fc.constantFrom('JR', 'III'), ''),
  birthDate: day,
  sex: fc.constantFrom('F', 'M', 'U'),
  address,
});
const provider = fc.record({ last: words, first: words, npi: digits(10), taxonomy: digits(10) });

function claimLine(form: ClaimForm, diagnoses: number): fc.Arbitrary<Omit<ClaimLineContent, 'number'>> {
  const dental = form === 'dental';
  const pointer = fc.integer({ min: 1, max: Math.max(diagnoses, 1) });
  return fc
    .record({
      code: dental ? fc.constantFrom('D0120', 'D2392') : fc.constantFrom('99213', '87880', 'J1885'),
      modifiers: fc.constantFrom<string[]>([], ['25'], ['25', 'GP', '59', 'LT']),
      charge: money,
      units: fc.integer({ min: 1, max: 999 }),
      pointers:
        diagnoses === 0 ? fc.constant<number[]>([]) : fc.uniqueArray(pointer, { minLength: 1, maxLength: 4 }),
      date: day,
      ...(dental
        ? {
            tooth: orNothing(fc.constantFrom('1', '32', 'A', 'T'), ''),
            surfaces: fc.constantFrom('', 'O', 'MOD'),
            area: orNothing(fc.constantFrom('10', '40'), ''),
            prosthesis: fc.constantFrom('' as const, 'I' as const, 'R' as const),
            priorPlacement: fc.option(day),
          }
        : {
            tooth: fc.constant(''),
            surfaces: fc.constant(''),
            area: fc.constant(''),
            prosthesis: fc.constant('' as const),
            priorPlacement: fc.constant(null),
            drug: fc.option(
              fc.record({
                ndc: digits(11),
                thousandths: fc.integer({ min: 1, max: 9_999_999 }),
                measure: fc.constantFrom(
                  'F2' as const,
                  'GR' as const,
                  'ME' as const,
                  'ML' as const,
                  'UN' as const,
                ),
              }),
              { nil: undefined },
            ),
          }),
      tax: fc.option(money, { nil: undefined }),
      control: fc.stringMatching(/^L\d{1,9}$/),
    })
    .map((line) => (line.tooth === '' ? { ...line, surfaces: '' } : line));
}

const UNSAID = {
  birthDate: '' as CalendarDate,
  sex: 'U' as const,
  address: { line1: '', line2: '', city: '', state: '', zip: '' },
};

const adjustments: fc.Arbitrary<Adjustment[]> = fc
  .array(
    fc.record(
      {
        group: fc.constantFrom(...GROUP_CODES),
        reason: fc.constantFrom('1', '2', '3', '45', '97', 'A2'),
        amount: fc
          .integer({ min: -9000, max: 9000 })
          .filter((n) => n !== 0)
          .map(cents),
        quantity: fc.constantFrom(1, 2, 0.5, -1),
      },
      { requiredKeys: ['group', 'reason', 'amount'] },
    ),
    { maxLength: 9 },
  )
  // They are written group by group.
  .map((list) => GROUP_CODES.flatMap((group) => list.filter((item) => item.group === group)));

/** What another payer is, and has decided of some lines of a claim or of all of it at once. */
const otherPayer = fc.record({
  filingCode: fc.constantFrom('CI', 'BL', 'MB'),
  secondaryType: fc.option(fc.constantFrom('12', '47'), { nil: undefined }),
  name: words,
  subscriber: fc.record({
    last: words,
    first: words,
    middle: orNothing(words, ''),
    suffix: orNothing(words, ''),
    memberId: digits(9),
  }),
  group: fc.oneof(
    fc.record({ groupNumber: digits(6), planName: fc.constant('') }),
    fc.record({ groupNumber: fc.constant(''), planName: orNothing(words, '') }),
  ),
  relationship: fc.constantFrom('self' as const, 'spouse' as const, 'child' as const, 'other' as const),
  assignment: fc.option(
    fc
      .record({ benefits: fc.boolean(), signed: fc.boolean() })
      .filter(({ benefits, signed }) => !benefits || !signed),
    { nil: undefined },
  ),
  numbers: fc.option(
    fc
      .record(
        {
          referring: fc.record({ qualifier: fc.constantFrom('G2', '0B', '1G'), id: digits(7) }),
          rendering: fc.record({ qualifier: fc.constantFrom('G2', 'LU'), id: digits(7) }),
          billing: fc.record({ qualifier: fc.constantFrom('G2', 'LU'), id: digits(7) }),
        },
        { requiredKeys: [] },
      )
      .filter((numbers) => Object.keys(numbers).length > 0),
    { nil: undefined },
  ),
  decided: fc.option(
    fc.record({
      paid: money,
      date: fc.option(day),
      payerClaimNumber: orNothing(digits(9), ''),
      adjustments,
      remarks: fc.constantFrom([], ['N30'], ['N30', 'M15']),
      lines: fc.array(
        fc.record({
          code: fc.constantFrom('99213', 'D0120'),
          modifiers: fc.constantFrom([], ['25'], ['25', 'GP']),
          paid: money,
          units: fc.constantFrom(1, 2, 0.5),
          bundledInto: fc.option(fc.integer({ min: 1, max: 50 }), { nil: undefined }),
          // A line that was split has more than one.
          again: fc.boolean(),
          adjustments,
        }),
        { maxLength: 6 },
      ),
    }),
    { nil: undefined },
  ),
});
const otherPayers = (lines: number): fc.Arbitrary<OtherPayer[] | undefined> =>
  fc.option(fc.array(otherPayer, { minLength: 1, maxLength: 2 }), { nil: undefined }).map((others) =>
    others?.map(({ name, subscriber, group, decided, ...other }, index) => ({
      ...other,
      coverageOrder: index + 1,
      payer: { name, payerId: `9000${index}` },
      subscriber: { ...subscriber, ...group },
      ...(decided
        ? {
            decided: {
              ...decided,
              lines: decided.lines
                .slice(0, lines)
                .flatMap(({ again, ...line }, at) =>
                  Array.from({ length: again ? 2 : 1 }, () => ({ ...line, number: at + 1 })),
                ),
            },
          }
        : {}),
    })),
  ) as fc.Arbitrary<OtherPayer[] | undefined>;

const references = (...qualifiers: string[]): fc.Arbitrary<ClaimReference[] | undefined> =>
  fc.option(
    fc.array(fc.record({ qualifier: fc.constantFrom(...qualifiers), id: digits(7) }), {
      minLength: 1,
      maxLength: 2,
    }),
    { nil: undefined },
  );

/** Any claim of one form that the model allows; its total is the sum of its lines. */
export function anyClaim(form: ClaimForm): fc.Arbitrary<ClaimContent> {
  const sample = sampleClaim(form);
  return fc
    .uniqueArray(fc.constantFrom('I10', 'J06.9', 'K02.9', 'E11.65', 'S52.501A'), {
      minLength: form === 'dental' ? 0 : 1,
      maxLength: 5,
    })
    .chain((diagnoses) =>
      fc
        .record({
          controlNumber: fc.stringMatching(/^OL\d{6}[A-Z]$/),
          frequency: fc.constantFrom('1', '7', '8'),
          payerClaimNumber: fc.option(digits(12), { nil: undefined }),
          placeOfService: fc.constantFrom('11', '02', '22'),
          billing: fc.oneof(
            fc.record({
              organization: words,
              npi: digits(10),
              address,
              references: references('0B', '1G'),
            }),
            fc.record({ last: words, first: words, npi: digits(10), address }),
          ),
          payer: fc.record({
            name: words,
            payerId: digits(5),
            address: fc.option(address, { nil: undefined }),
            references: references('2U', 'EI', 'FY', 'NF', 'G2', 'LU'),
          }),
          payTo: fc.option(address, { nil: undefined }),
          secondaryType: fc.option(fc.constantFrom('12', '43'), { nil: undefined }),
          patientPaid: fc.option(fc.integer({ min: 1, max: 9000 }).map(cents), { nil: undefined }),
          delayReason: fc.option(fc.constantFrom('1', '11', '15'), { nil: undefined }),
          assignment: fc.option(
            fc
              .record({ accepted: fc.boolean(), benefits: fc.boolean(), signed: fc.boolean() })
              .filter((all) => Object.values(all).includes(false)),
            { nil: undefined },
          ),
          employer: fc.boolean(),
          casualtyNumber: fc.option(digits(9), { nil: undefined }),
          subscriber: person,
          memberId: fc.stringMatching(/^[A-Z0-9]{3,20}$/),
          group: fc.oneof(
            fc.record({ groupNumber: digits(6), planName: fc.constant('') }),
            fc.record({ groupNumber: fc.constant(''), planName: orNothing(words, '') }),
          ),
          patient: person,
          relationship: fc.constantFrom('self', 'spouse', 'child', 'other'),
          coverageOrder: fc.constantFrom(1, 2, 3),
          rendering: fc.option(
            fc
              .tuple(provider, references('G2', '0B', '1G', 'LU'))
              .map(([who, numbers]) => ({ ...who, references: numbers })),
            { nil: undefined },
          ),
          facility: fc.option(fc.record({ name: words, address }), { nil: undefined }),
          referring: fc.option(
            fc
              .tuple(
                provider,
                references('G2', '0B', '1G'),
                // A dental claim has no place for who ordered.
                form === 'dental'
                  ? fc.constantFrom(undefined, 'DQ' as const)
                  : fc.constantFrom(undefined, 'DK' as const, 'DQ' as const),
              )
              .map(([{ taxonomy: _, ...who }, numbers, role]) => ({
                ...who,
                references: numbers,
                ...(role ? { role } : {}),
              })),
            { nil: undefined },
          ),
          accident: fc.option(
            fc.record({
              kind: fc.constantFrom('AA', 'EM', 'OA'),
              date: day,
              state: fc.constantFrom('WA', 'NY'),
            }),
            { nil: undefined },
          ),
          dates:
            form === 'dental'
              ? fc.constant(undefined)
              : fc.option(
                  fc
                    .record(
                      {
                        onset: day,
                        firstTreated: day,
                        acute: day,
                        lastSeen: day,
                        firstContact: day,
                        disabledFrom: day,
                        disabledTo: day,
                        admitted: day,
                        released: day,
                      },
                      { requiredKeys: [] },
                    )
                    .filter((dates) => Object.keys(dates).length > 0),
                  { nil: undefined },
                ),
          clia:
            form === 'dental'
              ? fc.constant(undefined)
              : fc.option(fc.stringMatching(/^\d{2}D\d{7}$/), { nil: undefined }),
          lostTeeth:
            form === 'dental'
              ? fc.option(fc.uniqueArray(fc.constantFrom('1', '17', '32', 'T'), { minLength: 1 }), {
                  nil: undefined,
                })
              : fc.constant(undefined),
          authorizationNumber: fc.option(digits(8), { nil: undefined }),
          referralNumber: fc.option(digits(7), { nil: undefined }),
          note: fc.option(words, { nil: undefined }),
          attachments: fc.option(
            fc.array(
              fc.record({
                type: fc.constantFrom('B4', 'OZ', 'RB'),
                by: fc.constantFrom('BM', 'EL', 'FX'),
                control: orNothing(digits(6), ''),
              }),
              { minLength: 1, maxLength: 3 },
            ),
            { nil: undefined },
          ),
          lines: fc.array(claimLine(form, diagnoses.length), { minLength: 1, maxLength: 6 }),
        })
        .chain((claim) =>
          otherPayers(claim.lines.length).map((others) => ({ ...claim, otherPayers: others })),
        )
        .map(({ memberId, group, accident, employer, casualtyNumber, secondaryType, payTo, ...claim }) => ({
          ...sample,
          ...claim,
          diagnoses,
          billing: { ...sample.billing, organization: undefined, ...claim.billing, payTo },
          // Of a subscriber who is not the patient a file says the name alone.
          subscriber: {
            ...(claim.relationship === 'self' ? claim.subscriber : { ...claim.subscriber, ...UNSAID }),
            memberId,
            ...group,
            ...(casualtyNumber ? { casualtyNumber } : {}),
            ...(secondaryType ? { secondaryType } : {}),
            ...(employer && claim.relationship === 'other'
              ? { organization: true, first: '', middle: '', suffix: '' }
              : {}),
          },
          patient: claim.relationship === 'self' ? claim.subscriber : claim.patient,
          // Only an automobile accident has a state.
          accident: accident && { ...accident, state: accident.kind === 'AA' ? accident.state : '' },
          lines: claim.lines.map((line, index) => ({ ...line, number: index + 1 })),
          total: sum(claim.lines.map((line) => line.charge)),
        })),
    ) as fc.Arbitrary<ClaimContent>;
}

/** Any decided claim that the model allows; it need not balance. */
export const anyRemitClaim: fc.Arbitrary<RemitClaim> = fc.record({
  controlNumber: fc.stringMatching(/^OL\d{6}[A-Z]$/),
  status: fc.constantFrom('1', '2', '4', '22'),
  charge: money,
  paid: money,
  patientResponsibility: money,
  payerClaimNumber: fc.stringMatching(/^[A-Z]\d{0,12}$/),
  adjustments,
  patient: fc.record({ last: words, first: words, memberId: fc.constantFrom('', 'CSH1') }),
  crossover: fc.option(fc.record({ name: words, id: orNothing(digits(5), '') }), { nil: undefined }),
  date: fc.option(day),
  remarks: fc.constantFrom([], ['N30'], ['N30', 'M15']),
  lines: fc.array(
    fc.record({
      code: fc.constantFrom('99213', 'D0120'),
      billed: fc.constantFrom('', '99214'),
      modifiers: fc.constantFrom([], ['25'], ['25', 'GP']),
      charge: money,
      paid: money,
      units: fc.integer({ min: 1, max: 99 }),
      date: fc.option(day),
      adjustments,
      lineControl: fc.constantFrom('', 'L77'),
      allowed: fc.option(money),
      remarks: fc.constantFrom([], ['N130']),
    }),
    { maxLength: 4 },
  ),
});

/** Any answers to the sets of a group. */
export const anyAcknowledgedSets: fc.Arbitrary<ImplementationAcknowledgment['sets']> = fc.array(
  fc.record({
    setId: fc.constant('837'),
    controlNumber: digits(4),
    code: fc.constantFrom('A', 'E', 'R'),
    faults: fc.array(
      fc.oneof(
        fc.record({
          segment: fc.constantFrom('CLM', 'NM1', 'SV1'),
          position: fc.integer({ min: 1, max: 99_999 }),
          code: fc.constantFrom('3', '8', 'I9'),
        }),
        fc.record({
          segment: fc.constantFrom('CLM', 'NM1', 'SV1'),
          position: fc.integer({ min: 1, max: 99_999 }),
          code: fc.constant('8'),
          element: fc.record({
            number: fc.constantFrom('1', '2', '9'),
            code: fc.constantFrom('1', '7'),
            value: fc.constantFrom('X', '782', ''),
          }),
        }),
      ),
      { maxLength: 3 },
    ),
  }),
  { maxLength: 6 },
);

const status = fc.record({
  category: fc.constantFrom('A1', 'A2', 'A3', 'A7'),
  status: fc.constantFrom('20', '164', '562'),
  entity: fc.constantFrom('', 'PR', 'IL', '85'),
  text: fc.constant(''),
});

/** Any answers to the claims of a transmission. */
export const anyClaimAcknowledgments: fc.Arbitrary<ClaimAcknowledgments> = fc.record({
  batch: digits(6),
  date: day,
  source: words,
  whole: fc.constant([]),
  claims: fc.array(
    fc.record({
      controlNumber: fc.stringMatching(/^OL\d{6}[A-Z]$/),
      action: fc.constantFrom('WQ', 'U'),
      statuses: fc
        .tuple(fc.array(status, { minLength: 1, maxLength: 3 }), orNothing(words, ''))
        .map(([list, text]) => list.map((item, index) => (index === 0 ? { ...item, text } : item))),
      amount: money,
      payerClaimNumber: orNothing(digits(9), ''),
    }),
    { maxLength: 5 },
  ),
});
