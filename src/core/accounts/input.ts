/** What the forms of the accounts station send. */
import { z } from 'zod';
import { BASES, SECONDARY_TYPES } from './order';
import { BILL_PATIENT, BILL_PATIENT_WHY, type BillPatient, type BillPatientWhy } from './bill-patient';
import { ACCOUNT_CHARGES, type AccountChargeKind } from '../books/entries/charges';
import {
  dateField,
  idField,
  keyField,
  moneyField,
  optionalDateField,
  reasonField,
  stateField,
  sureField,
  textField,
  zipField,
} from '../fields';
import { ORAL_AREAS } from './oral-areas';

const name = z
  .string()
  .trim()
  .min(1, 'is missing')
  .max(60, 'may have 60 characters')
  .regex(/^[^\u0000-\u001f*~^:]+$/, 'has characters that a claim cannot carry (* ~ ^ :)');

const person = {
  last: name,
  first: name,
  birthDate: dateField,
  sex: z.enum(['F', 'M', 'U']),
};
const address = {
  line1: z.string().trim().min(1, 'is missing').max(55, 'may have 55 characters'),
  line2: textField(55),
  city: z.string().trim().min(1, 'is missing').max(30, 'may have 30 characters'),
  state: stateField,
  zip: zipField,
  phone: z
    .string()
    .trim()
    .regex(/^[0-9+() -]{0,20}$/, 'holds digits, spaces and hyphens')
    .default(''),
  email: z.union([z.literal(''), z.email('is not an e-mail address')]).default(''),
};
const memberId = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9-]{0,80}$/, 'holds letters, digits and hyphens')
  .default('');
const coverage = { memberId, groupNumber: textField(50), validFrom: optionalDateField };
const insurancePlanId = z.coerce
  .number()
  .int()
  .nullish()
  .transform((value) => value ?? null);

/** Teeth by the universal numbering: permanent ones 1 to 32, of children A to T. */
const tooth = z
  .string()
  .trim()
  .toUpperCase()
  .regex(/^([1-9]|[12]\d|3[0-2]|[A-T])?$/, 'is 1 to 32 or A to T');

/** What the registration form sends. */
export const registrationInput = z.object({
  ...person,
  ...address,
  insurancePlanId,
  ...coverage,
  key: keyField,
  sure: sureField,
});

/** What the form for a further member sends. */
export const memberInput = z.object({
  householdId: idField,
  ...person,
  insurancePlanId,
  ...coverage,
  key: keyField,
  sure: sureField,
});

/** Who is being registered, as far as it is typed, to be looked for among the households that are there. */
export const likenessInput = z.object({
  last: z.string().trim().max(80).default(''),
  first: z.string().trim().max(80).default(''),
  birthDate: z.string().trim().max(10).default(''),
  phone: z.string().trim().max(20).default(''),
});

/** What the form for a person's own facts sends, with the versions of the rows that it was filled from. */
export const patientInput = z.object({
  patientId: idField,
  ...person,
  ...address,
  /** Teeth that the person has lost, and when where that is known; absent: they stay as they are. */
  lostTeeth: z
    .array(
      z.object({
        tooth: tooth.pipe(z.string().min(1, 'is missing')),
        lostOn: optionalDateField,
      }),
    )
    .max(52, 'are at most 52')
    .optional(),
  /** Versions of patient and household, with a hyphen; absent: whatever stands there is replaced. */
  version: z.string().optional(),
});

/** How the patient is related to the subscriber. */
export const RELATIONSHIPS = {
  self: 'The patient’s own policy',
  spouse: 'Spouse of the subscriber',
  child: 'Child of the subscriber',
  other: 'Other',
} as const;

