/** The health care claim, ASC X12N 837 professional (005010X222A1) and dental (005010X224A2): writer and reader. */
import { measured } from '../accounts/drugs';
import type {
  ClaimContent,
  ClaimReference,
  ClaimLineContent,
  OtherPayer,
  PersonName,
  PostalAddress,
} from '../claims/content';
import { type CalendarDate, toX12Date } from '../calendar';
import { type Cents, ZERO, sum, toDecimal } from '../money';
import { type Adjustment, readAdjustments, writeAdjustments } from './adjustments';
import { components, date, money, need, needMoney, period, quantity, text } from './elements';
import { type Interchange, type TransactionSet, X12Writer, expected } from './interchange';
import type { Segment } from './segments';

/** Implementation guides by claim form. */
export const VERSION_837 = { professional: '005010X222A1', dental: '005010X224A2' } as const;

/** Qualifier of a procedure code by form (SV101-1, SV301-1): HC HCPCS, AD dental. */
export const PROCEDURE_QUALIFIER = { professional: 'HC', dental: 'AD' } as const;

const RELATIONSHIP = { self: '18', spouse: '01', child: '19', other: 'G8' } as const;
const RELATIONSHIP_BACK: Record<string, ClaimContent['relationship']> = {
  '18': 'self',
  '01': 'spouse',
  '19': 'child',
  G8: 'other',
};

/** One set of claims, all of one form, from one submitter to one receiver. */
export interface Transmission837 {
  interchange: Interchange;
  /** Control number of group and set. */
  controlNumber: string;
  /** Date (CCYYMMDD) and time (HHMM) of writing. */
  date: string;
  time: string;
  submitter: { name: string; contact: string; phone: string };
  receiverName: string;
  claims: readonly ClaimContent[];
}

/**
 * Writes one interchange with one set of claims.
 * @throws RangeError when there is no claim or the forms are mixed.
 */
export function write837(t: Transmission837): string {
  const form = t.claims[0]?.form;
  if (!form || t.claims.some((claim) => claim.form !== form))
    throw new RangeError('A transmission holds claims of one form');
  const version = VERSION_837[form];
  const x = new X12Writer(t.interchange);
  x.beginGroup('HC', version, t.controlNumber, t.date);
  x.beginSet('837', t.controlNumber.padStart(4, '0'), version);
  x.segment('BHT', '0019', '00', t.controlNumber, t.date, t.time, 'CH');
  x.segment('NM1', '41', '2', t.submitter.name, '', '', '', '', '46', t.interchange.sender);
  x.segment('PER', 'IC', t.submitter.contact, 'TE', digits(t.submitter.phone));
  x.segment('NM1', '40', '2', t.receiverName, '', '', '', '', '46', t.interchange.receiver);
  let level = 0;
  for (const claim of t.claims) {
    const billing = ++level;
    const subscriber = ++level;
    const dependent = claim.relationship !== 'self';
    writeBillingProvider(x, claim, billing);
    writeSubscriber(x, claim, subscriber, billing, dependent);
    if (dependent) {
      level += 1;
      x.segment('HL', String(level), String(subscriber), '23', '0');
      // Of an employer the patient is an employee.
      x.segment('PAT', claim.subscriber.organization ? '20' : RELATIONSHIP[claim.relationship]);
      writeName(x, 'QC', claim.patient);
      writeAddress(x, claim.patient.address);
      x.segment('DMG', 'D8', toX12Date(claim.patient.birthDate), claim.patient.sex);
      writeCasualty(x, claim);
    }
    writeClaim(x, claim);
  }
  return x.endSet().endGroup().finish();
}

const digits = (value: string): string => value.replace(/\D/g, '');

function writeAddress(x: X12Writer, address: PostalAddress): void {
  x.segment('N3', address.line1, address.line2);
  x.segment('N4', address.city, address.state, digits(address.zip));
}

function writeName(x: X12Writer, role: string, name: PersonName, memberId?: string): void {
  x.segment(
    'NM1',
    role,
    '1',
    name.last,
    name.first,
    name.middle,
    '',
    name.suffix,
    memberId ? 'MI' : '',
    memberId,
  );
}

