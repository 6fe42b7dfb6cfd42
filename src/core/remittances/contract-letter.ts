/** The letter by which a payer is asked for what its contract says: as it was written, and its words. */
import { z } from 'zod';
import { type CalendarDate, formatDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField, dateField, idField, placeFields, reasonField } from '../fields';
import { type Cents, formatMoneyPlain, minus, sum } from '../money';
import { PAPER_SIZES, type PaperSize } from '../paper';
import { counted } from '../words';

const place = z.object(placeFields);

const letterLine = z.object({
  /** Our number of the claim, and the payer's. */
  claim: z.string(),
  payerClaim: z.string(),
  patient: z.string(),
  memberId: z.string(),
  serviceDate: dateField,
  code: z.string(),
  units: z.number(),
  charge: centsField,
  expected: centsField,
  allowed: centsField,
  pays: centsField,
  paid: centsField,
  cause: z.string(),
});

/** A line of the list that goes with the letter. Amounts in cents. */
export type LetterLine = z.output<typeof letterLine>;

/** A letter to a payer, as it was written. */
export interface ContractLetterContent {
  paper: PaperSize;
  practice: z.output<typeof place> & { phone: string; npi: string };
  to: z.output<typeof place>;
  date: CalendarDate;
  /** By when an answer is asked for. */
  answerBy: CalendarDate;
  lines: LetterLine[];
}

/** The kept letter. */
export const contractLetterDocument = documentKind<ContractLetterContent>(
  'letter to a payer',
  1,
  z.object({
    paper: z.enum(PAPER_SIZES),
    practice: place.extend({ phone: z.string(), npi: z.string() }),
    to: place,
    date: dateField,
    answerBy: dateField,
    lines: z.array(letterLine),
  }),
);

/** What a letter asks for: what the payer should have paid beyond what it paid. Cents. */
export const askedFor = (lines: readonly Pick<LetterLine, 'pays' | 'paid'>[]): Cents =>
  sum(lines.map(({ pays, paid }) => minus(pays, paid)));

/** The words of a letter, paragraph by paragraph. */
export const contractLetterWords = ({ practice, date, answerBy, lines }: ContractLetterContent): string[] => {
  const below = formatMoneyPlain(sum(lines.map(({ expected, allowed }) => minus(expected, allowed))));
  const asked = askedFor(lines);
  return [
    `By ${formatDate(date)} you have allowed ${counted(lines.length, 'service')} at less than our contract with you says, by ${below} US dollars together. The list that follows names each of them, with what the contract allows and what you did.`,
    asked > 0
      ? `Please decide these claims again at the contract, and pay the ${formatMoneyPlain(asked)} US dollars that are still yours to pay, with the patients’ shares as you took them.`
      : 'Please decide these claims again at the contract: what you told the patients to pay is not right either.',
    `If you hold that you decided them rightly, please send us the fees and rules by which you did, by ${formatDate(answerBy)}; we are at ${practice.phone}.`,
    practice.name,
  ];
};

/** So many lines are in one letter at most. */
export const MOST_LINES = 2000;

const linesField = z
  .array(z.strictObject({ chargeId: idField, coverageId: idField }))
  .min(1, 'is missing')
  .max(MOST_LINES, `may be ${MOST_LINES} lines`);

/** Lines of a payer that it is asked about. */
export const contractLetterInput = z.object({
  payerId: idField,
  lines: linesField,
  key: z.string().min(1).max(80),
});
/** Lines whose difference is let be, and why. */
export const letBeInput = z.object({ lines: linesField, why: reasonField('Say why it is let be') });
/** Lines that are looked at again. */
export const lookAgainInput = z.object({ lines: linesField });
