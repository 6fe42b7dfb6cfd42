/** Registering households, people and coverage. */
import { z } from 'zod';
import { parseDate } from '../../core/calendar';
import type { CalendarDate } from '../../core/calendar';
import { type Context, Refused, allow, audit } from '../access';

const name = z
  .string()
  .trim()
  .min(1, 'is missing')
  .max(60, 'may have 60 characters')
  .regex(/^[^\u0000-\u001f*~^:]+$/, 'has characters that a claim cannot carry (* ~ ^ :)');
const text = (max: number) => z.string().trim().max(max, `may have ${max} characters`).default('');
/** A calendar date as forms send it. */
export const dateField = z
  .string()
  .refine((value) => parseDate(value) !== null, 'is not a date (YYYY-MM-DD)')
  .transform((value) => value as CalendarDate);
const optionalDate = z
  .union([z.literal('').transform(() => null), dateField])
  .nullish()
  .transform((value) => value ?? null);

/** What the registration form sends. */
export const registrationInput = z.object({
  last: name,
  first: name,
  birthDate: dateField,
  sex: z.enum(['F', 'M', 'U']),
  line1: z.string().trim().min(1, 'is missing').max(55, 'may have 55 characters'),
  line2: text(55),
  city: z.string().trim().min(1, 'is missing').max(30, 'may have 30 characters'),
  state: z
    .string()
    .trim()
    .regex(/^[A-Z]{2}$/, 'is a two-letter state code'),
  zip: z
    .string()
    .trim()
    .regex(/^\d{5}(-?\d{4})?$/, 'has five or nine digits'),
  phone: z
    .string()
    .trim()
    .regex(/^[0-9+() -]{0,20}$/, 'holds digits, spaces and hyphens')
    .default(''),
  email: z.union([z.literal(''), z.email('is not an e-mail address')]).default(''),
  planId: z.coerce
    .number()
    .int()
    .nullish()
    .transform((value) => value ?? null),
  memberId: z
    .string()
    .trim()
    .regex(/^[A-Za-z0-9-]{0,80}$/, 'holds letters, digits and hyphens')
    .default(''),
  groupNumber: text(50),
  validFrom: optionalDate,
});

/** Words for the fields of the forms, for messages. */
const FIELD_WORDS: Record<string, string> = {
  last: 'Last name',
  first: 'First name',
  birthDate: 'Birth date',
  sex: 'Sex',
  line1: 'Street',
  city: 'City',
  state: 'State',
  zip: 'ZIP',
  phone: 'Phone',
  email: 'E-mail',
  memberId: 'Member id',
  groupNumber: 'Group number',
  validFrom: 'In force from',
  planId: 'Plan',
  amount: 'Amount',
  code: 'Code',
  units: 'Units',
  fee: 'Fee',
  serviceDate: 'Date',
  tooth: 'Tooth',
  surfaces: 'Surfaces',
  modifiers: 'Modifiers',
  diagnoses: 'Diagnoses',
  tender: 'Tender',
  reference: 'Check number',
  why: 'Reason',
};

/** Parses input from outside. @throws Refused naming the first field that is wrong */
export function parseInput<T extends z.ZodType>(schema: T, input: unknown): z.output<T> {
  const result = schema.safeParse(input);
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  const field = String(issue.path[0] ?? '');
  throw new Refused(`${FIELD_WORDS[field] ?? (field || 'The input')} ${issue.message}`, field);
}

/** Registers a household of one person with, if given, one coverage. @returns the ids and account number */
export async function registerHousehold(
  context: Context,
  input: unknown,
): Promise<{ householdId: number; patientId: number; caseId: number; number: string }> {
  allow(context, 'register people');
  const data = parseInput(registrationInput, input);
  if (data.birthDate > context.today) throw new Refused('Birth date lies in the future', 'birthDate');
  if (data.planId && !data.memberId) throw new Refused('Member id is missing', 'memberId');
  return context.db.transaction().execute(async (tx) => {
    const household = await tx
      .insertInto('household')
      .values({
        last: data.last,
        first: data.first,
        line1: data.line1,
        line2: data.line2,
        city: data.city,
        state: data.state,
        zip: data.zip,
        phone: data.phone,
        email: data.email,
      })
      .returning(['id', 'number'])
      .executeTakeFirstOrThrow();
    await tx.insertInto('household_balance').values({ household_id: household.id }).execute();
    const { patientId, caseId } = await insertPatient(tx, household.id, data);
    await audit(tx, context, 'registered', { kind: 'household', id: household.id });
    return { householdId: household.id, patientId, caseId, number: household.number };
  });
}