function writeBillingProvider(x: X12Writer, claim: ClaimContent, level: number): void {
  const b = claim.billing;
  x.segment('HL', String(level), '', '20', '1');
  if (b.taxonomy) x.segment('PRV', 'BI', 'PXC', b.taxonomy);
  x.segment(
    'NM1',
    '85',
    b.organization ? '2' : '1',
    b.organization ?? b.last,
    b.organization ? '' : b.first,
    '',
    '',
    '',
    'XX',
    b.npi,
  );
  writeAddress(x, b.address);
  x.segment('REF', b.taxIdKind, digits(b.taxId));
  writeReferences(x, b.references);
  // Where checks go (2010AB).
  if (b.payTo) {
    x.segment('NM1', '87', b.organization ? '2' : '1');
    writeAddress(x, b.payTo);
  }
}

/** The insurer's number of an injury stands with the patient (2010BA or 2010CA REF Y4). */
function writeCasualty(x: X12Writer, { subscriber }: ClaimContent): void {
  if (subscriber.casualtyNumber) x.segment('REF', 'Y4', subscriber.casualtyNumber);
}

function writeReferences(x: X12Writer, references: readonly ClaimReference[] | undefined): void {
  for (const { qualifier, id } of references ?? []) x.segment('REF', qualifier, id);
}

function writeSubscriber(
  x: X12Writer,
  claim: ClaimContent,
  level: number,
  parent: number,
  dependent: boolean,
): void {
  const s = claim.subscriber;
  x.segment('HL', String(level), String(parent), '22', dependent ? '1' : '0');
  const order = ORDERS[claim.coverageOrder - 1] ?? 'U';
  x.segment(
    'SBR',
    order,
    dependent ? '' : '18',
    s.groupNumber,
    s.groupNumber ? '' : s.planName,
    s.secondaryType,
    '',
    '',
    '',
    claim.filingCode,
  );
  if (s.organization) x.segment('NM1', 'IL', '2', s.last, '', '', '', '', s.memberId ? 'MI' : '', s.memberId);
  else writeName(x, 'IL', s, s.memberId);
  // Where somebody else is the patient, the guides know the subscriber by name and member id alone (2010BA N3, N4, DMG).
  if (!dependent) {
    writeAddress(x, s.address);
    x.segment('DMG', 'D8', toX12Date(s.birthDate), s.sex);
  }
  if (!dependent) writeCasualty(x, claim);
  const { name, payerId, address, references } = claim.payer;
  x.segment('NM1', 'PR', '2', name, '', '', '', '', 'PI', payerId);
  if (address) writeAddress(x, address);
  writeReferences(x, references);
}

/** The dates of the case in the order of the guides (2300 DTP): qualifier, format, value. */
function caseDates({ accident, dates = {} }: ClaimContent): (readonly [string, 'D8' | 'RD8', string])[] {
  const day = (qualifier: string, date: CalendarDate | null | undefined) =>
    date ? [[qualifier, 'D8', toX12Date(date)] as const] : [];
  const { disabledFrom: from, disabledTo: to } = dates;
  return [
    ...day('431', dates.onset),
    ...day('454', dates.firstTreated),
    ...day('304', dates.lastSeen),
    ...day('453', dates.acute),
    ...day('439', accident?.date),
    ...(from && to
      ? [['314', 'RD8', `${toX12Date(from)}-${toX12Date(to)}`] as const]
      : [...day('360', from), ...day('361', to)]),
    ...day('435', dates.admitted),
    ...day('096', dates.released),
    ...day('444', dates.firstContact),
  ];
}

/** Qualifiers of the numbers of who did it (2310B REF01). */
const INDIVIDUAL = new Set(['G2', '0B', '1G', 'LU']);

/** Dates of the case by their qualifiers. */
const CASE_DATE_OF: Readonly<Record<string, keyof NonNullable<ClaimContent['dates']>>> = {
  431: 'onset',
  454: 'firstTreated',
  304: 'lastSeen',
  453: 'acute',
  360: 'disabledFrom',
  361: 'disabledTo',
  435: 'admitted',
  '096': 'released',
  444: 'firstContact',
};