const policy = {
  memberId: memberId.pipe(z.string().min(1, 'is missing')),
  groupNumber: textField(50),
  relationship: z.enum(['self', 'spouse', 'child', 'other']).default('self'),
  /** The member of the household whose policy it is; the patient when absent. */
  subscriberId: idField.nullish().transform((value) => value ?? null),
  /** A holder who is nobody's patient here, in place of a member. */
  holderLast: textField(80),
  holderFirst: textField(80),
  holderBirthDate: optionalDateField,
  holderSex: z
    .enum(['F', 'M', 'U'])
    .nullish()
    .transform((value) => value ?? null),
  /** An employer that holds it, for an injury at work. */
  holderOrganization: textField(60),
  /** Where the holder or the employer is, when that is not where the patient lives. */
  holderLine1: textField(55),
  holderCity: textField(30),
  holderState: z.union([z.literal(''), stateField]).default(''),
  holderZip: z.union([z.literal(''), zipField]).default(''),
  /** What the insurer calls the injury, and who there works on it. */
  claimNumber: textField(30),
  adjuster: textField(80),
  /** Whether the payer pays us, and whether the person has signed that it may be told what it asks. */
  assigned: z.boolean().default(true),
  signed: z.boolean().default(true),
  /** By what the holder has it, and whether a court says that it comes first for a child. */
  basis: z
    .enum(['', ...(Object.keys(BASES) as (keyof typeof BASES)[])])
    .nullish()
    .transform((value) => value ?? ''),
  courtOrder: z.boolean().default(false),
  /** Why Medicare comes after another insurer, where it does. */
  secondaryType: z
    .enum(['', ...(Object.keys(SECONDARY_TYPES) as (keyof typeof SECONDARY_TYPES)[])])
    .nullish()
    .transform((value) => value ?? ''),
  validFrom: optionalDateField,
  validTo: optionalDateField,
  /** Whether what the payer passes on may be billed to the patient, and what forbids it. */
  billPatient: z.enum(Object.keys(BILL_PATIENT) as [BillPatient]).default('yes'),
  billPatientWhy: z
    .enum(['', ...(Object.keys(BILL_PATIENT_WHY) as [BillPatientWhy])])
    .nullish()
    .transform((value) => value ?? ''),
};

/** A case of the patient; the standing one where nothing is said. */
const caseId = idField.nullish().transform((value) => value ?? null);

/** What the form for a further coverage sends; what it replaces ends the day before. */
export const coverageInput = z.object({
  patientId: idField,
  caseId,
  /** Left empty where the payer is not in Setup, and is entered with its name and town. */
  insurancePlanId,
  payerName: textField(60),
  payerPlan: textField(60),
  payerCity: textField(30),
  payerState: textField(2),
  payerZip: textField(10),
  position: z.coerce.number().int().min(1).max(3).default(1),
  ...policy,
  key: keyField,
});

/** What the form for a coverage that is there sends: everything but its plan. */
export const coverageFixInput = z.object({
  coverageId: idField,
  ...policy,
  version: z.coerce.number().int().optional(),
  sure: sureField,
});

/** What the form for another order of coverages sends: which comes first and which next from a day on; the others stay as they are. */
export const coverageOrderInput = z.object({
  patientId: idField,
  caseId,
  from: dateField,
  /** Coverages in force on the day. */
  first: idField,
  second: idField.nullish().transform((value) => value ?? null),
});

/** Most bytes of a payer's letter. */
export const LETTER_BYTES = 10_000_000;

/** That a payer has nothing left for services from a day on, with its letter. */
export const exhaustInput = z.object({
  coverageId: idField,
  from: dateField,
  letter: z
    .instanceof(Uint8Array, { error: 'is missing' })
    .refine((bytes) => bytes.length > 0, 'is empty')
    .refine((bytes) => bytes.length <= LETTER_BYTES, `may have ${LETTER_BYTES / 1_000_000} MB`),
});
/** That it has something left after all. */
export const notExhaustedInput = z.object({ coverageId: idField });

/** From where a total of a payer is known. */
export const TOLD_BY = {
  call: 'a call',
  portal: 'its portal',
  letter: 'a letter',
  card: 'its card',
} as const;

/** What a payer told of what was used of a rule: all that it had decided by a day. */
export const toldInput = z.object({
  coverageId: idField,
  /** The word of the rule, as what is left names it. */
  rule: z.string().min(1, 'is missing').max(400),
  asOf: dateField,
  /** An amount, or how many; empty where nothing is told any more. */
  quantity: z.string().trim().max(20, 'is no amount'),
  source: z.enum(Object.keys(TOLD_BY) as [keyof typeof TOLD_BY], { error: 'is missing' }),
});

const letters = z
  .array(z.string().regex(/^[A-Z0-9]{2}$/, 'have two characters each'))
  .max(4, 'are at most four');

const chargeFacts = {
  modifiers: letters.default([]),
  diagnoses: z.array(z.string()).max(4, 'are at most four on a charge').default([]),
  tooth: tooth.default(''),
  surfaces: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[MODBLFI]{0,5}$/, 'are letters of M O D B L F I')
    .default(''),
  area: z
    .enum(['', ...Object.keys(ORAL_AREAS)], { error: 'is no quadrant and no arch' })
    .nullish()
    .transform((value) => value ?? ''),
  prosthesis: z
    .enum(['', 'I', 'R'], { error: 'is the first one or a replacement' })
    .nullish()
    .transform((value) => value ?? ''),
  priorPlacement: optionalDateField,
};
const code = z.string().trim().toUpperCase().min(1, 'is missing');
const units = z.coerce
  .number()
  .int('is a whole number')
  .min(1, 'is at least 1')
  .max(999, 'is at most 999')
  .default(1);