/** What the form for a further member sends. */
const memberInput = registrationInput.pick({
  last: true,
  first: true,
  birthDate: true,
  sex: true,
  planId: true,
  memberId: true,
  groupNumber: true,
  validFrom: true,
});

/** Adds a member to a household. */
export async function addMember(
  context: Context,
  householdId: number,
  input: unknown,
): Promise<{ patientId: number; caseId: number }> {
  allow(context, 'register people');
  const data = parseInput(memberInput, input);
  if (data.birthDate > context.today) throw new Refused('Birth date lies in the future', 'birthDate');
  return context.db.transaction().execute(async (tx) => {
    const added = await insertPatient(tx, householdId, data);
    await audit(
      tx,
      context,
      'added member',
      { kind: 'household', id: householdId },
      { patient: added.patientId },
    );
    return added;
  });
}

type MemberData = z.output<typeof memberInput>;

async function insertPatient(
  tx: Context['db'],
  householdId: number,
  data: MemberData,
): Promise<{ patientId: number; caseId: number }> {
  const patient = await tx
    .insertInto('patient')
    .values({
      household_id: householdId,
      last: data.last,
      first: data.first,
      birth_date: data.birthDate,
      sex: data.sex,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const standing = await tx
    .insertInto('care_case')
    .values({ patient_id: patient.id, name: 'Standing case' })
    .returning('id')
    .executeTakeFirstOrThrow();
  if (data.planId) {
    await tx
      .insertInto('coverage')
      .values({
        case_id: standing.id,
        position: 1,
        plan_id: data.planId,
        member_id: data.memberId,
        group_number: data.groupNumber,
        subscriber_last: data.last,
        subscriber_first: data.first,
        subscriber_birth_date: data.birthDate,
        subscriber_sex: data.sex,
        valid_from: data.validFrom,
      })
      .execute();
  }
  return { patientId: patient.id, caseId: standing.id };
}

/** What the form for a person's own facts sends. */
const patientInput = registrationInput.pick({
  last: true,
  first: true,
  birthDate: true,
  sex: true,
  line1: true,
  line2: true,
  city: true,
  state: true,
  zip: true,
  phone: true,
  email: true,
  memberId: true,
  groupNumber: true,
  validFrom: true,
});

/** Changes a patient's facts, the household's address and the first coverage; what is sent already stays as it was. */
export async function changePatient(context: Context, patientId: number, input: unknown): Promise<void> {
  allow(context, 'register people');
  const data = parseInput(patientInput, input);
  await context.db.transaction().execute(async (tx) => {
    const patient = await tx
      .updateTable('patient')
      .set({ last: data.last, first: data.first, birth_date: data.birthDate, sex: data.sex })
      .where('id', '=', patientId)
      .returning('household_id')
      .executeTakeFirst();
    if (!patient) throw new Refused('This person is not registered');
    await tx
      .updateTable('household')
      .set({
        line1: data.line1,
        line2: data.line2,
        city: data.city,
        state: data.state,
        zip: data.zip,
        phone: data.phone,
        email: data.email,
      })
      .where('id', '=', patient.household_id)
      .execute();
    await tx
      .updateTable('coverage')
      .set({ member_id: data.memberId, group_number: data.groupNumber, valid_from: data.validFrom })
      .where('position', '=', 1)
      .where(
        'case_id',
        'in',
        tx
          .selectFrom('care_case')
          .select('id')
          .where('patient_id', '=', patientId)
          .where('standing', '=', true),
      )
      .execute();
    await tx
      .updateTable('coverage')
      .set({
        subscriber_last: data.last,
        subscriber_first: data.first,
        subscriber_birth_date: data.birthDate,
        subscriber_sex: data.sex,
      })
      .where('relationship', '=', 'self')
      .where('case_id', 'in', tx.selectFrom('care_case').select('id').where('patient_id', '=', patientId))
      .execute();
    await audit(tx, context, 'changed', { kind: 'patient', id: patientId });
  });
}