function writeClaim(x: X12Writer, claim: ClaimContent): void {
  // CLM11: related-causes code, two further causes, state of an automobile accident.
  const causes = claim.accident && [
    claim.accident.kind,
    '',
    '',
    claim.accident.kind === 'AA' ? claim.accident.state : '',
  ];
  x.segment(
    'CLM',
    claim.controlNumber,
    toDecimal(claim.total),
    '',
    '',
    [claim.placeOfService, 'B', claim.frequency],
    'Y',
    claim.assignment?.accepted === false ? 'C' : 'A',
    claim.assignment?.benefits === false ? 'N' : 'Y',
    claim.assignment?.signed === false ? 'I' : 'Y',
    '',
    causes,
    ...Array<string>(8).fill(''),
    claim.delayReason,
  );
  for (const [qualifier, format, value] of caseDates(claim)) x.segment('DTP', qualifier, format, value);
  if (claim.form === 'dental') x.segment('DTP', '472', 'D8', toX12Date(claim.lines[0]!.date));
  // The status of teeth (005010X224A2, 2300 DN2): missing.
  for (const tooth of claim.lostTeeth ?? []) x.segment('DN2', tooth, 'M', '', '', '', 'JP');
  for (const { type, by, control } of claim.attachments ?? [])
    x.segment('PWK', type, by, '', '', control ? 'AC' : '', control);
  if (claim.patientPaid) x.segment('AMT', 'F5', toDecimal(claim.patientPaid));
  if (claim.referralNumber) x.segment('REF', '9F', claim.referralNumber);
  if (claim.authorizationNumber) x.segment('REF', 'G1', claim.authorizationNumber);
  if (claim.payerClaimNumber) x.segment('REF', 'F8', claim.payerClaimNumber);
  if (claim.clia) x.segment('REF', 'X4', claim.clia);
  if (claim.note) x.segment('NTE', 'ADD', claim.note);
  if (claim.diagnoses.length > 0) {
    x.segment(
      'HI',
      ...claim.diagnoses
        .slice(0, 12)
        .map((code, index) => [index === 0 ? 'ABK' : 'ABF', code.replace('.', '')]),
    );
  }
  const { referring } = claim;
  if (referring && !referring.role) writeReferring(x, 'DN', referring);
  if (claim.rendering && claim.rendering.npi !== claim.billing.npi) {
    x.segment(
      'NM1',
      '82',
      '1',
      claim.rendering.last,
      claim.rendering.first,
      '',
      '',
      '',
      'XX',
      claim.rendering.npi,
    );
    if (claim.rendering.taxonomy) x.segment('PRV', 'PE', 'PXC', claim.rendering.taxonomy);
    writeReferences(x, claim.rendering.references);
  }
  // Service facility location (2310C of both guides).
  if (claim.facility) {
    x.segment('NM1', '77', '2', claim.facility.name);
    writeAddress(x, claim.facility.address);
  }
  if (referring?.role === 'DQ') writeReferring(x, 'DQ', referring);
  for (const other of claim.otherPayers ?? []) writeOtherPayer(x, claim, other);
  for (const line of claim.lines) writeLine(x, claim, line);
}

/** Who referred, ordered or supervises (2310A, 2420E, 2310D; 837D 2310E). */
function writeReferring(
  x: X12Writer,
  role: 'DN' | 'DK' | 'DQ',
  { last, first, npi, references }: NonNullable<ClaimContent['referring']>,
): void {
  x.segment('NM1', role, '1', last, first, '', '', '', 'XX', npi);
  writeReferences(x, references);
}

const ORDERS = ['P', 'S', 'T'] as const;

/** What another payer is, what it decided of the claim as a whole, and whom it knows by what numbers (2320 and 2330 of both guides). */
function writeOtherPayer(x: X12Writer, claim: ClaimContent, other: OtherPayer): void {
  const { subscriber, decided } = other;
  x.segment(
    'SBR',
    ORDERS[other.coverageOrder - 1] ?? 'U',
    RELATIONSHIP[other.relationship],
    subscriber.groupNumber,
    subscriber.groupNumber ? '' : subscriber.planName,
    other.secondaryType,
    '',
    '',
    '',
    other.filingCode,
  );
  if (decided) {
    writeAdjustments(x, decided.adjustments);
    x.segment('AMT', 'D', toDecimal(decided.paid));
    const left = remaining(decided);
    if (left.whole !== null) x.segment('AMT', 'EAF', toDecimal(left.whole));
  }
  const { assignment } = other;
  x.segment(
    'OI',
    '',
    '',
    assignment?.benefits === false ? 'N' : 'Y',
    '',
    '',
    assignment?.signed === false ? 'I' : 'Y',
  );
  if (decided && decided.remarks.length > 0) x.segment('MOA', '', '', ...decided.remarks.slice(0, 5));
  writeName(x, 'IL', subscriber, subscriber.memberId);
  x.segment('NM1', 'PR', '2', other.payer.name, '', '', '', '', 'PI', other.payer.payerId);
  // Where lines were decided they say the day.
  if (decided?.date && decided.lines.length === 0) x.segment('DTP', '573', 'D8', toX12Date(decided.date));
  if (decided?.payerClaimNumber) x.segment('REF', 'F8', decided.payerClaimNumber);
  const { referring, rendering, billing } = other.numbers ?? {};
  writeKnownAs(x, 'DN', '1', referring);
  writeKnownAs(x, '82', '1', rendering);
  writeKnownAs(x, '85', claim.billing.organization ? '2' : '1', billing);
}

