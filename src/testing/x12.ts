/** Files for tests, and how another program reads them. */
import { Readable } from 'node:stream';
import { type X12Interchange, X12Parser } from 'node-x12';
import { X12parser } from 'x12-parser';
import { calendarDate } from '../core/calendar';
import type { ClaimContent } from '../core/claims/content';
import { cents } from '../core/money';
import { write837 } from '../core/x12/claim837';
import type { RemitClaim, Remittance } from '../core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleClaim } from '../core/x12/samples';

/** What goes around the claims of a file. */
export const AROUND = {
  interchange: SAMPLE_INTERCHANGE,
  controlNumber: '7',
  date: '20260316',
  time: '0600',
  submitter: { name: 'Osprey Landing Health', contact: 'Desk', phone: '555-0100' },
  receiverName: 'Tideline',
};

/** An 837 file: of the claims given, or of two, one for a child of the subscriber. */
export function transmission(form: 'professional' | 'dental', claims?: ClaimContent[]): string {
  const own = sampleClaim(form);
  const child: ClaimContent = {
    ...own,
    controlNumber: 'OL100002B',
    relationship: 'child',
    patient: { ...own.patient, first: 'Leo', birthDate: calendarDate('2012-09-30'), sex: 'M' },
  };
  return write837({ ...AROUND, claims: claims ?? [own, child] });
}

/** A remittance of Cedar Sound. `payment` in cents. */
export const remittance = (claims: RemitClaim[], payment: number): Remittance => ({
  handling: 'I',
  payment: cents(payment),
  creditDebit: 'C',
  method: 'ACH',
  date: calendarDate('2026-03-12'),
  trace: 'T1',
  originator: '1910000011',
  payer: { name: 'Cedar Sound Health', id: 'CSH01' },
  payee: { name: 'Osprey Landing Health', npi: '1234567018', taxId: '' },
  claims,
  providerAdjustments: [],
});

/** Cuts a text into pieces, as a stream would bring it. */
export const cut = (text: string, size: number): string[] =>
  text.match(new RegExp(`[\\s\\S]{1,${size}}`, 'g')) ?? [];

/** Reads with a general X12 package from the registry: its segments by name and element number. */
export const foreign = (text: string): Promise<Record<string, string>[]> =>
  new Promise((resolve, reject) => {
    const found: Record<string, string>[] = [];
    const parser = new X12parser();
    parser
      .on('data', (segment: Record<string, string>) => found.push(segment))
      .on('end', () => resolve(found))
      .on('error', reject);
    Readable.from([text]).pipe(parser);
  });

/** Separators that senders use: the usual ones, line ends, control characters, punctuation. */
export const SEPARATORS = [
  ['*', ':', '~'],
  ['|', '>', '\n'],
  ['\x1d', '\x1f', '\x1c'],
  ['+', ';', "'"],
  ['*', '>', '!'],
] as const;

/** A text of ours as another sender would write it, with separators of its own; values lose what would be one. */
export function inSeparators(text: string, [element, component, end]: (typeof SEPARATORS)[number]): string {
  const marks: Record<string, string> = { '*': element, ':': component, '~': end };
  return [...text].map((c) => marks[c] ?? (c === element || c === component || c === end ? ' ' : c)).join('');
}

/** Reads with another general X12 package: its segments, each with its elements behind its name. */
export const otherForeign = (text: string): string[][] =>
  (new X12Parser(true).parse(text) as X12Interchange).functionalGroups
    .flatMap(({ transactions }) => transactions)
    .flatMap(({ segments }) =>
      segments.map(({ tag, elements }) => [tag, ...elements.map(({ value }) => value)]),
    );
