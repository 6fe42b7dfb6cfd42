/** The health care claim payment/advice, ASC X12N 835, 005010X221A1: typed model, streaming reader, writer. */
import { type CalendarDate, toX12Date } from '../calendar';
import { type Cents, toDecimal } from '../money';
import { type Adjustment, readAdjustments, writeAdjustments } from './adjustments';
import { components, date, money, need, needMoney, quantity, text } from './elements';
import { type Interchange, X12Writer, expected, readInterchanges } from './interchange';
import type { Delimiters, Segment } from './segments';

/** Implementation guide that GS08 names. */
export const VERSION_835 = '005010X221A1';

/** One service line (loop 2110). Amounts in cents. */
export interface RemitLine {
  /** The code that the payer decided (SVC01). */
  code: string;
  /** The code that was billed (SVC06); empty where the payer decided the same one. */
  billed: string;
  modifiers: string[];
  charge: Cents;
  paid: Cents;
  units: number;
  date: CalendarDate | null;
  adjustments: Adjustment[];
  /** Line item control number as sent (REF*6R). */
  lineControl: string;
  /** Allowed amount the payer states (AMT*B6). */
  allowed: Cents | null;
  /** Remark codes (LQ*HE). */
  remarks: string[];
}

/** One claim (loop 2100). Amounts in cents. */
export interface RemitClaim {
  /** Our patient control number (CLP01). */
  controlNumber: string;
  /** Claim status code (CLP02), see `core/remittances/status`. */
  status: string;
  charge: Cents;
  paid: Cents;
  patientResponsibility: Cents;
  /** Payer's claim number (CLP07). */
  payerClaimNumber: string;
  adjustments: Adjustment[];
  patient: { last: string; first: string; memberId: string };
  /** To whom the payer has handed it on (2100 NM1*TT), where it says. */
  crossover?: { name: string; id: string };
  /** First service date at claim level (DTM*232). */
  date: CalendarDate | null;
  /** Remark codes of MIA and MOA. */
  remarks: string[];
  lines: RemitLine[];
}

/** A provider-level adjustment (PLB). `amount` in cents: positive lowers the payment. */
export interface ProviderAdjustment {
  code: string;
  reference: string;
  amount: Cents;
  /** Provider that it is about (PLB01), and the last day of the fiscal period (PLB02). */
  provider?: string;
  period?: CalendarDate;
}

/** Header of one remittance (BPR, TRN and loops 1000A and 1000B). */
export interface RemitHeader {
  /** What the file is for (BPR01): I with payment, H for information only, P a notice before a transfer, and others. */
  handling: string;
  /** Total payment in cents (BPR02). */
  payment: Cents;
  /** C when we get money, D when the payer takes it (BPR03). */
  creditDebit: string;
  method: string;
  date: CalendarDate;
  /** Check or transfer number (TRN02). */
  trace: string;
  /** Payer's identifier with the trace (TRN03). */
  originator: string;
  payer: { name: string; id: string };
  /** Who is paid: NPI (N104 with XX) and tax id (N104 with FI, or REF*TJ), each empty when it is not said. */
  payee: { name: string; npi: string; taxId: string };
}

/** A whole remittance. */
export interface Remittance extends RemitHeader {
  claims: RemitClaim[];
  providerAdjustments: ProviderAdjustment[];
}

/** What the streaming reader reports, in the order of the file. */
export type RemitEvent =
  | { kind: 'interchange'; interchange: Interchange }
  | { kind: 'header'; header: RemitHeader; setControl: string }
  | { kind: 'claim'; claim: RemitClaim }
  | { kind: 'end'; providerAdjustments: ProviderAdjustment[] };

/** Reads the segments of one 835 set, one claim in memory at a time. */
class SetReader {
  private header: Partial<RemitHeader> = {};
  private headerSent = false;
  private claim: RemitClaim | null = null;
  private line: RemitLine | null = null;
  private party: 'payer' | 'payee' | null = null;
  private readonly providerAdjustments: ProviderAdjustment[] = [];
  private readonly out: RemitEvent[] = [];