/** Under what number another payer knows somebody of the claim. */
function writeKnownAs(x: X12Writer, role: string, kind: '1' | '2', number: ClaimReference | undefined): void {
  if (!number) return;
  x.segment('NM1', role, kind);
  writeReferences(x, [number]);
}

/**
 * What another payer left to the patient (AMT*EAF): by line (2430) where all of it is said of lines, else once for the claim (2320),
 * and never both.
 */
function remaining({ adjustments, lines }: Decision): { whole: Cents | null; byLine: boolean } {
  const left = (list: readonly Adjustment[]): Cents =>
    sum(list.filter(({ group }) => group === 'PR').map(({ amount }) => amount));
  const ofClaim = adjustments.some(({ group }) => group === 'PR');
  if (lines.length > 0 && !ofClaim) return { whole: null, byLine: true };
  return { whole: left([...adjustments, ...lines.flatMap((line) => line.adjustments)]), byLine: false };
}

/** What earlier payers decided of a line (2430). */
function writeDecided(x: X12Writer, claim: ClaimContent, { number }: ClaimLineContent): void {
  for (const { payer, decided } of claim.otherPayers ?? [])
    for (const line of decided?.lines.filter((one) => one.number === number) ?? []) {
      x.segment(
        'SVD',
        payer.payerId,
        toDecimal(line.paid),
        [PROCEDURE_QUALIFIER[claim.form], line.code, ...line.modifiers],
        '',
        String(line.units),
        line.bundledInto === undefined ? '' : String(line.bundledInto),
      );
      writeAdjustments(x, line.adjustments);
      if (decided?.date) x.segment('DTP', '573', 'D8', toX12Date(decided.date));
      if (decided && remaining(decided).byLine)
        x.segment(
          'AMT',
          'EAF',
          toDecimal(sum(line.adjustments.filter(({ group }) => group === 'PR').map(({ amount }) => amount))),
        );
    }
}

function writeLine(x: X12Writer, claim: ClaimContent, line: ClaimLineContent): void {
  x.segment('LX', String(line.number));
  const procedure = [PROCEDURE_QUALIFIER[claim.form], line.code, ...line.modifiers];
  if (claim.form === 'professional') {
    x.segment(
      'SV1',
      procedure,
      toDecimal(line.charge),
      'UN',
      String(line.units),
      '',
      '',
      line.pointers.map(String),
    );
  } else {
    x.segment(
      'SV3',
      procedure,
      toDecimal(line.charge),
      '',
      line.area ? [line.area] : '',
      line.prosthesis,
      String(line.units),
      '',
      '',
      '',
      '',
      line.pointers.map(String),
    );
    if (line.tooth) x.segment('TOO', 'JP', line.tooth, line.surfaces.split(''));
  }
  x.segment('DTP', '472', 'D8', toX12Date(line.date));
  if (line.priorPlacement) x.segment('DTP', '441', 'D8', toX12Date(line.priorPlacement));
  x.segment('REF', '6R', line.control);
  if (line.tax) x.segment('AMT', 'T', toDecimal(line.tax));
  if (line.drug) {
    x.segment('LIN', '', 'N4', line.drug.ndc);
    x.segment('CTP', '', '', '', measured(line.drug.thousandths), [line.drug.measure]);
  }
  if (claim.referring?.role === 'DK') writeReferring(x, 'DK', claim.referring);
  writeDecided(x, claim, line);
}

/** A claim as read back from an 837, with the places needed to answer about it. */
export interface ReadClaim extends ClaimContent {
  /** Number of the CLM segment within its set, ST being 1. */
  position: number;
}

/**
 * Reads the claims of an 837 set.
 * @throws X12Error naming segment and element where the set does not follow the guide.
 */
export function read837(set: TransactionSet): ReadClaim[] {
  return new ClaimSetReader(set).read();
}

