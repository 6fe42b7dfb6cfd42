/**
 * Reading X12 segments from text in pieces of any size, with the delimiters that each interchange's ISA
 * names (ASC X12.5, interchange control structures; the fixed-length ISA of 106 characters).
 */

/** One segment: `elements[0]` is its id, `elements[1]` its first element, as text without delimiters. */
export interface Segment {
  readonly id: string;
  readonly elements: string[];
  /** Number of the segment within its interchange; ISA is 1. */
  readonly number: number;
  /** Number of the interchange within the file, from 1. */
  readonly interchange: number;
  /** The separators of its own interchange. */
  readonly delimiters: Delimiters;
}

/** The separators of an interchange. */
export interface Delimiters {
  readonly element: string;
  readonly component: string;
  readonly repetition: string;
  readonly terminator: string;
}

/** The separators that Wergeld writes. */
export const OUR_DELIMITERS: Delimiters = { element: '*', component: ':', repetition: '^', terminator: '~' };

/** Where in a file something was found, and what was expected there. */
export interface X12Place {
  interchange: number;
  segment: number;
  id: string;
  /** Element number, from 1; absent when the segment as a whole is meant. */
  element?: number;
}

/** A file, or part of one, that does not follow the standard. The message names the place and what was expected. */
export class X12Error extends Error {
  constructor(
    readonly place: X12Place,
    readonly problem: string,
  ) {
    const element = place.element ? String(place.element).padStart(2, '0') : '';
    super(`Interchange ${place.interchange}, segment ${place.segment} (${place.id}${element}): ${problem}`);
    this.name = 'X12Error';
  }
}

const ISA_LENGTH = 106;
/** Longest segment taken; a longer run without a terminator is not X12. */
const MAX_SEGMENT = 20_000;

/**
 * Cuts text into segments. Feed it pieces with {@link push}, then call {@link end}. Line breaks around segments are
 * ignored; several interchanges may follow each other.
 */
export class SegmentReader {
  private delimiters: Delimiters = OUR_DELIMITERS;
  private rest = '';
  private interchange = 0;
  private count = 0;
  private inside = false;

  /**
   * Takes the next piece of text.
   * @returns the segments that are complete now.
   * @throws X12Error when an interchange does not start with a well-formed ISA or a segment never ends.
   */
  push(text: string): Segment[] {
    // No character set of X12 has it, and no database keeps it in text.
    if (text.includes('\0')) this.fail('the file holds a NUL character, which X12 does not know');
    const data = this.rest === '' ? text : this.rest + text;
    const found: Segment[] = [];
    let at = 0;
    for (;;) {
      at = skipBreaks(data, at);
      if (!this.inside) {
        if (data.length - at < ISA_LENGTH) break;
        this.openInterchange(data, at);
      }
      const end = data.indexOf(this.delimiters.terminator, at);
      if (end === -1) {
        if (data.length - at > MAX_SEGMENT) {
          this.fail(
            `no segment terminator “${printable(this.delimiters.terminator)}” within ${MAX_SEGMENT} characters`,
          );
        }
        break;
      }
      this.count += 1;
      const elements = data.slice(at, end).split(this.delimiters.element);
      const id = elements[0]!;
      at = end + 1;
      found.push({
        id,
        elements,
        number: this.count,
        interchange: this.interchange,
        delimiters: this.delimiters,
      });
      if (id === 'IEA') this.inside = false;
    }
    this.rest = at >= data.length ? '' : data.slice(at);
    return found;
  }

  /**
   * Says that there is no more text.
   * @throws X12Error when the file is empty, is not X12, or breaks off.
   */
  end(): void {
    const left = this.rest.slice(skipBreaks(this.rest, 0));
    if (this.interchange === 0) {
      if (left === '') throw new X12Error({ interchange: 1, segment: 1, id: 'ISA' }, 'the file is empty');
      this.interchange = 1;
      this.fail(
        left.startsWith('ISA')
          ? `the file breaks off in its first segment, after ${left.length} of ${ISA_LENGTH} characters`
          : 'this is not an X12 file: it does not begin with ISA',
      );
    }
    if (this.inside) {
      this.fail(
        `the file breaks off here${left === '' ? '' : ', in the middle of a segment'}: expected IEA at the end`,
      );
    }
    if (left !== '') this.fail('text after the last interchange that is not an ISA');
  }

  private openInterchange(data: string, at: number): void {
    this.interchange += 1;
    this.count = 0;
    const isa = data.slice(at, at + ISA_LENGTH);
    const element = isa[3]!;
    if (!isa.startsWith('ISA')) this.fail('expected ISA, this is not an X12 interchange');
    const fields = isa.split(element);
    if (/[A-Za-z0-9\s]/.test(element) || fields.length !== 17 || fields[16]!.length !== 2) {
      this.fail(`ISA must have 16 elements in ${ISA_LENGTH} characters, with the delimiters it names`);
    }
    const [component, terminator] = [isa[104]!, isa[105]!];
    // Before version 00402 ISA11 held a standards identifier, not the repetition separator.
    const repetition = /[A-Za-z0-9\s]/.test(fields[11]!) ? '' : fields[11]!;
    if (isa.indexOf(terminator) !== ISA_LENGTH - 1)
      this.fail(`the segment terminator “${printable(terminator)}” stands within ISA`);
    if (/[A-Za-z0-9 ]/.test(component + terminator) || new Set([element, component, terminator]).size < 3) {
      this.fail(`unusable delimiters “${printable(element + component + terminator)}”`);
    }
    this.delimiters = { element, component, repetition, terminator };
    this.inside = true;
  }

  private fail(problem: string): never {
    throw new X12Error(
      { interchange: this.interchange, segment: this.count + 1, id: this.count === 0 ? 'ISA' : '?' },
      problem,
    );
  }
}

function skipBreaks(data: string, from: number): number {
  let at = from;
  while (at < data.length) {
    const code = data.charCodeAt(at);
    // Line feed, carriage return, space, tab, byte-order mark.
    if (code !== 10 && code !== 13 && code !== 32 && code !== 9 && code !== 0xfeff) break;
    at += 1;
  }
  return at;
}

const printable = (text: string): string => JSON.stringify(text).slice(1, -1);

/**
 * Reads segments from a stream, in batches so that a large file costs little more than its text.
 * @param source pieces of text (already decoded)
 * @throws X12Error as {@link SegmentReader}
 */
export async function* readSegments(
  source: AsyncIterable<string> | Iterable<string>,
  reader: SegmentReader = new SegmentReader(),
): AsyncGenerator<Segment[]> {
  for await (const piece of source) {
    const batch = reader.push(piece);
    if (batch.length > 0) yield batch;
  }
  reader.end();
}
