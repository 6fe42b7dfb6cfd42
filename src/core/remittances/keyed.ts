/** A remittance that is keyed from paper: what is typed of each line, and what a payer would have said of it in a file. */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { documentKind } from '../documents';
import {
  centsField,
  dateField,
  idField,
  keyField,
  moneyField,
  optionalDateField,
  reasonField,
  sureField,
  textField,
} from '../fields';
import {
  type Cents,
  ZERO,
  absolute,
  add,
  formatMoneyPlain,
  minus,
  negate,
  parseMoney,
  sum,
  toDecimal,
} from '../money';
import { type Adjustment, GROUP_CODES, adjustmentSchema } from '../x12/adjustments';
import type { RemitClaim, RemitLine } from '../x12/remittance835';

/** Where the paper came from. */
export const KEYED_SOURCES = { mail: 'mail', portal: 'portal', lockbox: 'lockbox' } as const;
/** One of them. */
export type KeyedSource = keyof typeof KEYED_SOURCES;
/** How it pays: the codes of the 835 (BPR04). */
export const KEYED_METHODS = { CHK: 'check', ACH: 'transfer', NON: 'no payment' } as const;
/** One of them. */
export type KeyedMethod = keyof typeof KEYED_METHODS;

/** The patient's part by its cause: claim adjustment reason codes 1 to 3 under PR (public list of reason codes; from memory). */
const PARTS = { deductible: '1', coinsurance: '2', copay: '3' } as const;
/** The charge exceeds what is contracted: claim adjustment reason code 45 (from memory). */
const CONTRACT = '45';

/** A provider adjustment by which what a payment does not explain yet waits in the payer's credit: a code of our own, which goes nowhere. */
export const NOT_EXPLAINED = 'REST';

const amountField = centsField.refine((value) => value >= 0, 'is below zero');

/** What is typed of one line. Amounts in cents; `allowed` is null where the paper says none. */
export const keyedLineSchema = z.object({
  /** The line of our claim, by its number. */
  number: z.int().positive(),
  allowed: amountField.nullable(),
  deductible: amountField,
  coinsurance: amountField,
  copay: amountField,
  paid: amountField,
  /** What else is taken off, or added below zero, by group and reason. */
  reasons: z.array(adjustmentSchema).max(20, 'are more than 20'),
  remarks: z.array(z.string().regex(/^[A-Z0-9]{1,6}$/, 'is no remark code')).max(10, 'are more than ten'),
});
/** What is typed of one line. */
export type KeyedLine = z.output<typeof keyedLineSchema>;

/** The lines of a claim as they are kept; one that is not keyed yet is left out. */
export const keyedLinesDocument = documentKind<KeyedLine[]>(
  'list of keyed lines',
  1,
  z.array(keyedLineSchema),
);

/** A line of our claim that is keyed. Amounts in cents; what is expected is what Enter takes. */
export interface KeyedOf {
  number: number;
  control: string;
  code: string;
  modifiers: string[];
  units: number;
  date: CalendarDate;
  charge: Cents;
  /** Whether a contract says what is above the allowed amount; without one the paper has to say whose that is. */
  contracted: boolean;
}
/** What of a line of ours decides how it explains itself. */
type Explained = Pick<KeyedOf, 'charge' | 'contracted'>;

/**
 * What is typed of a line, as a payer says it: what is above the allowed amount and under no reason that was typed is the contract's
 * (CO-45) where there is one, then the patient's parts, then the reasons. `left` is what does not explain itself, in cents: charge less adjustments less
 * what is paid.
 */