class ClaimSetReader {
  private readonly claims: ReadClaim[] = [];
  private readonly form: ClaimContent['form'];
  private billing = emptyBilling();
  private subscriber = emptySubscriber();
  private patient: ClaimContent['patient'] | null = null;
  private payer: ClaimContent['payer'] = { name: '', payerId: '' };
  private relationship: ClaimContent['relationship'] = 'self';
  private order = 1;
  private filing = '';
  private person: { address?: PostalAddress | undefined } | null = null;
  /** Where checks go, while that is read. */
  private payTo: { address?: PostalAddress | undefined } | null = null;
  private level = '';
  private claim: ReadClaim | null = null;
  private line: ClaimLineContent | null = null;
  /** The other payer of whom the file speaks, before the lines; within one, whose decision of it. */
  private other: OtherPayer | null = null;
  private decision: DecidedLine | null = null;
  /** Of whom the other payer's number follows. */
  private knows: keyof NonNullable<OtherPayer['numbers']> | null = null;
  /** The drug of which the file speaks, before its quantity. */
  private ndc = '';
  private provider: NonNullable<ClaimContent['rendering' | 'referring']> | null = null;

  constructor(private readonly set: TransactionSet) {
    this.form = set.group.version.startsWith('005010X224') ? 'dental' : 'professional';
  }

  read(): ReadClaim[] {
    this.set.segments.forEach((segment, index) => this.take(segment, index + 2));
    return this.claims;
  }

  private take(s: Segment, position: number): void {
    switch (s.id) {
      case 'HL':
        this.beginLevel(s);
        return;
      case 'NM1':
        this.name(s);
        return;
      case 'N3':
        if (this.person) this.person.address = { ...emptyAddress(), line1: text(s, 1), line2: text(s, 2) };
        return;
      case 'N4':
        if (this.person?.address)
          Object.assign(this.person.address, { city: text(s, 1), state: text(s, 2), zip: text(s, 3) });
        if (this.person && this.person === this.payTo) this.billing.payTo = this.person.address;
        return;
      case 'PRV':
        if (text(s, 1) === 'BI') this.billing.taxonomy = text(s, 3);
        else if (this.provider && 'taxonomy' in this.provider) this.provider.taxonomy = text(s, 3);
        return;
      case 'SBR':
        if (this.claim) {
          this.beginOther(s);
          return;
        }
        this.order = ORDERS.findIndex((order) => order === text(s, 1)) + 1 || 4;
        this.relationship = text(s, 2) === '18' ? 'self' : 'other';
        this.subscriber.groupNumber = text(s, 3);
        this.subscriber.planName = text(s, 4);
        if (text(s, 5)) this.subscriber.secondaryType = text(s, 5);
        this.filing = text(s, 9);
        return;
      case 'PAT':
        this.relationship = RELATIONSHIP_BACK[text(s, 1)] ?? 'other';
        return;
      case 'DMG': {
        const person = this.level === '23' ? this.patient : this.subscriber;
        if (person) {
          person.birthDate = date(s, 2) ?? expected(s, 2, 'expected the birth date');
          person.sex = text(s, 3) as 'F' | 'M' | 'U';
        }
        return;
      }
      case 'CLM':
        this.beginClaim(s, position);
        return;
      case 'LX':
        this.other = null;
        this.decision = null;
        this.line = {
          number: quantity(s, 1, 0),
          code: '',
          modifiers: [],
          charge: 0 as never,
          units: 1,
          pointers: [],
          date: '' as CalendarDate,
          tooth: '',
          surfaces: '',
          area: '',
          prosthesis: '',
          priorPlacement: null,
          control: '',
        };
        this.current(s).lines.push(this.line);
        return;
      case 'SV1':
      case 'SV3':
        this.service(s);
        return;
      case 'REF':
        if (this.claim) this.detail(s);
        else this.number(s);
        return;
      default:
        if (this.claim) this.detail(s);
    }
  }

  /** A number of who bills, of the subscriber's injury, or of the payer. */
  private number(s: Segment): void {
    const reference = { qualifier: text(s, 1), id: text(s, 2) };
    if (reference.qualifier === 'Y4') this.subscriber.casualtyNumber = reference.id;
    else if (this.person === this.payer)
      this.payer.references = [...(this.payer.references ?? []), reference];
    else if (this.person !== this.billing) return;
    else if (reference.qualifier === 'EI' || reference.qualifier === 'SY')
      Object.assign(this.billing, { taxIdKind: reference.qualifier, taxId: reference.id });
    else this.billing.references = [...(this.billing.references ?? []), reference];
  }

