import { readFileSync } from 'node:fs';
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { sampleClaim, sampleContext } from '../x12/samples';
import { type BillableCharge, groupCharges } from './build';
import type { ClaimContent } from './content';
import type { CheckContext } from './rule';
import { CLAIM_NEED_NAMES, type ClaimNeed } from './needs';
import { OPEN_RULES, RULES, checkClaim, maySend, rulesPage } from './rules';

const context = sampleContext;
type Change = (claim: ClaimContent) => void;

const FACILITY = {
  name: 'Mill Lane',
  address: { line1: '4 Mill Lane', line2: '', city: 'Osprey Landing', state: 'WA', zip: '98199-0002' },
};
/** A payer that comes first. */
const BEFORE = {
  coverageOrder: 1,
  filingCode: 'CI',
  payer: { name: 'Cedar', payerId: '90001' },
  subscriber: {
    last: 'A',
    first: 'B',
    middle: '',
    suffix: '',
    memberId: 'C1',
    groupNumber: '',
    planName: '',
  },
  relationship: 'self' as const,
};
const DECIDED = { date: calendarDate('2026-03-12'), payerClaimNumber: 'P1', remarks: [] };
/** A payer that comes after. */
const AFTER = { ...BEFORE, coverageOrder: 2, payer: { name: 'Tern', payerId: '90002' } };
const NOTHING = { needsTooth: false, needsSurface: false };
/** Each rule broken once: the claim is good but for one thing. */
const BROKEN: Record<string, { form?: 'dental'; change?: Change; context?: Partial<CheckContext> }> = {
  'patient-name': { change: (c) => (c.patient = { ...c.patient, first: '' }) },
  'name-length': { change: (c) => (c.patient = { ...c.patient, last: 'L'.repeat(61) }) },
  'birth-before-service': {
    change: (c) => (c.patient = { ...c.patient, birthDate: calendarDate('2026-03-10') }),
  },
  'patient-sex': { change: (c) => (c.patient = { ...c.patient, sex: 'U' }) },
  'patient-address': {
    change: (c) => (c.patient = { ...c.patient, address: { ...c.patient.address, city: '' } }),
  },
  'patient-zip': {
    change: (c) => (c.patient = { ...c.patient, address: { ...c.patient.address, zip: '9819' } }),
  },
  'patient-state': {
    change: (c) => (c.patient = { ...c.patient, address: { ...c.patient.address, state: 'XX' } }),
  },
  'provider-kind': { change: (c) => (c.rendering = { ...c.rendering!, taxonomy: '1223G0001X' }) },
  'member-id': { change: (c) => (c.subscriber = { ...c.subscriber, memberId: '' }) },
  'member-id-form': { change: (c) => (c.subscriber = { ...c.subscriber, memberId: 'A B' }) },
  'subscriber-birth': { change: (c) => (c.subscriber = { ...c.subscriber, last: '' }) },
  'coverage-dates': { context: { coverageTo: calendarDate('2026-03-01') } },
  'payer-id': { change: (c) => (c.payer = { ...c.payer, payerId: '' }) },
  'payer-unfinished': { context: { unfinished: true } },
  'payer-agreement': { context: { agreementMissing: '837P' } },
  'payer-address': { context: { clearinghouseMails: true } },
  'payer-corrections': {
    change: (c) => Object.assign(c, { frequency: '7', payerClaimNumber: 'P1' }),
    context: { corrections: 'new' },
  },
  identity: {
    change: (c) => Object.assign(c, { frequency: '7', payerClaimNumber: 'P1' }),
    context: {
      replaced: { ...sampleClaim(), subscriber: { ...sampleClaim().subscriber, memberId: 'CSH9' } },
    },
  },
  'payer-takes-part': { context: { takesPart: false } },
  'payer-connection': { context: { hasConnection: false } },
  'payer-hold': { context: { payerAccepts: 'hold' } },
  'paper-lines': { context: { payerAccepts: 'electronic', paperLines: 1 } },
  'filing-code': { change: (c) => (c.filingCode = '') },
  'billing-npi': { change: (c) => (c.billing = { ...c.billing, npi: '1234567890' }) },
  'billing-tax-id': { change: (c) => (c.billing = { ...c.billing, taxId: '12' }) },
  'billing-taxonomy': { change: (c) => (c.billing = { ...c.billing, taxonomy: '' }) },
  'billing-address': {
    change: (c) => (c.billing = { ...c.billing, address: { ...c.billing.address, line1: 'P.O. Box 7' } }),
  },
  'billing-city': {
    change: (c) => (c.billing = { ...c.billing, address: { ...c.billing.address, city: '' } }),
  },
  'facility-name': { change: (c) => (c.facility = { ...FACILITY, name: ' ' }) },
  'facility-address': {
    change: (c) => (c.facility = { ...FACILITY, address: { ...FACILITY.address, line1: '' } }),
  },
  'facility-city': {
    change: (c) => (c.facility = { ...FACILITY, address: { ...FACILITY.address, city: '' } }),
  },
  'facility-zip': {
    change: (c) => (c.facility = { ...FACILITY, address: { ...FACILITY.address, zip: '98199' } }),
  },
  'billing-zip': {
    change: (c) => (c.billing = { ...c.billing, address: { ...c.billing.address, zip: '98199' } }),
  },
  'rendering-npi': { change: (c) => (c.rendering = { ...c.rendering!, npi: '12' }) },
  'rendering-taxonomy': { change: (c) => (c.rendering = { ...c.rendering!, taxonomy: 'X' }) },
  'place-of-service': { change: (c) => (c.placeOfService = '1') },
  'line-limit': {
    change: (c) => (
      (c.lines = Array.from({ length: 51 }, (_, n) => ({ ...c.lines[0]!, number: n + 1 }))),
      (c.total = cents(51 * c.lines[0]!.charge))
    ),
  },
  total: { change: (c) => (c.total = cents(1)) },
  'diagnosis-limit': {
    form: 'dental',
    change: (c) => (c.diagnoses = ['K02.9', 'K02.9', 'K02.9', 'K02.9', 'K02.9']),
  },
  'diagnosis-valid': {
    context: {
      diagnoses: new Map([
        ['I10', { from: null, to: calendarDate('2025-09-30') }],
        ['J06.9', { from: null, to: null }],
      ]),
    },
  },
  'line-pointer': { change: (c) => (c.lines[1] = { ...c.lines[1]!, pointers: [] }) },
  'pointer-valid': { change: (c) => (c.lines[1] = { ...c.lines[1]!, pointers: [3] }) },
  'service-code': { change: (c) => (c.lines[1] = { ...c.lines[1]!, code: '8788' }) },
  modifiers: { change: (c) => (c.lines[0] = { ...c.lines[0]!, modifiers: ['2'] }) },
  'modifier-repeat': { change: (c) => (c.lines[0] = { ...c.lines[0]!, modifiers: ['25', '25'] }) },
  units: { change: (c) => (c.lines[0] = { ...c.lines[0]!, units: 0 }) },
  'fee-zero': {
    change: (c) => ((c.lines[1] = { ...c.lines[1]!, charge: cents(0) }), (c.total = c.lines[0]!.charge)),
  },
  clia: {
    context: {
      services: new Map([['99213', { needsTooth: false, needsSurface: false, needsClia: true }]]),
    },
  },
  tooth: { form: 'dental', change: (c) => (c.lines[0] = { ...c.lines[0]!, tooth: '33' }) },
  surface: { form: 'dental', change: (c) => (c.lines[0] = { ...c.lines[0]!, surfaces: '' }) },
  authorization: { context: { requiresAuthorization: true } },
  referring: { context: { requiresReferring: true } },
  'referring-npi': { change: (c) => (c.referring = { last: 'A', first: 'B', npi: '1' }) },
  'accident-date': {
    change: (c) => (c.accident = { kind: 'EM', date: calendarDate('2026-03-10'), state: '' }),
  },
  'accident-state': {
    change: (c) => (c.accident = { kind: 'AA', date: calendarDate('2026-03-01'), state: '' }),
  },
  'case-dates': { change: (c) => (c.dates = { onset: calendarDate('2026-03-10') }) },
  'timely-filing-past': { context: { timelyFilingDays: 3 } },
  'prior-placement': {
    form: 'dental',
    change: (c) =>
      (c.lines = c.lines.map((line, index) => ({
        ...line,
        prosthesis: 'R',
        priorPlacement: index === 0 ? null : line.date,
      }))),
  },
  'timely-filing-correction': {
    change: (c) => ((c.frequency = '7'), (c.payerClaimNumber = 'PCN1')),
    context: { timelyFilingDays: 3 },
  },
  'timely-filing-near': { context: { timelyFilingDays: 12 } },
  duplicate: { context: { duplicates: new Map([[1, 'OL7A']]) } },
  'replacement-number': { change: (c) => (c.frequency = '7') },
  'payer-before': { change: (c) => ((c.coverageOrder = 2), (c.otherPayers = [BEFORE])) },
  'payer-before-sum': {
    change: (c) => (
      (c.coverageOrder = 2),
      (c.otherPayers = [
        { ...BEFORE, decided: { ...DECIDED, paid: cents(c.total - 100), adjustments: [], lines: [] } },
      ])
    ),
  },
  'medicare-second': {
    change: (c) => (
      (c.filingCode = 'MB'),
      (c.coverageOrder = 2),
      (c.otherPayers = [{ ...BEFORE, decided: { ...DECIDED, paid: c.total, adjustments: [], lines: [] } }])
    ),
  },
  'member-id-filler': { change: (c) => (c.subscriber = { ...c.subscriber, memberId: '999999999' }) },
  'other-payer-id': {
    change: (c) => (c.otherPayers = [{ ...AFTER, payer: { ...AFTER.payer, payerId: '' } }]),
  },
  'other-member-id': {
    change: (c) => (c.otherPayers = [{ ...AFTER, subscriber: { ...AFTER.subscriber, memberId: '' } }]),
  },
  'other-payer-twice': { change: (c) => (c.otherPayers = [{ ...AFTER, payer: c.payer }]) },
  'own-reason': {
    change: (c) => (
      (c.coverageOrder = 2),
      (c.otherPayers = [
        {
          ...BEFORE,
          decided: {
            ...DECIDED,
            paid: cents(0),
            adjustments: [{ group: 'CO', reason: 'X1', amount: c.total }],
            lines: [],
          },
        },
      ])
    ),
    context: { ownReasons: new Set(['X1']) },
  },
  'pay-to': {
    change: (c) =>
      (c.billing = { ...c.billing, payTo: { ...c.billing.address, line1: 'PO Box 7', zip: '981' } }),
  },
  'contact-phone': { context: { phone: '555-0100' } },
  'patient-paid': { change: (c) => (c.patientPaid = cents(c.total + 1)) },
  'delay-reason': { change: (c) => (c.delayReason = '12') },
  'attachment-number': { change: (c) => (c.attachments = [{ type: 'B4', by: 'EL', control: ' ' }]) },
  'note-length': { change: (c) => (c.note = 'N'.repeat(81)) },
  'amount-length': {
    change: (c) => (
      (c.lines[0] = { ...c.lines[0]!, charge: cents(10_000_000_000) }),
      (c.total = cents(10_000_000_000 + c.lines[1]!.charge))
    ),
  },
  'accident-work': { change: (c) => (c.filingCode = 'WC') },
  'accident-car': { change: (c) => (c.filingCode = 'AM') },
  'disability-dates': {
    change: (c) =>
      (c.dates = { disabledFrom: calendarDate('2026-03-02'), disabledTo: calendarDate('2026-03-01') }),
  },
  'admission-date': { change: (c) => (c.placeOfService = '21') },
  'admission-order': {
    change: (c) => ((c.placeOfService = '21'), (c.dates = { admitted: calendarDate('2026-03-10') })),
  },
  ordering: { context: { services: new Map([['99213', { ...NOTHING, needsOrdering: true }]]) } },
  'ordering-dental': {
    form: 'dental',
    change: (c) => (c.referring = { last: 'A', first: 'B', npi: c.rendering!.npi, role: 'DK' }),
  },
  drug: { context: { services: new Map([['99213', { ...NOTHING, needsDrug: true }]]) } },
  'drug-form': {
    change: (c) =>
      (c.lines[0] = { ...c.lines[0]!, drug: { ndc: '0007412345', thousandths: 1000, measure: 'UN' } }),
  },
  'clia-form': { change: (c) => (c.clia = '50X0123456') },
  'diagnosis-first': {
    change: (c) => (c.diagnoses = ['W19.XXXA', 'J06.9']),
    context: {
      diagnoses: new Map(['W19.XXXA', 'J06.9'].map((code) => [code, { from: null, to: null }])),
    },
  },
  telehealth: { change: (c) => (c.placeOfService = '10') },
  'bilateral-units': {
    change: (c) => (c.lines[1] = { ...c.lines[1]!, modifiers: ['50'], units: 2 }),
  },
  'surface-tooth': { form: 'dental', change: (c) => (c.lines[0] = { ...c.lines[0]!, tooth: '8' }) },
  area: {
    form: 'dental',
    change: (c) => (c.lines[1] = { ...c.lines[1]!, area: '' }),
    context: { services: new Map([['D4341', { ...NOTHING, needsArea: true }]]) },
  },
  'unit-limit': {
    change: (c) => (c.lines[1] = { ...c.lines[0]!, number: 2, charge: c.lines[1]!.charge }),
    context: { unitLimits: new Map([['99213', 1]]) },
  },
  'not-together': {
    context: { notTogether: [{ code: '99213', other: '87880', unlessModifier: true }] },
  },
  'timely-filing-late': {
    change: (c) => (c.delayReason = '7'),
    context: { timelyFilingDays: 3 },
  },
};
/** What comes near a rule and does not break it. */
const ALLOWED: Record<string, { form?: 'dental'; change?: Change; context?: Partial<CheckContext> }> = {
  'Medicare second, with its reason': {
    change: (c) => (
      BROKEN['medicare-second']!.change!(c),
      (c.subscriber = { ...c.subscriber, secondaryType: '12' })
    ),
  },
  'a correction of the same member, written otherwise': {
    change: (c) => Object.assign(c, { frequency: '7', payerClaimNumber: 'P1' }),
    context: {
      replaced: { ...sampleClaim(), subscriber: { ...sampleClaim().subscriber, memberId: 'csh-1000011' } },
    },
  },
  'a void of another member': {
    change: (c) => Object.assign(c, { frequency: '8', payerClaimNumber: 'P1' }),
    context: BROKEN.identity!.context!,
  },
  'on paper, with its address': {
    change: (c) => (c.payer = { ...c.payer, address: c.billing.address }),
    context: { payerAccepts: 'paper', hasConnection: false, paperLines: 2 },
  },
  'Medicare first': { change: (c) => (c.filingCode = 'MB') },
  'a standard reason': { change: BROKEN['own-reason']!.change!, context: { ownReasons: new Set(['X2']) } },
  'checks to a post office box': {
    change: (c) => (c.billing = { ...c.billing, payTo: { ...c.billing.address, line1: 'PO Box 7' } }),
  },
  'the patient paid all': { change: (c) => (c.patientPaid = c.total) },
  'a letter on request has no number': {
    change: (c) => (c.attachments = [{ type: 'OZ', by: 'AA', control: '' }]),
  },
  'a note of 80 letters': { change: (c) => (c.note = 'N'.repeat(80)) },
  'an accident at work, to workers’ compensation': {
    change: (c) => (
      (c.filingCode = 'WC'),
      (c.accident = { kind: 'EM', date: calendarDate('2026-03-01'), state: '' })
    ),
  },
  'unable to work for one day': {
    change: (c) =>
      (c.dates = { disabledFrom: calendarDate('2026-03-01'), disabledTo: calendarDate('2026-03-01') }),
  },
  'admitted on the day of the service': {
    change: (c) => ((c.placeOfService = '21'), (c.dates = { admitted: calendarDate('2026-03-09') })),
  },
  'what needs an order has one': {
    change: (c) => (c.referring = { last: 'A', first: 'B', npi: c.rendering!.npi, role: 'DK' }),
    context: BROKEN.ordering!.context!,
  },
  'an external cause as the second diagnosis': {
    change: (c) => (c.diagnoses = ['J06.9', 'W19.XXXA']),
    context: BROKEN['diagnosis-first']!.context!,
  },
  'at a distance, with its modifier': {
    change: (c) => (
      (c.placeOfService = '10'),
      (c.lines = c.lines.map((line) => ({ ...line, modifiers: ['95'] })))
    ),
  },
  'a front tooth with its edge': {
    form: 'dental',
    change: (c) => (c.lines[0] = { ...c.lines[0]!, tooth: '8', surfaces: 'MI' }),
  },
  'as many units as a day allows, on each of two days': {
    change: (c) => (
      BROKEN['unit-limit']!.change!(c),
      (c.lines[1] = { ...c.lines[1]!, date: calendarDate('2026-03-08') })
    ),
    context: BROKEN['unit-limit']!.context!,
  },
  'not together, but apart by its modifier': {
    change: (c) => (c.lines[1] = { ...c.lines[1]!, modifiers: ['59'] }),
    context: BROKEN['not-together']!.context!,
  },
  'not together, on another day': {
    change: (c) => (c.lines[1] = { ...c.lines[1]!, date: calendarDate('2026-03-08') }),
    context: { notTogether: [{ code: '99213', other: '87880', unlessModifier: false }] },
  },
};
/** A claim that has what can be asked for. */
const HAVE: Record<ClaimNeed, { form?: 'dental'; has: Change }> = {
  'group-number': { has: (c) => (c.subscriber.groupNumber = 'G1') },
  'plan-name': { has: (c) => (c.subscriber.planName = 'Plan') },
  'injury-number': { has: (c) => (c.subscriber.casualtyNumber = 'N1') },
  'middle-name': { has: (c) => (c.patient.middle = 'M') },
  'patient-sex': { has: (c) => (c.patient.sex = 'F') },
  'patient-zip': { has: (c) => (c.patient.address = { ...c.patient.address, zip: '98199-0001' }) },
  referral: { has: (c) => (c.referralNumber = 'R1') },
  authorization: { has: (c) => (c.authorizationNumber = 'A1') },
  referring: { has: (c) => (c.referring = { last: 'A', first: 'B', npi: c.rendering!.npi }) },
  ordering: { has: (c) => (c.referring = { last: 'A', first: 'B', npi: c.rendering!.npi, role: 'DK' }) },
  supervising: { has: (c) => (c.referring = { last: 'A', first: 'B', npi: c.rendering!.npi, role: 'DQ' }) },
  onset: { has: (c) => (c.dates = { onset: calendarDate('2026-03-01') }) },
  'first-treated': { has: (c) => (c.dates = { firstTreated: calendarDate('2026-03-01') }) },
  'last-seen': { has: (c) => (c.dates = { lastSeen: calendarDate('2026-03-01') }) },
  'accident-date': {
    has: (c) => (c.accident = { kind: 'OA', date: calendarDate('2026-03-01'), state: '' }),
  },
  facility: { has: (c) => (c.facility = FACILITY) },
  'billing-number': { has: (c) => (c.payer.references = [{ qualifier: 'G2', id: 'B1' }]) },
  'rendering-number': { has: (c) => (c.rendering!.references = [{ qualifier: 'G2', id: 'R1' }]) },
  attachment: { has: (c) => (c.attachments = [{ type: 'B4', by: 'EL', control: 'A1' }]) },
  note: { has: (c) => (c.note = 'See the letter') },
  diagnosis: { form: 'dental', has: () => undefined },
  modifier: { has: (c) => (c.lines = c.lines.map((line) => ({ ...line, modifiers: ['25'] }))) },
  tooth: { form: 'dental', has: (c) => (c.lines = c.lines.map((line) => ({ ...line, tooth: '30' }))) },
  area: { form: 'dental', has: (c) => (c.lines = c.lines.map((line) => ({ ...line, area: '10' }))) },
  drug: {
    has: (c) =>
      (c.lines = c.lines.map((line) => ({
        ...line,
        drug: { ndc: '00074123456', thousandths: 1000, measure: 'UN' },
      }))),
  },
};
/** What a good claim loses to lack it. */
const LACK: Partial<Record<ClaimNeed, Change>> = {
  'group-number': (c) => (c.subscriber.groupNumber = ''),
  'patient-sex': (c) => (c.patient.sex = 'U'),
  'patient-zip': (c) => (c.patient.address = { ...c.patient.address, zip: '98199' }),
  diagnosis: (c) => (c.diagnoses = []),
};
/** Rules whose break always breaks another too. */
const WITH_OTHERS: Record<string, Change> = {
  'patient-birth': (c) => (c.patient = { ...c.patient, birthDate: calendarDate('2026-03-17') }),
  'has-lines': (c) => ((c.lines = []), (c.total = cents(0))),
  'diagnosis-present': (c) => (c.diagnoses = []),
  'line-date': (c) => (c.lines[0] = { ...c.lines[0]!, date: calendarDate('2026-03-17') }),
};

