/** Each claim rule at its edge: what just passes, what just does not, and the words of what was found. */
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { sampleClaim, sampleContext } from '../x12/samples';
import { type BillableCharge, groupCharges } from './build';
import type { ClaimContent } from './content';
import {
  claimInput,
  freeInput,
  holdInput,
  recheckInput,
  replaceInput,
  sendInput,
  withdrawInput,
} from './input';
import { isNpi } from './npi';
import type { CheckContext } from './rule';
import { checkClaim, maySend } from './rules';

const TODAY = calendarDate('2026-03-16');
const day = calendarDate;
const context = (more: Partial<CheckContext> = {}): CheckContext =>
  sampleContext({
    diagnoses: new Map(
      ['I10', 'J06.9', 'K02.9', ...Array.from({ length: 14 }, (_, n) => `Z${n}`)].map((code) => [
        code,
        { from: null, to: null },
      ]),
    ),
    ...more,
  });
type Change = (claim: ClaimContent) => void;
/** Which findings of a rule a changed claim has, in words. */
const said = (
  rule: string,
  change: Change,
  more: Partial<CheckContext> = {},
  form: 'professional' | 'dental' = 'professional',
): string[] => {
  const claim = sampleClaim(form);
  change(claim);
  return checkClaim(claim, context(more))
    .filter((finding) => finding.rule === rule)
    .map(({ words }) => words);
};
const nothing: Change = () => undefined;
const line =
  (more: Partial<ClaimContent['lines'][number]>, at = 0): Change =>
  (c) =>
    (c.lines[at] = { ...c.lines[at]!, ...more });