  private detail(s: Segment): void {
    const claim = this.current(s);
    const d = this.set.delimiters;
    const qualifier = text(s, 1);
    if (this.other && this.decided(s, this.other)) return;
    if (s.id === 'SVD') this.beginDecision(s);
    else if (s.id === 'PWK') {
      const attachment = { type: qualifier, by: text(s, 2), control: text(s, 6) };
      claim.attachments = [...(claim.attachments ?? []), attachment];
    } else if (s.id === 'DN2') {
      if (text(s, 2) === 'M') claim.lostTeeth = [...(claim.lostTeeth ?? []), qualifier];
    } else if (s.id === 'TOO' && this.line)
      Object.assign(this.line, { tooth: text(s, 2), surfaces: components(s, 3, d.component).join('') });
    else if (s.id === 'DTP' && qualifier === '472' && this.line)
      this.line.date = date(s, 3) ?? expected(s, 3, 'expected the service date');
    else if (s.id === 'DTP' && qualifier === '441' && this.line)
      this.line.priorPlacement = date(s, 3) ?? expected(s, 3, 'expected the date of the prior placement');
    else if (s.id === 'DTP' && qualifier === '439' && claim.accident)
      claim.accident.date = date(s, 3) ?? expected(s, 3, 'expected the accident date');
    else if (s.id === 'DTP' && qualifier === '314' && !this.line) {
      const [from, to] = period(s, 3) ?? expected(s, 3, 'expected the days of the disability');
      claim.dates = { ...claim.dates, disabledFrom: from, disabledTo: to };
    } else if (s.id === 'DTP' && !this.line && Object.hasOwn(CASE_DATE_OF, qualifier))
      claim.dates = {
        ...claim.dates,
        [CASE_DATE_OF[qualifier]!]: date(s, 3) ?? expected(s, 3, 'expected the date'),
      };
    else if (s.id === 'REF' && qualifier === '6R' && this.line) this.line.control = text(s, 2);
    else if (s.id === 'REF' && this.provider && INDIVIDUAL.has(qualifier))
      this.provider.references = [...(this.provider.references ?? []), { qualifier, id: text(s, 2) }];
    else if (s.id === 'REF' && qualifier === 'X4') claim.clia = text(s, 2);
    else if (s.id === 'AMT' && qualifier === 'F5' && !this.line) claim.patientPaid = money(s, 2);
    else if (s.id === 'AMT' && qualifier === 'T' && this.line) this.line.tax = money(s, 2);
    else if (s.id === 'LIN' && this.line) this.ndc = text(s, 3);
    else if (s.id === 'CTP' && this.line && this.ndc) this.drug(s, this.line);
    else if (s.id === 'REF' && qualifier === '9F') claim.referralNumber = text(s, 2);
    else if (s.id === 'REF' && qualifier === 'G1') claim.authorizationNumber = text(s, 2);
    else if (s.id === 'REF' && qualifier === 'F8') claim.payerClaimNumber = text(s, 2);
    else if (s.id === 'NTE') claim.note = text(s, 2);
    else if (s.id === 'HI') {
      claim.diagnoses = s.elements.slice(1).map((element) => withPoint(element.split(d.component)[1] ?? ''));
    }
  }

  private drug(s: Segment, line: ClaimLineContent): void {
    line.drug = {
      ndc: this.ndc,
      thousandths: Math.round(quantity(s, 4, 0) * 1000),
      measure: (components(s, 5, this.set.delimiters.component)[0] ?? '') as 'UN',
    };
    this.ndc = '';
  }

  /** What a segment says of another payer's decision. @returns whether it does */
  private decided(s: Segment, other: OtherPayer): boolean {
    const qualifier = text(s, 1);
    const decided = () => (other.decided ??= emptyDecision());
    if (s.id === 'CAS') (this.decision ?? decided()).adjustments.push(...readAdjustments(s));
    else if (s.id === 'OI') {
      const [benefits, signed] = [text(s, 3) !== 'N', text(s, 6) !== 'I'];
      if (!benefits || !signed) other.assignment = { benefits, signed };
    } else if (s.id === 'AMT' && qualifier === 'D') decided().paid = money(s, 2);
    else if (s.id === 'MOA') decided().remarks.push(...s.elements.slice(3, 8).filter(Boolean));
    else if (s.id === 'REF' && this.knows)
      other.numbers = { ...other.numbers, [this.knows]: { qualifier, id: text(s, 2) } };
    else if (s.id === 'DTP' && qualifier === '573')
      decided().date = date(s, 3) ?? expected(s, 3, 'expected the day of the decision');
    else if (s.id === 'REF' && qualifier === 'F8' && !this.line) decided().payerClaimNumber = text(s, 2);
    else return false;
    return true;
  }

