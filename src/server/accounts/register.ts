/** Registering households, people and coverage. */
import type { z } from 'zod';
import { memberInput, patientInput, registrationInput } from '../../core/accounts/input';
import type { CalendarDate } from '../../core/calendar';
import { FIELD_WORDS } from '../../core/words';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { startWork } from '../jobs/work';
import { type Act, useCase } from '../use-case';
import { refuseOlder } from '../versions';

type PersonData = Pick<
  z.output<typeof memberInput>,
  'last' | 'first' | 'birthDate' | 'sex' | 'planId' | 'memberId' | 'groupNumber' | 'validFrom'
>;

function plausible(data: PersonData, today: CalendarDate): void {
  if (data.birthDate > today) throw new Refused('Birth date lies in the future', 'birthDate');
  if (data.planId && !data.memberId) throw new Refused('Member id is missing', 'memberId');
}

/** Registers a household of one person with, if given, one coverage. @returns the ids and account number */
export const registerHousehold = useCase({
  name: 'register household',
  permission: 'register people',
  input: registrationInput,
  once: (data) => data.key,
  async run(act, data) {
    plausible(data, act.today);
    const { last, first, line1, line2, city, state, zip, phone, email } = data;
    const household = await act.db
      .insertInto('household')
      .values({ last, first, line1, line2, city, state, zip, phone, email })
      .returning(['id', 'number'])
      .executeTakeFirstOrThrow();
    await act.db.insertInto('household_balance').values({ household_id: household.id }).execute();
    const { patientId, caseId } = await insertPatient(act.db, household.id, data);
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
    if (!household) throw new Refused('There is no such account');
    const added = await insertPatient(act.db, householdId, data);
    await act.note('added member', { kind: 'household', id: householdId }, { patient: added.patientId });
    return added;
  },
});

async function insertPatient(
  tx: Tx,
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
  if (data.planId) {
    const plan = await tx.selectFrom('plan').select('id').where('id', '=', data.planId).executeTakeFirst();
    if (!plan) throw new Refused('This plan is not in Setup', 'planId');
    await tx
      .insertInto('coverage')
      .values({
        case_id: standing.id,
        position: 1,
        plan_id: data.planId,
        member_id: data.memberId,
        group_number: data.groupNumber,
        subscriber_last: last,
        subscriber_first: first,
        subscriber_birth_date: data.birthDate,
        subscriber_sex: sex,
        valid_from: data.validFrom,
      })
      .execute();
  }
  return { patientId: patient.id, caseId: standing.id };
}

/** What the form of a person shows, by the names of its fields, and the versions of the rows behind it. */
async function personAsShown(tx: Tx, patientId: number) {
  return tx
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .innerJoin('care_case as k', (join) =>
      join.onRef('k.patient_id', '=', 'p.id').on('k.standing', '=', true),
    )
    .leftJoin('coverage as c', (join) => join.onRef('c.case_id', '=', 'k.id').on('c.position', '=', 1))
    .select([
      'p.household_id',
      'k.id as case_id',
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
      'c.member_id as memberId',
      'c.group_number as groupNumber',
      'c.valid_from as validFrom',
      'p.version as patientVersion',
      'h.version as householdVersion',
      'c.version as coverageVersion',
    ])
    .where('p.id', '=', patientId)
    .executeTakeFirst();
}

/** The versions of the rows behind a person's form, as one text. */
export const personVersion = (row: {
  patientVersion: number;
  householdVersion: number;
  coverageVersion: number | null;
}): string => [row.patientVersion, row.householdVersion, row.coverageVersion ?? 0].join('-');

const LABELS = Object.fromEntries(
  Object.keys(patientInput.shape)
    .filter((field) => field !== 'patientId' && field !== 'version')
    .map((field) => [field, FIELD_WORDS[field] ?? field]),
);

/**
 * Changes a patient's facts, the household's address and the first coverage; what is sent already stays as it was, claims
 * that are still ours are checked again in the background.
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
      .executeTakeFirst();
    if (!known) throw new Refused('This person is not registered');
    await lockHouseholds(tx, [known.household_id]);
    const there = (await personAsShown(tx, patientId))!;
    if (data.birthDate > act.today) throw new Refused('Birth date lies in the future', 'birthDate');
    refuseOlder(version, personVersion(there), there, data, LABELS);
    await writePerson(act, patientId, there, data);
    await startWork(act, 'check claims', { householdId: there.household_id });
    await act.note('changed', { kind: 'patient', id: patientId });
  },
});

async function writePerson(
  act: Act,
  patientId: number,
  there: { household_id: number; case_id: number },
  data: Omit<z.output<typeof patientInput>, 'patientId' | 'version'>,
): Promise<void> {
  const tx = act.db;
  const { last, first, sex, line1, line2, city, state, zip, phone, email } = data;
  await tx
    .updateTable('patient')
    .set({ last, first, birth_date: data.birthDate, sex })
    .where('id', '=', patientId)
    .execute();
  await tx
    .updateTable('household')
    .set({ line1, line2, city, state, zip, phone, email })
    .where('id', '=', there.household_id)
    .execute();
  await tx
    .updateTable('coverage')
    .set({ member_id: data.memberId, group_number: data.groupNumber, valid_from: data.validFrom })
    .where('position', '=', 1)
    .where('case_id', '=', there.case_id)
    .execute();
  await tx
    .updateTable('coverage')
    .set({
      subscriber_last: last,
      subscriber_first: first,
      subscriber_birth_date: data.birthDate,
      subscriber_sex: sex,
    })
    .where('relationship', '=', 'self')
    .where('case_id', 'in', tx.selectFrom('care_case').select('id').where('patient_id', '=', patientId))
    .execute();
}