describe('forms of what stands on a claim', () => {
  const forms: [string, (value: string) => Change, string[], string[]][] = [
    [
      'payer-id',
      (value) => (c) => (c.payer = { ...c.payer, payerId: value }),
      ['CS', 'A'.repeat(80), '60054'],
      ['', 'C', 'A'.repeat(81), '-CSH01', 'CSH01-', 'CS H'],
    ],
    [
      'filing-code',
      (value) => (c) => (c.filingCode = value),
      ['C', 'CI', '11', 'MB'],
      ['', 'CIX', 'ci', '-C', 'C-'],
    ],
    [
      'billing-tax-id',
      (value) => (c) => (c.billing = { ...c.billing, taxId: value }),
      ['915550101', '91-5550101', '123456789', '123-45-6789', '12345-6789', '123-456789'],
      [
        '91-555010',
        '91-55501011',
        'x91-5550101',
        '91-5550101x',
        '9-5550101',
        'AB-5550101',
        '91-555010A',
        '1123-45-6789',
        '123-45-67890',
        '12-45-6789',
        'A23-45-6789',
        '123-4-6789',
        '123-A5-6789',
        '123-45-678',
        '123-45-678A',
        '',
      ],
    ],
    [
      'billing-taxonomy',
      (value) => (c) => (c.billing = { ...c.billing, taxonomy: value }),
      ['261QM1300X', '207Q00000X'],
      ['', 'x261QM1300X', '261QM1300XX', '261QM1300', '2A1QM1300X'],
    ],
    [
      'rendering-taxonomy',
      (value) => (c) => (c.rendering = { ...c.rendering!, taxonomy: value }),
      ['207Q00000X'],
      ['', '1207Q00000X', '207Q00000XX'],
    ],
    [
      'billing-address',
      (value) => (c) => (c.billing = { ...c.billing, address: { ...c.billing.address, line1: value } }),
      ['12 Harbor Street', 'Boxwood Lane 3', '7 Lockport Box Street', 'Pomona Oboxer 1'],
      [
        '',
        'PO Box 7',
        'P.O. Box 7',
        'P. O. Box 7',
        'p.o.box 7',
        'POBOX 7',
        'P O   Box 7',
        'Lock Box 4',
        'Lockbox 4',
        'Lock   box 4',
        'Suite 2, PO Box 1',
      ],
    ],
    [
      'billing-zip',
      (value) => (c) => (c.billing = { ...c.billing, address: { ...c.billing.address, zip: value } }),
      ['981990001', '98199-0001'],
      ['98199', '1981990001', '9819900012', '98199-000'],
    ],
    [
      'place-of-service',
      (value) => (c) => (c.placeOfService = value),
      ['11', '02'],
      ['', '1', '111', 'A11', '1A'],
    ],
    [
      'patient-zip',
      (value) => (c) => (c.patient = { ...c.patient, address: { ...c.patient.address, zip: value } }),
      ['98199', '98199-0001', '981990001'],
      ['9819', '198199-0001x', 'x98199', '98199x', '98199-00'],
    ],
    [
      'member-id-form',
      (value) => (c) => (c.subscriber = { ...c.subscriber, memberId: value }),
      ['A1', 'CSH-1000011', 'A'.repeat(80)],
      ['A', 'A'.repeat(81), '*AB', 'AB*', 'A B'],
    ],
    [
      'service-code',
      (code) => line({ code }),
      ['99213', 'G0439', '0001A', 'A0428'],
      ['9921', '199213', '992133', '9921-', 'D21'],
    ],
    ['modifiers', (mod) => line({ modifiers: [mod] }), ['25', 'LT', 'A1'], ['2', '255', 'X25', '25X', 'l1']],
  ];
  test.each(forms)('%s', (rule, change, good, bad) => {
    for (const value of good) expect([value, said(rule, change(value))]).toEqual([value, []]);
    for (const value of bad) expect([value, said(rule, change(value)).length]).toEqual([value, 1]);
  });

  test('of a dental claim: the code and the surfaces', () => {
    const dental = (rule: string, more: Parameters<typeof line>[0]) => said(rule, line(more), {}, 'dental');
    for (const code of ['D2392', 'D0120']) expect(dental('service-code', { code })).toEqual([]);
    for (const code of ['2392', 'XD2392', 'D23921', 'D239'])
      expect(dental('service-code', { code })).toEqual([
        `${code} does not look like a dental procedure code`,
      ]);
    for (const surfaces of ['M', 'MODBL']) expect(dental('surface', { surfaces })).toEqual([]);
    for (const surfaces of ['', 'MODBLF', 'XM', 'MX', 'mo'])
      expect(dental('surface', { surfaces })).toHaveLength(1);
    // A professional claim asks for neither, though its table of services says so.
    const professional = { services: new Map([['99213', { needsTooth: true, needsSurface: true }]]) };
    expect(said('tooth', nothing, professional)).toEqual([]);
    expect(said('surface', line({ surfaces: 'XX' }), professional)).toEqual([]);
  });

  test('an electronic payer needs its id and a connection, one on paper its address, one on hold neither', () => {
    const none: Change = (c) => (c.payer = { ...c.payer, payerId: '' });
    expect(said('payer-id', none, { payerAccepts: 'paper' })).toEqual([]);
    expect(said('payer-connection', nothing, { payerAccepts: 'paper', hasConnection: false })).toEqual([]);
    expect(said('payer-hold', nothing)).toEqual([]);
    expect(said('payer-hold', nothing, { payerAccepts: 'paper' })).toEqual([]);
    expect(said('payer-address', nothing, { payerAccepts: 'paper' })[0]).toMatch(/no address/);
    expect(said('payer-hold', nothing, { payerAccepts: 'hold' })).toEqual([
      'Claims to this payer are on hold',
    ]);
  });

  test('an NPI that fails its check digit is named; without one the words still stand', () => {
    expect(said('billing-npi', (c) => (c.billing = { ...c.billing, npi: '1234567890' }))).toEqual([
      'The billing NPI 1234567890 does not pass its check digit',
    ]);
    expect(said('billing-npi', (c) => (c.billing = { ...c.billing, npi: '' }))[0]).toMatch(
      /^The billing NPI\s+does/,
    );
    expect(said('rendering-npi', (c) => (c.rendering = { ...c.rendering!, npi: '1234567890' }))).toEqual([
      'The rendering provider’s NPI 1234567890 does not pass its check digit',
    ]);
    // Whoever bills by themselves renders it too: nothing is asked of one who is not named.
    const alone: Change = (c) => (c.rendering = null as never);
    expect(() => said('rendering-npi', alone)).not.toThrow();
    expect(() => said('rendering-taxonomy', alone)).not.toThrow();
    expect([isNpi('12345678931'), isNpi('3234567893'), isNpi('1234567893')]).toEqual([false, false, true]);
  });
});