  constructor(
    private readonly setControl: string,
    private readonly delimiters: Delimiters,
  ) {}

  take(segment: Segment): void {
    switch (segment.id) {
      case 'BPR':
        this.header.handling = text(segment, 1);
        this.header.creditDebit = text(segment, 3);
        this.header.payment = needMoney(segment, 2, 'the payment amount');
        this.header.method = text(segment, 4);
        this.header.date =
          date(segment, 16) ?? expected(segment, 16, 'expected the payment date, found nothing');
        return;
      case 'TRN':
        this.header.trace = need(segment, 2, 'the check or transfer number');
        this.header.originator = text(segment, 3);
        return;
      case 'N1':
        this.party = text(segment, 1) === 'PR' ? 'payer' : text(segment, 1) === 'PE' ? 'payee' : null;
        if (this.party === 'payer') this.header.payer = { name: text(segment, 2), id: text(segment, 4) };
        if (this.party === 'payee')
          this.header.payee = {
            name: text(segment, 2),
            npi: text(segment, 3) === 'XX' ? text(segment, 4) : '',
            taxId: text(segment, 3) === 'FI' ? text(segment, 4) : '',
          };
        return;
      case 'REF':
        this.reference(segment);
        return;
      case 'LX':
        this.finishClaim();
        this.sendHeader(segment);
        return;
      case 'CLP':
        this.finishClaim();
        this.sendHeader(segment);
        this.beginClaim(segment);
        return;
      case 'CAS':
        (this.line ?? this.inClaim(segment)).adjustments.push(...readAdjustments(segment));
        return;
      case 'NM1':
        if (text(segment, 1) === 'QC') {
          this.inClaim(segment).patient = {
            last: text(segment, 3),
            first: text(segment, 4),
            memberId: text(segment, 9),
          };
        } else if (text(segment, 1) === 'TT')
          this.inClaim(segment).crossover = { name: text(segment, 3), id: text(segment, 9) };
        return;
      case 'MOA':
        this.inClaim(segment).remarks.push(...[3, 4, 5, 6, 7].map((n) => text(segment, n)).filter(Boolean));
        return;
      case 'MIA':
        this.inClaim(segment).remarks.push(
          ...[5, 20, 21, 22, 23].map((n) => text(segment, n)).filter(Boolean),
        );
        return;
      case 'DTM':
        if (this.line && ['472', '150'].includes(text(segment, 1))) this.line.date = date(segment, 2);
        else if (this.claim && text(segment, 1) === '232') this.claim.date = date(segment, 2);
        return;
      case 'SVC':
        this.beginLine(segment);
        return;
      case 'AMT':
        if (this.line && text(segment, 1) === 'B6')
          this.line.allowed = needMoney(segment, 2, 'the allowed amount');
        return;
      case 'LQ':
        if (this.line && text(segment, 1) === 'HE') this.line.remarks.push(text(segment, 2));
        return;
      case 'PLB': {
        this.finishClaim();
        this.sendHeader(segment);
        const period = date(segment, 2);
        for (let at = 3; at <= 13; at += 2) {
          if (text(segment, at) === '' && text(segment, at + 1) === '') continue;
          const [code = '', reference = ''] = components(segment, at, this.delimiters.component);
          this.providerAdjustments.push({
            code,
            reference,
            amount: needMoney(segment, at + 1, 'the adjustment amount'),
            ...(text(segment, 1) ? { provider: text(segment, 1) } : {}),
            ...(period ? { period } : {}),
          });
        }
      }
    }
  }

  end(segment: Segment): void {
    this.finishClaim();
    this.sendHeader(segment);
    this.out.push({ kind: 'end', providerAdjustments: this.providerAdjustments });
  }

  drain(into: RemitEvent[]): void {
    if (this.out.length > 0) into.push(...this.out.splice(0));
  }