  private beginOther(s: Segment): void {
    this.knows = null;
    this.other = {
      coverageOrder: ORDERS.findIndex((order) => order === text(s, 1)) + 1 || 4,
      filingCode: text(s, 9),
      ...(text(s, 5) ? { secondaryType: text(s, 5) } : {}),
      payer: { name: '', payerId: '' },
      subscriber: { ...NOBODY, memberId: '', groupNumber: text(s, 3), planName: text(s, 4) },
      relationship: RELATIONSHIP_BACK[text(s, 2)] ?? 'other',
    };
    const claim = this.current(s);
    claim.otherPayers = [...(claim.otherPayers ?? []), this.other];
  }

  /** What one of the other payers, by its id, decided of the line. */
  private beginDecision(s: Segment): void {
    const { line } = this;
    if (!line) expected(s, undefined, 'expected LX before this segment');
    const found = this.current(s).otherPayers?.find(({ payer }) => payer.payerId === text(s, 1));
    if (!found) expected(s, 1, 'expected the id of one of the claim’s other payers');
    const [, code = '', ...modifiers] = components(s, 3, this.set.delimiters.component);
    this.decision = {
      number: line.number,
      code,
      modifiers: modifiers.slice(0, 4).filter(Boolean),
      paid: needMoney(s, 2, 'the amount paid'),
      units: quantity(s, 5, 1),
      ...(text(s, 6) === '' ? {} : { bundledInto: quantity(s, 6, 0) }),
      adjustments: [],
    };
    (found.decided ??= emptyDecision()).lines.push(this.decision);
    this.other = found;
  }

  private beginLevel(s: Segment): void {
    this.level = text(s, 3);
    this.claim = null;
    this.line = null;
    this.other = null;
    this.decision = null;
    this.provider = null;
    if (this.level === '20') this.billing = emptyBilling();
    if (this.level !== '23') {
      this.patient = null;
      if (this.level === '22') this.subscriber = emptySubscriber();
    }
  }

  private name(s: Segment): void {
    const role = text(s, 1);
    const name = { last: text(s, 3), first: text(s, 4), middle: text(s, 5), suffix: text(s, 7) };
    this.person = null;
    this.provider = null;
    if (this.other) {
      this.knows = KNOWN_ROLES[role] ?? null;
      if (role === 'IL') Object.assign(this.other.subscriber, name, { memberId: text(s, 9) });
      else if (role === 'PR') this.other.payer = { name: name.last, payerId: text(s, 9) };
      return;
    }
    if (role === '85') {
      Object.assign(
        this.billing,
        { npi: text(s, 9) },
        text(s, 2) === '2' ? { organization: name.last } : { last: name.last, first: name.first },
      );
      this.person = this.billing;
    } else if (role === '87') {
      // Its address is read into an object of its own, which the biller keeps.
      const checks: { address?: PostalAddress | undefined } = {};
      this.person = this.payTo = checks;
    } else if (role === 'IL') {
      Object.assign(
        this.subscriber,
        name,
        { memberId: text(s, 9) },
        text(s, 2) === '2' ? { organization: true } : {},
      );
      this.person = this.subscriber;
    } else if (role === 'QC') {
      this.patient = { ...name, birthDate: '' as CalendarDate, sex: 'U', address: emptyAddress() };
      this.person = this.patient;
    } else if (role === 'PR') {
      this.payer = { name: name.last, payerId: text(s, 9) };
      this.person = this.payer;
    } else if (role === '77') {
      const facility = { name: name.last, address: emptyAddress() };
      this.current(s).facility = facility;
      this.person = facility;
    } else if (role === '82' || role === 'DN' || role === 'DK' || role === 'DQ') {
      const provider = { last: name.last, first: name.first, npi: text(s, 9) };
      if (role === '82') this.current(s).rendering = this.provider = { ...provider, taxonomy: '' };
      else this.current(s).referring = this.provider = { ...provider, ...(role === 'DN' ? {} : { role }) };
    }
  }