describe('claim rules', () => {
  test.each(['professional', 'dental'] as const)('a good %s claim has no finding', (form) =>
    expect(checkClaim(sampleClaim(form), context())).toEqual([]),
  );

  test.each(Object.entries(BROKEN))('%s is found, and only it', (rule, broken) => {
    const claim = sampleClaim(broken.form ?? 'professional');
    broken.change?.(claim);
    const findings = checkClaim(claim, context(broken.context));
    expect([...new Set(findings.map((finding) => finding.rule))]).toEqual([rule]);
    expect(maySend(findings)).toBe(RULES.find((item) => item.id === rule)!.severity === 'warn');
  });

  test.each(Object.entries(ALLOWED))('%s: nothing is found', (_what, near) => {
    const claim = sampleClaim(near.form ?? 'professional');
    near.change?.(claim);
    expect(checkClaim(claim, context(near.context))).toEqual([]);
  });

  test('a modifier sets services apart only where the table says so', () => {
    const claim = sampleClaim();
    claim.lines[1] = { ...claim.lines[1]!, modifiers: ['59'] };
    const notTogether = [{ code: '99213', other: '87880', unlessModifier: false }];
    expect(checkClaim(claim, context({ notTogether }))).toMatchObject([{ rule: 'not-together', line: 2 }]);
  });

  test('a payer has a rule stop, warn or say nothing; what holds for every payer stays as it is', () => {
    const claim = sampleClaim();
    claim.subscriber = { ...claim.subscriber, memberId: '' };
    const found = (severity: 'stop' | 'warn' | 'off') =>
      checkClaim(claim, context({ severities: new Map([['member-id', severity]]) })).map(
        (finding) => finding.severity,
      );
    expect([found('stop'), found('warn'), found('off')]).toEqual([['stop'], ['warn'], []]);
    claim.total = cents(1);
    const off = new Map(RULES.map(({ id }) => [id, 'off' as const]));
    expect(checkClaim(claim, context({ severities: off }))).toMatchObject([
      { rule: 'total', severity: 'stop' },
    ]);
    expect(OPEN_RULES.some(({ id }) => id === 'total')).toBe(false);
  });

  test.each(CLAIM_NEED_NAMES)('what a payer may ask for is asked for: %s', (name) => {
    const { form, has } = HAVE[name];
    const claim = sampleClaim(form ?? 'professional');
    const lacks = structuredClone(claim);
    has(claim);
    LACK[name]?.(lacks);
    const found = (of: ClaimContent, severity: 'stop' | 'warn') =>
      checkClaim(of, context({ needs: new Map([[name, severity]]) })).filter(
        ({ rule }) => rule === `needs-${name}`,
      );
    expect(found(claim, 'stop')).toEqual([]);
    const [finding] = found(lacks, 'warn');
    expect(finding).toMatchObject({ severity: 'warn', words: expect.stringContaining('asks for') });
  });

  test.each(Object.entries(WITH_OTHERS))('%s is found', (rule, change) => {
    const claim = sampleClaim();
    change(claim);
    expect(checkClaim(claim, context()).map((finding) => finding.rule)).toContain(rule);
  });

  test('what a payer before has decided adds up by line, or together with what it said of the whole; one after has not decided', () => {
    const said = (
      decided: Partial<NonNullable<NonNullable<ClaimContent['otherPayers']>[number]['decided']>>,
    ) => {
      const claim = sampleClaim();
      claim.coverageOrder = 2;
      const whole = { ...DECIDED, paid: claim.total, adjustments: [], lines: [], ...decided };
      claim.otherPayers = [
        { ...BEFORE, decided: whole },
        { ...AFTER, coverageOrder: 3 },
      ];
      return checkClaim(claim, context()).map(({ words, line }) => [words, line]);
    };
    const { lines, total } = sampleClaim();
    const paid = lines.map(({ number, code, charge }) => ({
      number,
      code,
      modifiers: [],
      paid: charge,
      units: 1,
      adjustments: [],
    }));
    expect(said({})).toEqual([]);
    expect(said({ lines: paid })).toEqual([]);
    const short = [{ ...paid[0]!, paid: cents(paid[0]!.paid - 100) }, ...paid.slice(1)];
    expect(said({ lines: short })).toEqual([
      [expect.stringMatching(/^Cedar decided .* that were charged$/), 1],
    ]);
    const off = { group: 'PR' as const, reason: '1', amount: cents(100) };
    expect(
      said({ lines: [{ ...short[0]!, adjustments: [off] }, ...paid.slice(1)], paid: cents(total - 100) }),
    ).toEqual([]);
    // Of the whole: the lines were paid, and 1.00 came off the claim.
    expect(said({ lines: paid, adjustments: [off], paid: cents(total - 100) })).toEqual([]);
    expect(said({ lines: paid, adjustments: [off] })).toEqual([
      [expect.stringContaining('by its lines'), undefined],
    ]);
  });

  test('the limit of a next payer begins with the decision before it', () => {
    const claim = sampleClaim();
    claim.coverageOrder = 2;
    claim.otherPayers = [
      { ...BEFORE, decided: { ...DECIDED, paid: claim.total, adjustments: [], lines: [] } },
    ];
    const firstDecided = calendarDate('2026-03-12');
    const found = (timelyFilingDays: number, laterFilingDays: number | null = null) =>
      checkClaim(claim, context({ timelyFilingDays, laterFilingDays, firstDecided })).filter(
        ({ rule }) => rule === 'timely-filing-past',
      ).length;
    // Services of the 9th, first decided on the 12th, looked at on the 16th.
    expect([found(4), found(3)]).toEqual([0, claim.lines.length]);
    expect([found(1, 4), found(365, 3)]).toEqual([0, claim.lines.length]);
  });

  test('the page of the documents says every rule as it is', () => {
    // Whatever a formatter does to the width of its columns.
    const plain = (text: string): string => text.replace(/\s+/g, ' ').replace(/-{3,}/g, '---');
    expect(plain(readFileSync('docs/claim-rules.md', 'utf8'))).toBe(plain(rulesPage()));
  });

  test('every rule has been broken, has a reference and an id of its own', () => {
    expect(RULES.map((rule) => rule.id).filter((id) => !(id in BROKEN) && !(id in WITH_OTHERS))).toEqual([]);
    expect(new Set(RULES.map((rule) => rule.id)).size).toBe(RULES.length);
    expect(RULES.length).toBeGreaterThanOrEqual(25);
    expect(RULES.every((rule) => rule.reference.length > 5)).toBe(true);
  });
});