  private reference(segment: Segment): void {
    if (this.line && text(segment, 1) === '6R') this.line.lineControl = text(segment, 2);
    else if (!this.claim && this.party === 'payer' && text(segment, 1) === '2U')
      this.header.payer!.id ||= text(segment, 2);
    else if (!this.claim && this.party === 'payee' && text(segment, 1) === 'TJ')
      this.header.payee!.taxId ||= text(segment, 2);
  }

  private beginClaim(segment: Segment): void {
    this.claim = {
      controlNumber: need(segment, 1, 'the patient control number'),
      status: need(segment, 2, 'the claim status code'),
      charge: needMoney(segment, 3, 'the claim charge'),
      paid: needMoney(segment, 4, 'the claim payment'),
      patientResponsibility: money(segment, 5),
      payerClaimNumber: text(segment, 7),
      adjustments: [],
      patient: { last: '', first: '', memberId: '' },
      date: null,
      remarks: [],
      lines: [],
    };
  }

  private beginLine(segment: Segment): void {
    const claim = this.inClaim(segment);
    const [, code = '', ...modifiers] = components(segment, 1, this.delimiters.component);
    if (code === '') expected(segment, 1, 'expected qualifier and procedure code');
    const [, billed = ''] = components(segment, 6, this.delimiters.component);
    this.line = {
      code,
      billed: billed === code ? '' : billed,
      modifiers: modifiers.slice(0, 4).filter(Boolean),
      charge: needMoney(segment, 2, 'the line charge'),
      paid: money(segment, 3),
      units: quantity(segment, 5, 1),
      date: null,
      adjustments: [],
      lineControl: '',
      allowed: null,
      remarks: [],
    };
    claim.lines.push(this.line);
  }

  private inClaim(segment: Segment): RemitClaim {
    return this.claim ?? expected(segment, undefined, 'expected CLP before this segment');
  }

  private finishClaim(): void {
    if (this.claim) this.out.push({ kind: 'claim', claim: this.claim });
    this.claim = null;
    this.line = null;
  }

  private sendHeader(segment: Segment): void {
    if (this.headerSent) return;
    const h = this.header;
    if (h.payment === undefined || !h.date)
      expected(segment, undefined, 'expected BPR, the payment, before this segment');
    if (!h.trace)
      expected(segment, undefined, 'expected TRN, the check or transfer number, before this segment');
    if (!h.payer) expected(segment, undefined, 'expected N1*PR, the payer, before this segment');
    this.out.push({
      kind: 'header',
      header: { ...h, payee: h.payee ?? { name: '', npi: '', taxId: '' } } as RemitHeader,
      setControl: this.setControl,
    });
    this.headerSent = true;
  }
}

/**
 * Streams the remittances of a file; sets of other kinds are passed over.
 * @throws X12Error where the file does not follow the standard; nothing read before it should then be kept.
 */
export async function* read835(
  source: AsyncIterable<string> | Iterable<string>,
): AsyncGenerator<RemitEvent[]> {
  let set: SetReader | null = null;
  for await (const events of readInterchanges(source)) {
    const out: RemitEvent[] = [];
    for (const event of events) {
      if (event.kind === 'interchange') {
        out.push({ kind: 'interchange', interchange: event.interchange });
      } else if (event.kind === 'set') {
        set = event.setId === '835' ? new SetReader(event.controlNumber, event.segment.delimiters) : null;
      } else if (event.kind === 'segment' && set) {
        set.take(event.segment);
        set.drain(out);
      } else if (event.kind === 'set-end' && set) {
        set.end(event.segment);
        set.drain(out);
      }
    }
    if (out.length > 0) yield out;
  }
}

/** Reads all remittances of a text into memory: for small files and tests. @throws X12Error */
export async function readRemittances(
  source: AsyncIterable<string> | Iterable<string>,
): Promise<Remittance[]> {
  const found: Remittance[] = [];
  for await (const events of read835(source)) {
    for (const event of events) {
      if (event.kind === 'header') found.push({ ...event.header, claims: [], providerAdjustments: [] });
      else if (event.kind === 'claim') found.at(-1)!.claims.push(event.claim);
      else if (event.kind === 'end') found.at(-1)!.providerAdjustments = event.providerAdjustments;
    }
  }
  return found;
}

