/** TA1, 999 (005010X231A1) and 277CA (005010X214): what the outside says about what it got. Readers and writers. */
import { type CalendarDate, toX12Date } from '../calendar';
import { type Cents, ZERO, sum, toDecimal } from '../money';
import { components, date, money, need, text } from './elements';
import { type Group, type Interchange, type TransactionSet, X12Writer, expected } from './interchange';
import type { Segment } from './segments';

/** Implementation guides that GS08 names. */
export const VERSION_999 = '005010X231A1';
/** Implementation guide of the claim acknowledgment. */
export const VERSION_277CA = '005010X214';

/** Interchange acknowledgment (TA1). */
export interface InterchangeAcknowledgment {
  /** ISA13 of the interchange it answers. */
  controlNumber: string;
  /** A accepted, E accepted with errors, R rejected. */
  code: string;
  /** Interchange note code; 000 no error. */
  note: string;
}

/** One error of a set in a 999 (IK3 with its first IK4). */
export interface SyntaxFault {
  segment: string;
  position: number;
  /** Segment syntax error code (IK304). */
  code: string;
  element?: { number: string; code: string; value: string };
}

/** Implementation acknowledgment (999) of one group. */
export interface ImplementationAcknowledgment {
  functionalId: string;
  /** Control number of the group it answers (AK102). */
  controlNumber: string;
  version: string;
  sets: { setId: string; controlNumber: string; code: string; faults: SyntaxFault[] }[];
  /** A accepted, E with errors, P partly, R rejected (AK901). */
  code: string;
}

/** What a 277CA says of one claim. */
export interface ClaimAcknowledgment {
  /** Our patient control number (TRN02 of loop 2200D). */
  controlNumber: string;
  /** Action code (STC03): WQ accepted, U rejected; empty when it is missing. */
  action: string;
  /** Claim status category (507), status (508) and entity codes. */
  statuses: { category: string; status: string; entity: string; text: string }[];
  amount: Cents;
  /** Number that payer or clearinghouse gave the claim (REF*1K). */
  payerClaimNumber: string;
}

/** What a 277CA says of all claims of a batch, or of one billing provider in it (STC at the levels 21 and 19). */
export interface WholeAcknowledgment extends Pick<ClaimAcknowledgment, 'action' | 'statuses'> {
  level: 'batch' | 'provider';
  /** NPI or other id of the billing provider; empty at the level of the batch. */
  provider: string;
}

/** Claim acknowledgment (277CA) of one transmission. */
export interface ClaimAcknowledgments {
  /** Our transmission's control number (BHT03 of the 837, in TRN02 of loop 2200B). */
  batch: string;
  date: CalendarDate;
  source: string;
  /** What is said of more than one claim; only what does not simply acknowledge receipt. */
  whole: WholeAcknowledgment[];
  claims: ClaimAcknowledgment[];
}

/** Status categories (code source 507) that a 277CA accepts and rejects with. */
const ACCEPTS: ReadonlySet<string> = new Set(['A0', 'A1', 'A2', 'A5']);
const REJECTS: ReadonlySet<string> = new Set(['A3', 'A4', 'A6', 'A7', 'A8']);

/**
 * What an answer comes to. A rejection is one by its action or by any category; accepted is only what says so in both.
 * Anything else (a code that is not known, half of it missing) is unclear, and never accepted.
 */
export function verdictOf({
  action,
  statuses,
}: Pick<ClaimAcknowledgment, 'action' | 'statuses'>): 'accepted' | 'rejected' | 'unclear' {
  if (action === 'U' || statuses.some(({ category }) => REJECTS.has(category))) return 'rejected';
  const good = statuses.length > 0 && statuses.every(({ category }) => ACCEPTS.has(category));
  return action === 'WQ' && good ? 'accepted' : 'unclear';
}

/**
 * What a 999 comes to for one set of the group that it answers: by its own code (IK501), else by the group's (AK901). A and E
 * accept; R, M, W and X reject; P asks each set.
 */
export function setVerdict(
  answer: Pick<ImplementationAcknowledgment, 'code' | 'sets'>,
  controlNumber: string,
): 'accepted' | 'rejected' | 'unclear' {
  const of = (code: string | undefined): 'accepted' | 'rejected' | 'unclear' =>
    code === 'A' || code === 'E'
      ? 'accepted'
      : ['R', 'M', 'W', 'X'].includes(code ?? '')
        ? 'rejected'
        : 'unclear';
  const group = of(answer.code);
  if (group === 'rejected') return group;
  const own = answer.sets.find((set) => Number(set.controlNumber) === Number(controlNumber));
  // A group of one set may be answered without naming it.
  return own ? of(own.code) : group;
}

