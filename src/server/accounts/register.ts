/** Registering households, people and coverage. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { likenessInput, memberInput, patientInput, registrationInput } from '../../core/accounts/input';
import { type CalendarDate, formatDate, parseDate } from '../../core/calendar';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import { FIELD_WORDS } from '../../core/words';
import type { Tx } from '../../db/connect';
import { type Context, Refused, allow, lookAgain } from '../access';
import { lockHouseholds } from '../books/journal';
import { closedOf } from '../closed';
import { parseInput } from '../input';
import { startWork } from '../jobs/work';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';
import { planOffered, policyOf } from './policies';

type PersonData = Pick<
  z.output<typeof memberInput>,
  'last' | 'first' | 'birthDate' | 'sex' | 'insurancePlanId' | 'memberId' | 'groupNumber' | 'validFrom'
>;

function plausible(data: PersonData, today: CalendarDate): void {
  if (data.birthDate > today) throw new Refused('date', 'Birth date lies in the future', 'birthDate');
  if (data.insurancePlanId && !data.memberId)
    throw new Refused('missing', 'Member id is missing', 'memberId');
  if (data.memberId && !data.insurancePlanId)
    throw new Refused('missing', 'Choose the plan of this member id', 'insurancePlanId');
}

/** A household that may be the one that is being registered. */
export interface Likeness {
  householdId: number;
  number: string;
  name: string;
  birthDate: CalendarDate;
  phone: string;
  /** Name and birth date are the same, or only the telephone is. */
  same: 'person' | 'phone';
  /** It is closed to who asks: that it is there is said, and what was asked with. */
  closed: boolean;
}

/** Households with somebody of the same name and birth date, or with the same telephone; at most five. */
export async function likeHouseholds(
  context: Context,
  input: z.input<typeof likenessInput>,
): Promise<Likeness[]> {
  allow(context, 'register people');
  const { last, first, birthDate, phone } = parseInput(likenessInput, input);
  const born = parseDate(birthDate);
  const digits = phone.replace(/\D/g, '');
  const { rows } = await sql<Likeness>`
    select distinct on (h.id) h.id as "householdId", h.number, p.last || ', ' || p.first as name,
      p.birth_date as "birthDate", h.phone,
      case when f.person then 'person' else 'phone' end as same, false as closed
    from household h join patient p on p.household_id = h.id
      cross join lateral (
        select lower(p.last) = lower(${last})
          and lower(p.first) = lower(${first})
          and p.birth_date = ${born}::date as person
      ) f
    where p.merged_into is null and (
      (${born !== null && last !== ''} and f.person)
      or (${digits.length >= 7} and regexp_replace(h.phone, '\\D', '', 'g') = ${digits}))
    order by h.id, f.person desc nulls last limit 5`.execute(context.db);
  const closed = await closedOf(
    context,
    rows.map(({ householdId }) => householdId),
  );
  return rows.map((row) =>
    closed.has(row.householdId) ? { ...row, number: '', name: CLOSED_ACCOUNT, phone: '', closed: true } : row,
  );
}

const likenessWords = ({ name, birthDate, number, closed }: Likeness): string =>
  closed
    ? 'Somebody of this name and birth date is registered already, on a closed account'
    : `${name}, born ${formatDate(birthDate)}, is registered already: ${number}`;

/** Registers a household of one person with, if given, one coverage. @returns the ids and account number */
export const registerHousehold = useCase({
  name: 'register household',
  permission: 'register people',
  input: registrationInput,
  once: (data) => data.key,
  async run(act, data) {
    plausible(data, act.today);
    const { last, first, line1, line2, city, state, zip, phone, email } = data;
    const like = await likeHouseholds(act, { last, first, birthDate: data.birthDate });
    lookAgain(data.sure, like.map(likenessWords));
    const household = await act.db
      .insertInto('household')
      .values({ last, first, line1, line2, city, state, zip, phone, email })
      .returning(['id', 'number'])
      .executeTakeFirstOrThrow();
    const { patientId, caseId } = await insertPatient(act, household.id, data);
    await act.db
      .updateTable('household')
      .set({ guarantor_id: patientId })
      .where('id', '=', household.id)
      .execute();
    await act.note('registered', { kind: 'household', id: household.id });
    return { householdId: household.id, patientId, caseId, number: household.number };
  },
});

/** Adds a member to a household. @returns the ids of the person and of the standing case */
export const addMember = useCase({
  name: 'add member',
  permission: 'register people',
  input: memberInput,
  once: (data) => data.key,
  async run(act, { householdId, ...data }) {
    plausible(data, act.today);
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    const like = await likeHouseholds(act, data);
    lookAgain(data.sure, like.filter((item) => item.same === 'person').map(likenessWords));
    const added = await insertPatient(act, householdId, data);
    await act.note('added member', { kind: 'household', id: householdId }, { patient: added.patientId });
    return added;
  },
});

async function insertPatient(
  { db: tx, today }: Act,
  householdId: number,
  data: PersonData,
): Promise<{ patientId: number; caseId: number }> {
  const { last, first, sex } = data;
  const patient = await tx
    .insertInto('patient')
    .values({ household_id: householdId, last, first, birth_date: data.birthDate, sex })
    .returning('id')
    .executeTakeFirstOrThrow();
  const standing = await tx
    .insertInto('care_case')
    .values({ patient_id: patient.id, name: 'Standing case' })
    .returning('id')
    .executeTakeFirstOrThrow();
  if (data.insurancePlanId) {
    await planOffered(tx, data.insurancePlanId, today);
    const { policyId: policy_id } = await policyOf(tx, {
      ...data,
      caseId: standing.id,
      insurancePlanId: data.insurancePlanId,
      patientId: patient.id,
      holder: { patientId: patient.id },
      relationship: 'self',
      validTo: null,
    });
    await tx
      .insertInto('coverage')
      .values({ case_id: standing.id, position: 1, policy_id, valid_from: data.validFrom })
      .execute();
  }
  return { patientId: patient.id, caseId: standing.id };
}