/** What a line of a visit says. */
const visitLine = z.object({
  code,
  /** How many; left out where minutes are said. */
  units: units.optional(),
  /** How long it took, of what is billed by time: units are counted from it. */
  minutes: z.coerce
    .number()
    .int('is a whole number')
    .min(1, 'is at least 1')
    .max(600, 'is at most 600')
    .nullish()
    .transform((value) => value ?? null),
  /** As typed; empty for the usual one. */
  fee: z.string().trim().default(''),
  /** Why the fee is another one. */
  feeWhy: textField(200),
  /** In other words than the list has, for this line. */
  description: textField(200),
  /** Tax on the service, as text; empty for what the site says. Owed by the patient. */
  tax: z.string().trim().default(''),
  ...chargeFacts,
  /** Left out, those that it usually has. */
  modifiers: letters.optional(),
});

/** Most services of a visit (005010X222A1, 2400: 50 lines). */
export const MOST_LINES = 50;

/** What is done for one person on one day by one provider. */
export const visitInput = z.object({
  patientId: idField,
  caseId,
  providerId: idField,
  serviceDate: dateField,
  /** Not done yet: it stands in no books. */
  planned: z.boolean().default(false),
  /** The patient pays it and asks that no insurer learns of it (45 CFR 164.522(a)(1)(vi)). */
  keptFromPayers: z.boolean().default(false),
  lines: z.array(visitLine).min(1, 'has no service').max(MOST_LINES, `has at most ${MOST_LINES} services`),
  key: keyField,
  sure: sureField,
});

/** A visit that is being typed, to be looked up and estimated beside what is open of its case. */
export const previewInput = visitInput.pick({
  patientId: true,
  caseId: true,
  providerId: true,
  serviceDate: true,
  planned: true,
  keptFromPayers: true,
  lines: true,
});

/** A visit taken back: the one of which a charge is. */
export const undoVisitInput = z.object({ chargeId: idField, why: reasonField('Say why it is taken back') });

/** What the quick line sends. `fee` is text in the practice's currency, empty for the office fee. */
export const chargeInput = z.object({
  patientId: idField,
  caseId,
  providerId: idField,
  serviceDate: dateField,
  code,
  units,
  minutes: visitLine.shape.minutes,
  fee: z.string().trim().default(''),
  feeWhy: textField(200),
  description: textField(200),
  /** Not done yet: it stands in no books. */
  planned: z.boolean().default(false),
  /** The patient pays it and asks that no insurer learns of it (45 CFR 164.522(a)(1)(vi)). */
  keptFromPayers: z.boolean().default(false),
  /** Tax on the service, as text; owed by the patient. */
  tax: z.string().trim().default(''),
  ...chargeFacts,
  /** Left out, those that it usually has. */
  modifiers: letters.optional(),
  key: keyField,
  sure: sureField,
});

/** What can still be put right on a charge before its claim is sent. */
export const chargeFixInput = z.object({
  chargeId: idField,
  ...chargeFacts,
  /** What stands in the books: left out, it stays as it is. */
  units: z.coerce
    .number()
    .int('is a whole number')
    .min(1, 'is at least 1')
    .max(999, 'is at most 999')
    .optional(),
  fee: z.string().trim().optional(),
  providerId: idField.optional(),
  serviceDate: dateField.optional(),
  sure: sureField,
  /** Version of the charge that the form was filled from. */
  version: z.coerce.number().int().optional(),
});

/** A planned service that is done. */
export const completeInput = z.object({ chargeId: idField, serviceDate: dateField, sure: sureField });

/** A charge taken back. */
export const voidInput = z.object({ chargeId: idField, why: reasonField('Say why it is void') });

/** A service that was another person's, or for another case: whose it is. */
export const moveInput = z.object({
  chargeId: idField,
  patientId: idField,
  caseId,
  why: reasonField('Say why it is moved'),
});

/** An account that is the same as another one. */
export const mergeHouseholdsInput = z.object({
  householdId: idField,
  intoHouseholdId: idField,
  why: reasonField('Say how they were found to be one'),
  sure: sureField,
});

/** A person who is the same as another one of the account. */
export const mergePeopleInput = z.object({
  patientId: idField,
  intoPatientId: idField,
  why: reasonField('Say how they were found to be one'),
  sure: sureField,
});

/** A charge kept from insurers, or billed to them after all. */
export const keepFromPayersInput = z.object({ chargeId: idField, kept: z.boolean() });

/** An account off which is taken what may not be billed to its patients. */
export const takeOffInput = z.object({ householdId: idField });

/** Interest, a late charge or a balance brought in, put on an account without a service. */
export const accountChargeInput = z.object({
  householdId: idField,
  kind: z.enum(Object.keys(ACCOUNT_CHARGES) as [AccountChargeKind, ...AccountChargeKind[]]),
  amount: moneyField,
  date: dateField,
  memo: textField(200),
  key: keyField,
});