describe('grouping charges', () => {
  const base: BillableCharge = {
    id: 1,
    form: 'professional',
    patientId: 1,
    caseId: 1,
    coverageId: 1,
    after: null,
    billing: 'group',
    locationId: 1,
    renderingId: 1,
    date: calendarDate('2026-03-09'),
    diagnoses: ['I10'],
  };
  test('fifty lines and twelve diagnoses a claim; the rest goes on in a further one', () => {
    expect(
      groupCharges(Array.from({ length: 120 }, (_, id) => ({ ...base, id }))).map(
        (group) => group.charges.length,
      ),
    ).toEqual([50, 50, 20]);
    const many = Array.from({ length: 14 }, (_, id) => ({ ...base, id, diagnoses: [`A${id}`] }));
    expect(groupCharges(many).map((group) => group.diagnoses.length)).toEqual([12, 2]);
  });
  test('patients, coverages, forms, billers, places and days stay apart', () => {
    const others: Partial<BillableCharge>[] = [
      {},
      { patientId: 2 },
      { coverageId: 2 },
      { form: 'dental' },
      { billing: 'provider 1' },
      { locationId: 2 },
      { renderingId: 2 },
      { date: calendarDate('2026-03-10') },
    ];
    expect(groupCharges(others.map((other, id) => ({ ...base, ...other, id })))).toHaveLength(others.length);
  });
});