export function explainLine(
  { charge, contracted }: Explained,
  line: KeyedLine,
): { adjustments: Adjustment[]; left: Cents } {
  const other = sum(line.reasons.filter(({ group }) => group !== 'PR').map(({ amount }) => amount));
  const contract = !contracted || line.allowed === null ? ZERO : minus(minus(charge, line.allowed), other);
  const adjustments: Adjustment[] = [
    ...(contract > 0 ? [{ group: 'CO' as const, reason: CONTRACT, amount: contract }] : []),
    ...(['deductible', 'coinsurance', 'copay'] as const).flatMap((part) =>
      line[part] === 0 ? [] : [{ group: 'PR' as const, reason: PARTS[part], amount: line[part] }],
    ),
    ...line.reasons,
  ];
  return { adjustments, left: minus(minus(charge, sum(adjustments.map(({ amount }) => amount))), line.paid) };
}

/**
 * What is expected of a line, as if it were typed: by the contract and the terms of the coverage, cents. What the terms leave to nobody
 * is taken for paid, so that the line explains itself.
 */
export function expectedLine(
  number: number,
  of: Explained,
  part: Omit<KeyedLine, 'number' | 'remarks'>,
): KeyedLine | null {
  const line: KeyedLine = { number, ...part, remarks: [] };
  const paid = add(line.paid, explainLine(of, line).left);
  return paid < 0 ? null : { ...line, paid };
}

/** What a person types of a line; empty where nothing is typed. */
export interface TypedLine {
  allowed: string;
  deductible: string;
  coinsurance: string;
  copay: string;
  paid: string;
  /** Reasons with their amounts, and remarks: `CO-97 12.00 N130`. */
  reasons: string;
}
/** Nothing is typed yet. */
export const NOT_TYPED: TypedLine = {
  allowed: '',
  deductible: '',
  coinsurance: '',
  copay: '',
  paid: '',
  reasons: '',
};

/** Reads reasons and remarks as a person types them, amounts in dollars as everywhere, cents in the answer. @returns why they cannot be read, in words */
export function readReasons(text: string): Pick<KeyedLine, 'reasons' | 'remarks'> | string {
  const words = text
    .toUpperCase()
    .split(/[\s;]+/)
    .filter(Boolean);
  const reasons: KeyedLine['reasons'] = [];
  const remarks: string[] = [];
  for (let at = 0; at < words.length; at += 1) {
    const word = words[at]!.replace(/,$/, '');
    // With a dash also codes of the practice's own; without one only what cannot be a word.
    const code = /^(CO|PR|OA|PI|CR)(?:-([A-Z0-9]{1,5})|([A-Z]?\d{1,3}))$/.exec(word);
    if (code) {
      const amount = parseMoney((words[at + 1] ?? '').replace(/,$/, ''));
      if (amount === null) return `${word} needs its amount`;
      reasons.push({ group: code[1] as Adjustment['group'], reason: (code[2] ?? code[3])!, amount });
      at += 1;
    } else if (/^(N|M|MA)\d{1,4}$/.test(word)) remarks.push(word);
    else return `“${word.slice(0, 12)}” is neither a reason such as CO-97 12.00 nor a remark such as N130`;
  }
  return { reasons, remarks };
}

/** Reasons and remarks as they are typed. */
export const typedReasons = ({ reasons, remarks }: Pick<KeyedLine, 'reasons' | 'remarks'>): string =>
  [...reasons.map(({ group, reason, amount }) => `${group}-${reason} ${toDecimal(amount)}`), ...remarks].join(
    ' ',
  );

/** A line as it was keyed, to be typed over. */
export const typedOf = (line: KeyedLine): TypedLine => ({
  allowed: line.allowed === null ? '' : toDecimal(line.allowed),
  deductible: line.deductible === 0 ? '' : toDecimal(line.deductible),
  coinsurance: line.coinsurance === 0 ? '' : toDecimal(line.coinsurance),
  copay: line.copay === 0 ? '' : toDecimal(line.copay),
  paid: toDecimal(line.paid),
  reasons: typedReasons(line),
});

const FIELDS = ['allowed', 'deductible', 'coinsurance', 'copay', 'paid'] as const;

/**
 * What Enter makes of a line: what is typed, and of the rest what is expected. Where something is typed, what is paid follows from
 * it unless it is typed too. @returns why it cannot be taken, in words
 */