describe('amounts, dates and limits at their edge', () => {
  const names =
    (last: number, first: number): Change =>
    (c) =>
      (c.patient = { ...c.patient, last: 'L'.repeat(last), first: 'F'.repeat(first) });
  test('names of 60 and 35 letters, whoever has them', () => {
    expect(said('name-length', names(60, 35))).toEqual([]);
    expect(said('name-length', names(61, 35))).toHaveLength(1);
    expect(said('name-length', names(60, 36))).toHaveLength(1);
    expect(
      said('name-length', (c) => (c.subscriber = { ...c.subscriber, first: 'F'.repeat(36) })),
    ).toHaveLength(1);
  });

  test('born today, and on the day of the service; one service before it is enough', () => {
    const born =
      (text: string): Change =>
      (c) =>
        (c.patient = { ...c.patient, birthDate: day(text) });
    expect(said('patient-birth', born('2026-03-16'))).toEqual([]);
    expect(said('patient-birth', born('2026-03-17'))).toHaveLength(1);
    expect(said('birth-before-service', born('2026-03-09'))).toEqual([]);
    expect(said('birth-before-service', born('2026-03-10'))).toHaveLength(1);
    expect(
      said('birth-before-service', (c) => {
        born('2026-03-09')(c);
        line({ date: day('2026-03-08') }, 1)(c);
      }),
    ).toHaveLength(1);
  });

  test('coverage in force from and to the very day', () => {
    const dates = (coverageFrom: string | null, coverageTo: string | null) =>
      said('coverage-dates', nothing, {
        coverageFrom: coverageFrom && day(coverageFrom),
        coverageTo: coverageTo && day(coverageTo),
      } as never).length;
    expect(dates('2026-03-09', '2026-03-09')).toBe(0);
    expect(dates('2026-03-10', null)).toBe(2);
    expect(dates(null, '2026-03-08')).toBe(2);
    expect(dates(null, null)).toBe(0);
    expect(dates('2026-01-01', null)).toBe(0);
    expect(dates(null, '2026-12-31')).toBe(0);
  });

  test('fifty lines, twelve diagnoses and four, four pointers, four modifiers, 999 units', () => {
    const lines =
      (count: number): Change =>
      (c) => {
        c.lines = Array.from({ length: count }, (_, n) => ({ ...c.lines[0]!, number: n + 1 }));
        c.total = cents(count * c.lines[0]!.charge);
      };
    expect(said('line-limit', lines(50))).toEqual([]);
    expect(said('line-limit', lines(51))).toHaveLength(1);
    const codes =
      (count: number): Change =>
      (c) =>
        (c.diagnoses = Array.from({ length: count }, (_, n) => `Z${n}`));
    expect(said('diagnosis-limit', codes(12))).toEqual([]);
    expect(said('diagnosis-limit', codes(13))).toHaveLength(1);
    expect(said('diagnosis-limit', codes(4), {}, 'dental')).toEqual([]);
    const pointers = (list: number[]): Change => line({ pointers: list });
    expect(said('pointer-valid', pointers([1, 2, 1, 2]))).toEqual([]);
    expect(said('pointer-valid', pointers([1, 2, 1, 2, 1]))).toHaveLength(1);
    expect(said('pointer-valid', pointers([0]))).toHaveLength(1);
    expect(said('modifiers', line({ modifiers: ['25', '59', 'LT', 'RT'] }))).toEqual([]);
    expect(said('modifiers', line({ modifiers: ['25', '59', 'LT', 'RT', 'A1'] }))).toHaveLength(1);
    expect(said('units', line({ units: 999 }))).toEqual([]);
    for (const units of [0, 1.5, 1000]) expect(said('units', line({ units }))).toHaveLength(1);
    // Lines of a dental claim may point to nothing.
    expect(said('line-pointer', line({ pointers: [] }), {}, 'dental')).toEqual([]);
    expect(said('diagnosis-present', (c) => (c.diagnoses = []), {}, 'dental')).toEqual([]);
  });

  test('a diagnosis from and to the very day; one that is in no list, and one where nothing has a day', () => {
    const known = (from: string | null, to: string | null): Partial<CheckContext> => ({
      diagnoses: new Map([
        ['I10', { from: from && day(from), to: to && day(to) } as never],
        ['J06.9', { from: null, to: null }],
      ]),
    });
    expect(said('diagnosis-valid', nothing, known('2026-03-09', '2026-03-09'))).toEqual([]);
    expect(said('diagnosis-valid', nothing, known('2026-03-10', null))).toEqual([
      'Diagnosis I10 is not valid on 2026-03-09',
    ]);
    expect(said('diagnosis-valid', nothing, known(null, '2026-03-08'))).toHaveLength(1);
    expect(said('diagnosis-valid', nothing, known(null, null))).toEqual([]);
    expect(said('diagnosis-valid', (c) => (c.diagnoses = ['X99']))).toEqual([
      'Diagnosis X99 is not in the code list',
    ]);
    expect(said('diagnosis-valid', (c) => (c.lines = []), known('2026-03-10', null))).toEqual([]);
  });

  test('a service today, an accident on the day of the service, a prosthesis placed the day before', () => {
    expect(said('line-date', line({ date: TODAY }))).toEqual([]);
    expect(said('line-date', line({ date: day('2026-03-17') }))).toEqual(['99213 is dated in the future']);
    const accident =
      (date: string | null): Change =>
      (c) =>
        (c.accident = { kind: 'EM', date: date === null ? null : day(date), state: '' });
    expect(said('accident-date', accident('2026-03-09'))).toEqual([]);
    expect(said('accident-date', accident('2026-03-10'))).toHaveLength(1);
    expect(said('accident-date', accident(null))).toHaveLength(1);
    expect(
      said('accident-date', (c) => {
        accident('2026-03-09')(c);
        line({ date: day('2026-03-08') }, 1)(c);
      }),
    ).toHaveLength(1);
    const placed = (prosthesis: '' | 'I' | 'R', priorPlacement: string | null) =>
      said(
        'prior-placement',
        line({ prosthesis, priorPlacement: priorPlacement === null ? null : day(priorPlacement) }),
        {},
        'dental',
      );
    expect(placed('R', '2026-03-08')).toEqual([]);
    expect(placed('R', '2026-03-09')[0]).toMatch(/which is not before 2026-03-09/);
    expect(placed('R', null)).toEqual(['D2392 replaces a prosthesis: when was that placed?']);
    expect(placed('I', null)).toEqual([]);
    expect(placed('', null)).toEqual([]);
  });

  test('the filing limit: past the day after, near from fourteen days to the day itself', () => {
    // The services are of seven days ago.
    const past = (timelyFilingDays: number) =>
      said('timely-filing-past', nothing, { timelyFilingDays }).length;
    expect([past(7), past(6)]).toEqual([0, 2]);
    const near = (timelyFilingDays: number) => said('timely-filing-near', nothing, { timelyFilingDays });
    expect(near(22)).toEqual([]);
    expect(near(21)[0]).toBe('Only 14 days are left to file 2026-03-09');
    expect(near(7)[0]).toBe('Only 0 days are left to file 2026-03-09');
    expect(near(6)).toEqual([]);
    const correction: Change = (c) => ((c.frequency = '7'), (c.payerClaimNumber = 'P1'));
    const late = (timelyFilingDays: number) =>
      said('timely-filing-correction', correction, { timelyFilingDays }).length;
    expect([late(7), late(6)]).toEqual([0, 2]);
    expect(said('timely-filing-past', correction, { timelyFilingDays: 6 })).toEqual([]);
    expect(said('timely-filing-correction', nothing, { timelyFilingDays: 6 })).toEqual([]);
  });

  test('who renders fits the form, where a person and their kind are known', () => {
    const who =
      (more: Record<string, string>): Change =>
      (c) =>
        (c.rendering = { ...c.rendering!, ...more });
    expect(said('provider-kind', who({ taxonomy: '1223G0001X' }))).toEqual([
      'Ngozi Okafor renders dental services, and this claim is professional',
    ]);
    expect(said('provider-kind', who({ taxonomy: '1223G0001X', last: '' }))).toEqual([]);
    expect(said('provider-kind', who({ taxonomy: '' }))).toEqual([]);
  });
});