/** Reads a TA1 segment. @throws X12Error */
export function readTa1(segment: Segment): InterchangeAcknowledgment {
  return {
    controlNumber: need(segment, 1, 'the interchange control number'),
    code: need(segment, 4, 'an acknowledgment code'),
    note: text(segment, 5),
  };
}

/** Writes a TA1 in an interchange of its own. */
export function writeTa1(interchange: Interchange, about: Interchange, code: string, note: string): string {
  const x = new X12Writer(interchange);
  x.segment('TA1', about.controlNumber, about.date, about.time, code, note);
  return x.finish();
}

/** Reads a 999 set. @throws X12Error */
export function read999(set: TransactionSet): ImplementationAcknowledgment {
  const found: ImplementationAcknowledgment = {
    functionalId: '',
    controlNumber: '',
    version: '',
    sets: [],
    code: '',
  };
  for (const s of set.segments) {
    const last = found.sets.at(-1);
    if (s.id === 'AK1') {
      Object.assign(found, {
        functionalId: need(s, 1, 'a functional id'),
        controlNumber: need(s, 2, 'a group control number'),
        version: text(s, 3),
      });
    } else if (s.id === 'AK2')
      found.sets.push({
        setId: need(s, 1, 'a set id'),
        controlNumber: need(s, 2, 'a set control number'),
        code: '',
        faults: [],
      });
    else if (s.id === 'IK3') {
      if (!last) expected(s, undefined, 'expected AK2 before this segment');
      last.faults.push({
        segment: need(s, 1, 'a segment id'),
        position: Number(text(s, 2)) || 0,
        code: text(s, 4),
      });
    } else if (s.id === 'IK4') {
      const fault = last?.faults.at(-1) ?? expected(s, undefined, 'expected IK3 before this segment');
      fault.element ??= { number: text(s, 1), code: text(s, 3), value: text(s, 4) };
    } else if (s.id === 'IK5') {
      if (!last) expected(s, undefined, 'expected AK2 before this segment');
      last.code = need(s, 1, 'an acknowledgment code');
    } else if (s.id === 'AK9') found.code = need(s, 1, 'an acknowledgment code');
  }
  return found;
}

/** Writes a 999 about one group. `groupDate` is CCYYMMDD. */
export function write999(
  interchange: Interchange,
  about: Group,
  sets: ImplementationAcknowledgment['sets'],
  groupDate: string,
): string {
  const x = new X12Writer(interchange);
  x.beginGroup('FA', VERSION_999, String(Number(interchange.controlNumber)), groupDate);
  x.beginSet('999', '0001', VERSION_999);
  x.segment('AK1', about.functionalId, about.controlNumber, about.version);
  for (const set of sets) {
    x.segment('AK2', set.setId, set.controlNumber, about.version);
    for (const fault of set.faults) {
      x.segment('IK3', fault.segment, String(fault.position), '', fault.code);
      if (fault.element) x.segment('IK4', fault.element.number, '', fault.element.code, fault.element.value);
    }
    x.segment('IK5', set.code, set.code === 'A' ? '' : '5');
  }
  const good = sets.filter((set) => set.code !== 'R').length;
  const code = good === sets.length ? 'A' : good === 0 ? 'R' : 'P';
  x.segment('AK9', code, String(sets.length), String(sets.length), String(good));
  return x.endSet().endGroup().finish();
}

/** Reads the statuses of an STC segment: up to three, with the message of the first. */
function statusesOf(s: Segment, separator: string): ClaimAcknowledgment['statuses'] {
  return [1, 10, 11]
    .filter((at) => text(s, at) !== '')
    .map((at) => {
      const [category = '', status = '', entity = ''] = components(s, at, separator);
      return { category, status, entity, text: at === 1 ? text(s, 12) : '' };
    });
}