/** Teeth that the person `p` has lost, as the form shows them. */
export const LOST_TEETH = sql<{ tooth: string; lostOn: CalendarDate | null }[]>`coalesce(
  (
    select json_agg(json_build_object('tooth', t.tooth, 'lostOn', t.lost_on) order by length(t.tooth), t.tooth)
    from lost_tooth t
    where t.patient_id = p.id
  ),
  '[]'
)`;

/** What the form of a person shows, by the names of its fields, and the versions of the rows behind it. */
async function personAsShown(tx: Tx, patientId: number) {
  return tx
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .select([
      'p.household_id',
      'p.last',
      'p.first',
      'p.birth_date as birthDate',
      'p.sex',
      'h.line1',
      'h.line2',
      'h.city',
      'h.state',
      'h.zip',
      'h.phone',
      'h.email',
      LOST_TEETH.as('lostTeeth'),
      'p.version as patientVersion',
      'h.version as householdVersion',
    ])
    .where('p.id', '=', patientId)
    .executeTakeFirst();
}

/** The versions of the rows behind a person's form, as one text. */
export const personVersion = (row: { patientVersion: number; householdVersion: number }): string =>
  [row.patientVersion, row.householdVersion].join('-');

const LABELS = Object.fromEntries(
  Object.keys(patientInput.shape)
    .filter((field) => field !== 'patientId' && field !== 'version')
    .map((field) => [field, FIELD_WORDS[field] ?? field]),
);

/**
 * Changes a patient's facts and the household's address, and what coverages say of them as subscriber; what is sent
 * already stays as it was, claims that are still ours are checked again in the background.
 * @throws Conflict when somebody else has changed one of the rows since the form was filled
 */
export const changePatient = useCase({
  name: 'change patient',
  permission: 'register people',
  input: patientInput,
  async run(act, { patientId, version, ...data }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('patient')
      .select('household_id')
      .where('id', '=', patientId)
      .where('merged_into', 'is', null)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'This person is not registered');
    await lockHouseholds(tx, [known.household_id]);
    const there = (await personAsShown(tx, patientId))!;
    data.lostTeeth = teethOf(act.today, data) ?? there.lostTeeth;
    if (data.birthDate > act.today) throw new Refused('date', 'Birth date lies in the future', 'birthDate');
    refuseOlder(version, personVersion(there), there, data, LABELS);
    await writePerson(act, patientId, there, data);
    await startWork(act, 'check claims', { householdId: there.household_id });
    await act.note('changed', { kind: 'patient', id: patientId }, changesOf(there, data, LABELS));
  },
});

/** Lost teeth in their order. @throws Refused where one stands twice, or was lost in no day of the person's life */
function teethOf(
  today: CalendarDate,
  { lostTeeth, birthDate }: Pick<z.output<typeof patientInput>, 'lostTeeth' | 'birthDate'>,
) {
  if (!lostTeeth) return undefined;
  const teeth = lostTeeth.toSorted((a, b) => a.tooth.length - b.tooth.length || (a.tooth < b.tooth ? -1 : 1));
  for (const [at, { tooth, lostOn }] of teeth.entries()) {
    if (teeth[at - 1]?.tooth === tooth)
      throw new Refused('invalid', `Tooth ${tooth} stands there twice`, 'lostTeeth');
    if (lostOn && (lostOn > today || lostOn < birthDate))
      throw new Refused('date', `Tooth ${tooth} cannot have been lost on ${formatDate(lostOn)}`, 'lostTeeth');
  }
  return teeth;
}

async function writePerson(
  act: Act,
  patientId: number,
  there: { household_id: number } & Record<'line1' | 'city' | 'state' | 'zip' | 'email', string>,
  data: Omit<z.output<typeof patientInput>, 'patientId' | 'version'>,
): Promise<void> {
  const tx = act.db;
  const { last, first, sex, line1, line2, city, state, zip, phone, email } = data;
  await tx
    .updateTable('patient')
    .set({ last, first, birth_date: data.birthDate, sex })
    .where('id', '=', patientId)
    .execute();
  await tx.deleteFrom('lost_tooth').where('patient_id', '=', patientId).execute();
  const teeth = (data.lostTeeth ?? []).map(({ tooth, lostOn }) => ({
    patient_id: patientId,
    tooth,
    lost_on: lostOn,
  }));
  if (teeth.length > 0) await tx.insertInto('lost_tooth').values(teeth).execute();
  const isElsewhere =
    line1 !== there.line1 || city !== there.city || state !== there.state || zip !== there.zip;
  await tx
    .updateTable('household')
    .set({
      line1,
      line2,
      city,
      state,
      zip,
      phone,
      email,
      // Mail came back from where they no longer are.
      ...(isElsewhere ? { address_returned: null } : {}),
      ...(email === there.email ? {} : { email_returned: null }),
    })
    .where('id', '=', there.household_id)
    .execute();
}
