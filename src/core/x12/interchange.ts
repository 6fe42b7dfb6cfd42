/**
 * Interchange (ISA/IEA), group (GS/GE) and set (ST/SE) envelopes: control numbers must agree and counts must be
 * true (ASC X12.5 and X12.6).
 */
import { type Delimiters, OUR_DELIMITERS, type Segment, X12Error, readSegments } from './segments';

/** Who sends an interchange to whom. */
export interface Interchange {
  senderQualifier: string;
  sender: string;
  receiverQualifier: string;
  receiver: string;
  /** Nine digits. */
  controlNumber: string;
  /** YYMMDD and HHMM, as in ISA09 and ISA10. */
  date: string;
  time: string;
  /** T test or P production. */
  usage: string;
}

/** A functional group. */
export interface Group {
  functionalId: string;
  sender: string;
  receiver: string;
  controlNumber: string;
  /** Implementation guide, such as 005010X221A1. */
  version: string;
}

/** What the envelope walk reports, in the order of the file. */
export type InterchangeEvent =
  | { kind: 'interchange'; interchange: Interchange; segment: Segment }
  | { kind: 'group'; group: Group; segment: Segment }
  | { kind: 'set'; setId: string; controlNumber: string; version: string; segment: Segment }
  | { kind: 'segment'; segment: Segment }
  | { kind: 'set-end'; segment: Segment; segments: number }
  | { kind: 'ta1'; segment: Segment }
  | { kind: 'interchange-end'; segment: Segment };

/** Raises an error at an element of a segment. */
export function expected(segment: Segment, element: number | undefined, problem: string): never {
  throw new X12Error(
    { interchange: segment.interchange, segment: segment.number, id: segment.id, element },
    problem,
  );
}

/** Walks the envelopes of a file, segment by segment. */
export class InterchangeWalk {
  private interchange: Interchange | null = null;
  private group: Group | null = null;
  private set: { control: string; segments: number } | null = null;
  private groups = 0;
  private sets = 0;

  /**
   * Takes the next segment.
   * @throws X12Error naming the segment and element where the envelopes are wrong.
   */
  take(segment: Segment): InterchangeEvent | null {
    const e = segment.elements;
    switch (segment.id) {
      case 'ISA':
        if (this.interchange)
          expected(
            segment,
            undefined,
            'an interchange begins before the one before it has ended: expected IEA',
          );
        this.interchange = {
          senderQualifier: e[5]!,
          sender: e[6]!.trim(),
          receiverQualifier: e[7]!,
          receiver: e[8]!.trim(),
          date: e[9]!,
          time: e[10]!,
          controlNumber: e[13]!,
          usage: e[15]!,
        };
        this.groups = 0;
        return { kind: 'interchange', interchange: this.interchange, segment };
      case 'TA1':
        return { kind: 'ta1', segment };
      case 'GS':
        if (this.group)
          expected(segment, undefined, 'a group begins before the one before it has ended: expected GE');
        this.group = {
          functionalId: e[1] ?? '',
          sender: e[2] ?? '',
          receiver: e[3] ?? '',
          controlNumber: e[6] ?? '',
          version: e[8] ?? '',
        };
        this.sets = 0;
        return { kind: 'group', group: this.group, segment };
      case 'ST':
        if (!this.group) expected(segment, undefined, 'a set outside a group: expected GS before it');
        if (this.set)
          expected(segment, undefined, 'a set begins before the one before it has ended: expected SE');
        this.set = { control: e[2] ?? '', segments: 1 };
        return {
          kind: 'set',
          setId: e[1] ?? '',
          controlNumber: this.set.control,
          version: e[3] || this.group.version,
          segment,
        };
      case 'SE': {
        if (!this.set)
          expected(segment, undefined, 'the end of a set that did not begin: expected ST before it');
        const count = this.set.segments + 1;
        if (e[1] !== String(count))
          expected(segment, 1, `expected ${count} segments, the count says ${e[1] ?? 'nothing'}`);
        if (e[2] !== this.set.control)
          expected(segment, 2, `expected control number ${this.set.control}, found ${e[2] ?? 'nothing'}`);
        this.set = null;
        this.sets += 1;
        return { kind: 'set-end', segment, segments: count };
      }
      case 'GE':
        if (!this.group || this.set)
          expected(
            segment,
            undefined,
            this.set ? 'expected SE before the end of the group' : 'expected GS before it',
          );
        if (Number(e[1]) !== this.sets)
          expected(segment, 1, `expected ${this.sets} sets, the count says ${e[1] ?? 'nothing'}`);
        if (e[2] !== this.group.controlNumber)
          expected(
            segment,
            2,
            `expected control number ${this.group.controlNumber}, found ${e[2] ?? 'nothing'}`,
          );
        this.group = null;
        this.groups += 1;
        return null;
      case 'IEA':
        if (this.group || !this.interchange)
          expected(segment, undefined, 'expected GE before the end of the interchange');
        if (Number(e[1]) !== this.groups)
          expected(segment, 1, `expected ${this.groups} groups, the count says ${e[1] ?? 'nothing'}`);
        if (e[2] !== this.interchange.controlNumber) {
          expected(
            segment,
            2,
            `expected control number ${this.interchange.controlNumber}, found ${e[2] ?? 'nothing'}`,
          );
        }
        this.interchange = null;
        return { kind: 'interchange-end', segment };
      default:
        if (!this.set) expected(segment, undefined, 'a segment outside any set');
        this.set.segments += 1;
        return { kind: 'segment', segment };
    }
  }
}