/** Writes remittances as one interchange with one set each. */
export function write835(
  interchange: Interchange,
  remittances: readonly Remittance[],
  groupDate: string,
  qualifier: 'HC' | 'AD' = 'HC',
): string {
  const x = new X12Writer(interchange);
  x.beginGroup('HP', VERSION_835, String(Number(interchange.controlNumber)), groupDate);
  remittances.forEach((remit, index) => {
    x.beginSet('835', String(index + 1).padStart(4, '0'));
    const day = toX12Date(remit.date);
    x.segment(
      'BPR',
      remit.handling,
      toDecimal(remit.payment),
      remit.creditDebit,
      remit.method,
      ...(remit.method === 'ACH'
        ? ['CCP', '01', '999999992', 'DA', '123456', remit.originator, '', '01', '999999992', 'DA', '98765']
        : Array<string>(11).fill('')),
      day,
    );
    x.segment('TRN', '1', remit.trace, remit.originator);
    x.segment('DTM', '405', day);
    x.segment('N1', 'PR', remit.payer.name, 'XV', remit.payer.id);
    x.segment('N3', '1 Signal Row').segment('N4', 'Port Alder', 'WA', '980010001');
    x.segment('PER', 'BL', 'Provider service', 'TE', '5550100');
    const { name, npi, taxId } = remit.payee;
    if (npi || !taxId) x.segment('N1', 'PE', name, npi ? 'XX' : '', npi);
    else x.segment('N1', 'PE', name, 'FI', taxId);
    if (npi && taxId) x.segment('REF', 'TJ', taxId);
    if (remit.claims.length > 0) x.segment('LX', '1');
    for (const claim of remit.claims) writeClaim(x, claim, qualifier);
    for (const plb of remit.providerAdjustments) {
      x.segment(
        'PLB',
        plb.provider ?? remit.payee.npi,
        plb.period ? toX12Date(plb.period) : `${remit.date.slice(0, 4)}1231`,
        [plb.code, plb.reference],
        toDecimal(plb.amount),
      );
    }
    x.endSet();
  });
  return x.endGroup().finish();
}

function writeClaim(x: X12Writer, claim: RemitClaim, qualifier: string): void {
  const responsibility = claim.patientResponsibility === 0 ? '' : toDecimal(claim.patientResponsibility);
  x.segment(
    'CLP',
    claim.controlNumber,
    claim.status,
    toDecimal(claim.charge),
    toDecimal(claim.paid),
    responsibility,
    '12',
    claim.payerClaimNumber,
  );
  writeAdjustments(x, claim.adjustments);
  x.segment(
    'NM1',
    'QC',
    '1',
    claim.patient.last,
    claim.patient.first,
    '',
    '',
    '',
    claim.patient.memberId ? 'MI' : '',
    claim.patient.memberId,
  );
  if (claim.crossover)
    x.segment(
      'NM1',
      'TT',
      '2',
      claim.crossover.name,
      '',
      '',
      '',
      '',
      claim.crossover.id ? 'PI' : '',
      claim.crossover.id,
    );
  if (claim.remarks.length > 0) x.segment('MOA', '', '', ...claim.remarks.slice(0, 5));
  if (claim.date) x.segment('DTM', '232', toX12Date(claim.date));
  for (const line of claim.lines) {
    x.segment(
      'SVC',
      [qualifier, line.code, ...line.modifiers],
      toDecimal(line.charge),
      toDecimal(line.paid),
      '',
      String(line.units),
      ...(line.billed ? [[qualifier, line.billed]] : []),
    );
    if (line.date) x.segment('DTM', '472', toX12Date(line.date));
    writeAdjustments(x, line.adjustments);
    if (line.lineControl) x.segment('REF', '6R', line.lineControl);
    if (line.allowed !== null) x.segment('AMT', 'B6', toDecimal(line.allowed));
    for (const remark of line.remarks) x.segment('LQ', 'HE', remark);
  }
}