/** Reads a 277CA set. @throws X12Error */
export function read277CA(set: TransactionSet): ClaimAcknowledgments {
  const found: ClaimAcknowledgments = {
    batch: '',
    date: '' as CalendarDate,
    source: '',
    whole: [],
    claims: [],
  };
  let level = '';
  let provider = '';
  let claim: ClaimAcknowledgment | null = null;
  for (const s of set.segments) {
    if (s.id === 'BHT') found.date = date(s, 4) ?? expected(s, 4, 'expected the date');
    else if (s.id === 'HL') {
      level = text(s, 3);
      claim = null;
    } else if (s.id === 'NM1' && ['PR', 'AY'].includes(text(s, 1)) && level === '20')
      found.source = text(s, 3);
    else if (s.id === 'NM1' && level === '19') provider = text(s, 9);
    else if (s.id === 'TRN' && level === '21') found.batch = text(s, 2);
    else if (s.id === 'TRN' && level === 'PT') {
      claim = {
        controlNumber: need(s, 2, 'the patient control number'),
        action: '',
        statuses: [],
        amount: ZERO,
        payerClaimNumber: '',
      };
      found.claims.push(claim);
    } else if (s.id === 'STC') {
      const statuses = statusesOf(s, set.delimiters.component);
      const action = text(s, 3);
      if (claim) {
        claim.statuses.push(...statuses);
        // Rejected once, by whichever segment or line, it is rejected.
        if (claim.action !== 'U' && action !== '') claim.action = action;
        if (text(s, 4) !== '' && claim.amount === 0) claim.amount = money(s, 4);
      } else if (level === '21' || level === '19') {
        const whole: WholeAcknowledgment = {
          level: level === '21' ? 'batch' : 'provider',
          provider: level === '21' ? '' : provider,
          action,
          statuses,
        };
        if (verdictOf(whole) !== 'accepted') found.whole.push(whole);
      }
    } else if (s.id === 'REF' && text(s, 1) === '1K' && claim) claim.payerClaimNumber = text(s, 2);
  }
  return found;
}

/** Writes a 277CA about one 837 set. */
export function write277CA(
  interchange: Interchange,
  answer: ClaimAcknowledgments & {
    receiver: { name: string; id: string };
    sourceId: string;
    provider: { name: string; npi: string };
    patients: ReadonlyMap<string, { last: string; first: string; memberId: string }>;
  },
): string {
  const day = toX12Date(answer.date);
  const x = new X12Writer(interchange);
  x.beginGroup('HN', VERSION_277CA, String(Number(interchange.controlNumber)), day);
  x.beginSet('277', '0001', VERSION_277CA);
  x.segment('BHT', '0085', '08', answer.batch, day, interchange.time, 'TH');
  x.segment('HL', '1', '', '20', '1').segment(
    'NM1',
    'AY',
    '2',
    answer.source,
    '',
    '',
    '',
    '',
    '46',
    answer.sourceId,
  );
  x.segment('TRN', '1', `R${answer.batch}`).segment('DTP', '050', 'D8', day).segment('DTP', '009', 'D8', day);
  x.segment('HL', '2', '1', '21', '1').segment(
    'NM1',
    '41',
    '2',
    answer.receiver.name,
    '',
    '',
    '',
    '',
    '46',
    answer.receiver.id,
  );
  const batch = answer.whole.filter(({ level }) => level === 'batch');
  x.segment('TRN', '2', answer.batch);
  for (const item of batch) writeStatus(x, item, day, total(answer.claims));
  if (batch.length === 0) x.segment('STC', ['A1', '19', 'PR'], day, 'WQ', total(answer.claims));
  x.segment('HL', '3', '2', '19', '1').segment(
    'NM1',
    '85',
    '2',
    answer.provider.name,
    '',
    '',
    '',
    '',
    'XX',
    answer.provider.npi,
  );
  x.segment('TRN', '1', '0');
  for (const item of answer.whole)
    if (item.level === 'provider') writeStatus(x, item, day, total(answer.claims));
  answer.claims.forEach((claim, index) => {
    const patient = answer.patients.get(claim.controlNumber);
    x.segment('HL', String(index + 4), '3', 'PT');
    x.segment(
      'NM1',
      'QC',
      '1',
      patient?.last ?? 'UNKNOWN',
      patient?.first,
      '',
      '',
      '',
      'MI',
      patient?.memberId ?? '0',
    );
    x.segment('TRN', '2', claim.controlNumber);
    writeStatus(x, claim, day, toDecimal(claim.amount));
    if (claim.payerClaimNumber) x.segment('REF', '1K', claim.payerClaimNumber);
  });
  return x.endSet().endGroup().finish();
}

const total = (claims: readonly ClaimAcknowledgment[]): string =>
  toDecimal(sum(claims.map((claim) => claim.amount)));

function writeStatus(
  x: X12Writer,
  { action, statuses }: Pick<ClaimAcknowledgment, 'action' | 'statuses'>,
  day: string,
  amount: string,
): void {
  const [first, second, third] = statuses.map(({ category, status, entity }) => [category, status, entity]);
  x.segment('STC', first, day, action, amount, '', '', '', '', '', second, third, statuses[0]?.text);
}