export function takeLine(
  number: number,
  of: Explained,
  typed: TypedLine,
  expected: KeyedLine | null,
): KeyedLine | string {
  const nothing = [...FIELDS, 'reasons' as const].every((field) => typed[field].trim() === '');
  if (nothing) return expected ?? 'Nothing is expected of this line: type what the paper says';
  const amounts = new Map<(typeof FIELDS)[number], Cents>();
  for (const field of FIELDS) {
    const text = typed[field].trim();
    if (text === '') continue;
    const amount = parseMoney(text);
    if (amount === null || amount < 0) return `${field} “${text.slice(0, 12)}” is no amount`;
    amounts.set(field, amount);
  }
  const said = readReasons(typed.reasons);
  if (typeof said === 'string') return said;
  // With a reason of its own, or another allowed amount, what was expected of the parts is not what the paper says.
  const other = said.reasons.length > 0 || amounts.has('allowed');
  const part = (field: 'deductible' | 'coinsurance' | 'copay'): Cents =>
    amounts.get(field) ?? (other ? ZERO : (expected?.[field] ?? ZERO));
  const line: KeyedLine = {
    number,
    allowed: amounts.get('allowed') ?? (said.reasons.length > 0 ? null : (expected?.allowed ?? null)),
    deductible: part('deductible'),
    coinsurance: part('coinsurance'),
    copay: part('copay'),
    paid: ZERO,
    ...said,
  };
  const { left } = explainLine(of, line);
  const paid = amounts.get('paid') ?? left;
  if (paid < 0) return `What is taken off is ${formatMoneyPlain(negate(left))} more than the charge`;
  const open = minus(left, paid);
  return open === 0
    ? { ...line, paid }
    : `${formatMoneyPlain(absolute(open))} ${open > 0 ? 'is not explained' : 'is explained twice'}: the charge less what is taken off is ${formatMoneyPlain(left)}`;
}

/** Whether a claim is taken back by it (CLP02 22). */
export const takesBack = (status: string): boolean => status === '22';

const turn = (amount: Cents, back: boolean): Cents => (back ? negate(amount) : amount);

/** What is keyed of a claim, as a payer says it in a file. What takes back is typed as it was decided, and has its signs turned. */
export function remitClaimOf(
  claim: {
    controlNumber: string;
    status: string;
    payerClaimNumber: string;
    patient: RemitClaim['patient'];
  },
  ours: readonly KeyedOf[],
  lines: readonly KeyedLine[],
): RemitClaim {
  const back = takesBack(claim.status);
  const said: RemitLine[] = ours.flatMap((our) => {
    const line = lines.find(({ number }) => number === our.number);
    if (!line) return [];
    return [
      {
        code: our.code,
        billed: '',
        modifiers: our.modifiers,
        charge: turn(our.charge, back),
        paid: turn(line.paid, back),
        units: our.units,
        date: our.date,
        adjustments: explainLine(our, line).adjustments.map((item) => ({
          ...item,
          amount: turn(item.amount, back),
        })),
        lineControl: our.control,
        allowed: line.allowed === null ? null : turn(line.allowed, back),
        remarks: line.remarks,
      },
    ];
  });
  const all = (of: (line: RemitLine) => readonly Cents[]): Cents => sum(said.flatMap(of));
  return {
    ...claim,
    charge: all(({ charge }) => [charge]),
    paid: all(({ paid }) => [paid]),
    patientResponsibility: all(({ adjustments }) =>
      adjustments.filter(({ group }) => group === 'PR').map(({ amount }) => amount),
    ),
    adjustments: [],
    date: ours[0]?.date ?? null,
    remarks: [],
    lines: said,
  };
}