  private beginClaim(s: Segment, position: number): void {
    const d = this.set.delimiters;
    const [placeOfService = '', , frequency = '1'] = components(s, 5, d.component);
    const [kind, , , state = ''] = components(s, 11, d.component);
    const {
      memberId: _m,
      groupNumber: _g,
      planName: _p,
      organization: _o,
      casualtyNumber: _c,
      secondaryType: _s,
      ...self
    } = this.subscriber;
    const [accepted, benefits, signed] = [text(s, 7) !== 'C', text(s, 8) !== 'N', text(s, 9) !== 'I'];
    this.line = null;
    this.other = null;
    this.decision = null;
    this.claim = {
      form: this.form,
      controlNumber: need(s, 1, 'the patient control number'),
      frequency: frequency as ClaimContent['frequency'],
      total: needMoney(s, 2, 'the total charge'),
      placeOfService,
      billing: this.billing,
      subscriber: this.subscriber,
      patient: this.patient ?? self,
      relationship: this.relationship,
      coverageOrder: this.order,
      filingCode: this.filing,
      payer: this.payer,
      diagnoses: [],
      lines: [],
      position,
      ...(accepted && benefits && signed ? {} : { assignment: { accepted, benefits, signed } }),
      ...(text(s, 20) ? { delayReason: text(s, 20) } : {}),
      ...(kind ? { accident: { kind: kind as 'AA', state, date: '' as CalendarDate } } : {}),
    };
    this.claims.push(this.claim);
  }

  private service(s: Segment): void {
    const d = this.set.delimiters;
    if (!this.line) expected(s, undefined, 'expected LX before this segment');
    const [, code = '', ...modifiers] = components(s, 1, d.component);
    const professional = s.id === 'SV1';
    Object.assign(this.line, {
      code,
      modifiers: modifiers.slice(0, 4).filter(Boolean),
      charge: needMoney(s, 2, 'the line charge'),
      units: quantity(s, professional ? 4 : 6, 1),
      pointers: components(s, professional ? 7 : 11, d.component)
        .filter(Boolean)
        .map(Number),
      area: professional ? '' : text(s, 4),
      prosthesis: professional ? '' : (text(s, 5) as 'I' | 'R' | ''),
    });
  }

  private current(s: Segment): ReadClaim {
    return this.claim ?? expected(s, undefined, 'expected CLM before this segment');
  }
}

/** Whom another payer may know by a number of its own (NM101 of 2330C and on). */
const KNOWN_ROLES: Readonly<Record<string, keyof NonNullable<OtherPayer['numbers']>>> = {
  DN: 'referring',
  '82': 'rendering',
  '85': 'billing',
};

type Decision = NonNullable<OtherPayer['decided']>;
type DecidedLine = Decision['lines'][number];
const emptyDecision = (): Decision => ({
  paid: ZERO,
  date: null,
  payerClaimNumber: '',
  adjustments: [],
  remarks: [],
  lines: [],
});
const NOBODY: PersonName = { last: '', first: '', middle: '', suffix: '' };
const emptyAddress = (): PostalAddress => ({ line1: '', line2: '', city: '', state: '', zip: '' });
const emptyBilling = (): ClaimContent['billing'] => ({
  npi: '',
  taxonomy: '',
  taxId: '',
  taxIdKind: 'EI',
  address: emptyAddress(),
});
const emptySubscriber = (): ClaimContent['subscriber'] => ({
  ...NOBODY,
  memberId: '',
  groupNumber: '',
  planName: '',
  birthDate: '' as CalendarDate,
  sex: 'U',
  address: emptyAddress(),
});
/** ICD-10-CM codes travel without their point, which always stands after the third character. */
const withPoint = (code: string): string => (code.length > 3 ? `${code.slice(0, 3)}.${code.slice(3)}` : code);

/** Levels of a claim file's hierarchy (HL03): who bills, the subscriber, the patient. */
const LEVELS: Readonly<Record<string, number>> = { '20': 0, '22': 1, '23': 2 };

/**
 * The segments of a file of ours that carry one claim: its envelope and heading, the loops it stands in, and its own.
 * @returns one segment a line, as they were sent; null when the claim is not in the file
 */
export function claimSegments(file: string, controlNumber: string): string | null {
  let heading: string[] = [];
  const levels: string[][] = [];
  /** Where the segments after this one go; nowhere while another claim is passed over. */
  let into: string[] | null = heading;
  let claim: string[] | null = null;
  for (const segment of file.split('~').map((text) => text.trim())) {
    const [id, first, , level] = segment.split('*');
    if (claim && (id === 'CLM' || id === 'HL' || id === 'SE'))
      return [...heading, ...levels.flat(), ...claim].map((line) => `${line}~`).join('\n');
    if (id === 'ISA' || id === 'GS' || id === 'ST') {
      heading = id === 'ISA' ? [] : heading.slice(0, id === 'GS' ? 1 : 2);
      levels.length = 0;
      into = heading;
    } else if (id === 'HL') {
      const depth = LEVELS[level ?? ''] ?? 0;
      levels.length = depth;
      levels[depth] = into = [];
    } else if (id === 'CLM') into = claim = first === controlNumber ? [] : null;
    into?.push(segment);
  }
  return null;
}