/** Walks a stream of text and yields its envelope events; each batch shares one wake-up. */
export async function* readInterchanges(
  source: AsyncIterable<string> | Iterable<string>,
): AsyncGenerator<InterchangeEvent[]> {
  const walk = new InterchangeWalk();
  for await (const batch of readSegments(source)) {
    const events: InterchangeEvent[] = [];
    for (const segment of batch) {
      const event = walk.take(segment);
      if (event) events.push(event);
    }
    yield events;
  }
}

/** A set of segments with its envelopes, small enough to hold in memory. */
export interface TransactionSet {
  interchange: Interchange;
  delimiters: Delimiters;
  group: Group;
  setId: string;
  /** The implementation guide that the set names (ST03), or its group (GS08). */
  version: string;
  controlNumber: string;
  /** The segments between ST and SE. */
  segments: Segment[];
}

/** All sets that are wanted (by set id), and all TA1 segments, of a text. @throws X12Error */
export async function readSets(
  source: AsyncIterable<string> | Iterable<string>,
  wanted: (setId: string) => boolean = () => true,
): Promise<{ sets: TransactionSet[]; ta1: Segment[]; interchanges: Interchange[] }> {
  const sets: TransactionSet[] = [];
  const ta1: Segment[] = [];
  const interchanges: Interchange[] = [];
  let interchange: Interchange | undefined;
  let group: Group | undefined;
  let taking = false;
  for await (const events of readInterchanges(source)) {
    for (const event of events) {
      if (event.kind === 'interchange') {
        interchange = event.interchange;
        interchanges.push(interchange);
      } else if (event.kind === 'group') group = event.group;
      else if (event.kind === 'ta1') ta1.push(event.segment);
      else if (event.kind === 'set') {
        taking = wanted(event.setId);
        if (taking)
          sets.push({
            interchange: interchange!,
            delimiters: event.segment.delimiters,
            group: group!,
            setId: event.setId,
            version: event.version,
            controlNumber: event.controlNumber,
            segments: [],
          });
      } else if (event.kind === 'segment' && taking) sets.at(-1)!.segments.push(event.segment);
    }
  }
  return { sets, ta1, interchanges };
}

/** Writes interchanges. Values are cleaned of delimiter characters; trailing empty elements are dropped. */
export class X12Writer {
  private readonly out: string[] = [];
  private setSegments = 0;
  private setControl = '';
  private sets = 0;
  private groups = 0;
  private group = '';

  constructor(
    private readonly interchange: Interchange,
    private readonly delimiters: Delimiters = OUR_DELIMITERS,
    private readonly lineBreak = '',
  ) {
    const d = delimiters;
    const i = interchange;
    this.raw(
      [
        'ISA',
        '00',
        ' '.repeat(10),
        '00',
        ' '.repeat(10),
        i.senderQualifier,
        i.sender.padEnd(15).slice(0, 15),
        i.receiverQualifier,
        i.receiver.padEnd(15).slice(0, 15),
        i.date,
        i.time,
        d.repetition,
        '00501',
        i.controlNumber.padStart(9, '0'),
        '0',
        i.usage,
        d.component,
      ].join(d.element),
    );
  }

  /** Begins a functional group; `date` is CCYYMMDD and `time` HHMM. */
  beginGroup(functionalId: string, version: string, controlNumber: string, date: string): this {
    this.group = controlNumber;
    this.sets = 0;
    const i = this.interchange;
    return this.raw(
      ['GS', functionalId, i.sender, i.receiver, date, i.time, controlNumber, 'X', version].join(
        this.delimiters.element,
      ),
    );
  }

  /** Begins a set. `version` goes to ST03, which TA1-less acknowledgments and claims carry but the 835 does not. */
  beginSet(setId: string, controlNumber: string, version?: string): this {
    this.setSegments = 0;
    this.setControl = controlNumber;
    return this.segment('ST', setId, controlNumber, version);
  }

  /** Writes one segment; an element may be a list of components. Empty ends are dropped. */
  segment(id: string, ...elements: (string | undefined | readonly (string | undefined)[])[]): this {
    const written = elements.map((element) =>
      Array.isArray(element)
        ? trimEnd((element as (string | undefined)[]).map((part) => this.clean(part))).join(
            this.delimiters.component,
          )
        : this.clean(element as string | undefined),
    );
    this.setSegments += 1;
    return this.raw([id, ...trimEnd(written)].join(this.delimiters.element));
  }

  /** Ends the set with its count. */
  endSet(): this {
    this.segment('SE', String(this.setSegments + 1), this.setControl);
    this.sets += 1;
    return this;
  }

  /** Ends the group with its count. */
  endGroup(): this {
    this.groups += 1;
    return this.raw(['GE', String(this.sets), this.group].join(this.delimiters.element));
  }

  /** Ends the interchange and returns the whole text. */
  finish(): string {
    this.raw(
      ['IEA', String(this.groups), this.interchange.controlNumber.padStart(9, '0')].join(
        this.delimiters.element,
      ),
    );
    return this.out.join('');
  }

  private raw(text: string): this {
    this.out.push(text + this.delimiters.terminator + this.lineBreak);
    return this;
  }

  private clean(value: string | undefined): string {
    if (!value) return '';
    const d = this.delimiters;
    let text = value;
    for (const mark of [d.element, d.component, d.terminator, d.repetition])
      if (mark) text = text.replaceAll(mark, ' ');
    return text.replace(/[\u0000-\u001f]+/g, ' ').trim();
  }
}

function trimEnd(parts: string[]): string[] {
  let length = parts.length;
  while (length > 0 && parts[length - 1] === '') length -= 1;
  return parts.slice(0, length);
}