const headerFields = {
  payerId: idField,
  amount: moneyField.refine((amount) => amount >= 0, 'is below zero'),
  method: z.enum(Object.keys(KEYED_METHODS) as [KeyedMethod, ...KeyedMethod[]]),
  trace: z.string().trim().min(1, 'is missing').max(50, 'may have 50 characters'),
  references: z.array(z.string().trim().min(1).max(50)).max(10, 'are more than ten').default([]),
  paymentDate: dateField,
  /** The day on which it came; today where none is said. */
  receivedDate: optionalDateField,
  source: z.enum(Object.keys(KEYED_SOURCES) as [KeyedSource, ...KeyedSource[]]),
};
/** What stands at the head of a paper remittance. */
export const startKeyedInput = z.object({ ...headerFields, key: keyField, sure: sureField });
/** Its head, put right while it is open. */
export const changeKeyedInput = z.object({
  keyedId: idField,
  ...headerFields,
  seen: z.coerce.number().int(),
});
/** A claim that it speaks of, by its number. */
export const addKeyedClaimInput = z.object({
  keyedId: idField,
  controlNumber: z.string().trim().min(1, 'is missing').max(40, 'may have 40 characters'),
  key: keyField,
});
/** What is keyed of a claim; lines that are not keyed yet are left out. */
export const saveKeyedClaimInput = z.object({
  keyedClaimId: idField,
  /** Claim status code (CLP02). */
  status: z.string().regex(/^(1|2|3|4|19|20|21|22)$/, 'is no status that decides'),
  payerClaimNumber: textField(50),
  lines: z.array(keyedLineSchema).max(999),
  seen: z.coerce.number().int(),
});
/** A claim that it does not speak of after all. */
export const dropKeyedClaimInput = z.object({ keyedClaimId: idField });
/** Provider adjustments that are keyed: interest, an offset; amounts as the paper's sum takes them, positive lowers the payment. */
export const keyedAdjustmentsInput = z.object({
  keyedId: idField,
  adjustments: z
    .array(
      z.object({
        code: z
          .string()
          .trim()
          .toUpperCase()
          .regex(/^[A-Z0-9]{2}$/, 'has two letters or digits'),
        reference: textField(50),
        amount: moneyField.refine((amount) => amount !== 0, 'is missing'),
      }),
    )
    .max(20, 'are more than 20')
    .default([]),
  seen: z.coerce.number().int(),
});
/** It is whole: posted and locked. `rest` says that what it does not explain waits in the payer's credit. */
export const closeKeyedInput = z.object({ keyedId: idField, rest: z.boolean().default(false) });
/** It is not whole after all. */
export const reopenKeyedInput = z.object({
  keyedId: idField,
  why: reasonField('Say why it is opened again'),
});
/** It was begun by mistake. */
export const dropKeyedInput = z.object({ keyedId: idField, why: reasonField('Say why it is dropped') });

/** What a file of `./wergeld remittances key` says: one remittance, with its claims. Amounts as a person writes them. */
export const keyedFileSchema = z.object({
  payer: z.string().trim().min(1, 'is missing'),
  amount: moneyField,
  method: headerFields.method.default('CHK'),
  trace: headerFields.trace,
  references: headerFields.references,
  paymentDate: dateField,
  receivedDate: optionalDateField,
  source: headerFields.source.default('mail'),
  claims: z
    .array(
      z.object({
        controlNumber: z.string().trim().min(1, 'is missing'),
        status: saveKeyedClaimInput.shape.status.optional(),
        payerClaimNumber: textField(50),
        lines: z.array(
          z.object({
            number: z.int().positive(),
            allowed: moneyField.nullish(),
            deductible: moneyField.optional(),
            coinsurance: moneyField.optional(),
            copay: moneyField.optional(),
            paid: moneyField,
            reasons: z
              .array(
                z.object({
                  group: z.enum(GROUP_CODES),
                  reason: z.string().trim().min(1),
                  amount: moneyField,
                }),
              )
              .default([]),
            remarks: keyedLineSchema.shape.remarks.default([]),
          }),
        ),
      }),
    )
    .default([]),
  adjustments: z
    .array(z.object({ code: z.string(), reference: textField(50), amount: z.string() }))
    .default([]),
  /** What the payment does not explain waits in the payer's credit. */
  rest: z.boolean().default(false),
});