describe('findings and what follows from them', () => {
  test('each says its line where it is about one, and one stop among warnings stops', () => {
    const claim = sampleClaim();
    line({ units: 0 }, 1)(claim);
    claim.patient = { ...claim.patient, sex: 'U' };
    const findings = checkClaim(claim, context());
    expect(findings.find(({ rule }) => rule === 'units')).toMatchObject({
      line: 2,
      words: '87880 has 0 units',
    });
    expect(findings.find(({ rule }) => rule === 'patient-sex')).not.toHaveProperty('line');
    expect(findings.map(({ severity }) => severity).sort()).toEqual(['stop', 'warn']);
    expect(maySend(findings)).toBe(false);
    expect(maySend(findings.filter(({ severity }) => severity === 'warn'))).toBe(true);
    expect(maySend([])).toBe(true);
  });

  test('charges are grouped by day, in the order in which they were entered, whatever order they come in', () => {
    const base: BillableCharge = {
      id: 1,
      form: 'professional',
      patientId: 1,
      caseId: 1,
      coverageId: 1,
      after: null,
      billing: 'g',
      locationId: 1,
      renderingId: 1,
      date: TODAY,
      diagnoses: [],
    };
    const early = day('2026-03-01');
    const given = [
      { ...base, id: 5 },
      { ...base, id: 9, date: early, diagnoses: ['I10'] },
      { ...base, id: 2 },
      { ...base, id: 3, date: early, diagnoses: ['J06.9', 'I10'] },
    ];
    const groups = groupCharges(given);
    expect(groups.map(({ charges }) => charges.map(({ id }) => id))).toEqual([
      [3, 9],
      [2, 5],
    ]);
    expect(groups[0]!.diagnoses).toEqual(['J06.9', 'I10']);
    expect(given.map(({ id }) => id)).toEqual([5, 9, 2, 3]);
  });

  test('what the forms of claims may send', () => {
    expect(sendInput.parse({})).toMatchObject({ ready: false });
    const ids = (count: number): number[] => Array.from({ length: count }, (_, n) => n + 1);
    expect(sendInput.safeParse({ claimIds: ids(2000) }).success).toBe(true);
    expect(sendInput.safeParse({ claimIds: ids(2001) }).success).toBe(false);
    expect(sendInput.safeParse({ claimIds: [1] }).success).toBe(true);
    for (const [input, good] of [
      [claimInput, { claimId: 1 }],
      [holdInput, { claimId: 1, why: 'x' }],
      [withdrawInput, { claimId: 1, why: 'x' }],
      [replaceInput, { claimId: 1, as: '7', payerClaimNumber: 'P1', why: 'x' }],
      [freeInput, { claimId: 1, why: 'x' }],
    ] as const) {
      expect(input.safeParse(good).success).toBe(true);
      expect(input.safeParse({}).success).toBe(false);
      expect(input.safeParse({ ...good, claimId: 'one' }).success).toBe(false);
    }
    expect(replaceInput.safeParse({ claimId: 1, as: '2', payerClaimNumber: 'P1', why: 'x' }).success).toBe(
      false,
    );
    expect(recheckInput.parse({ householdId: '4' })).toEqual({ householdId: 4 });
  });
});
