/** Policies behind coverages: who holds one, whom it insures, and by what number the payer knows them from which day on. */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import type { Tx } from '../../db/connect';

/** How the insured person is related to the holder. */
type Relationship = 'self' | 'spouse' | 'child' | 'other';

/** What a coverage says of its policy. */
export interface PolicyFacts {
  patientId: number;
  insurancePlanId: number;
  /** The patient who holds it. */
  holder: number;
  relationship: Relationship;
  groupNumber: string;
  memberId: string;
  /** While the coverage is in force the person has this number. */
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
}

/** The party that a patient is; the first time it is one it is made. */
async function partyOf(tx: Tx, patientId: number): Promise<number> {
  const { rows } = await sql<{ id: number }>`
    with made as (
      insert into party (patient_id) values (${patientId}) on conflict (patient_id) do nothing returning id
    )
    select id from made union all select id from party where patient_id = ${patientId} limit 1`.execute(tx);
  return rows[0]!.id;
}

/** Writes that a person is insured by a policy, with the number where there was none. */
async function insure(
  tx: Tx,
  policyId: number,
  { patientId, relationship, memberId, validFrom, validTo }: PolicyFacts,
): Promise<void> {
  const known = await tx
    .selectFrom('policy_person')
    .select(['id', 'relationship'])
    .where('policy_id', '=', policyId)
    .where('patient_id', '=', patientId)
    .executeTakeFirst();
  if (!known) {
    const { id } = await tx
      .insertInto('policy_person')
      .values({ policy_id: policyId, patient_id: patientId, relationship })
      .returning('id')
      .executeTakeFirstOrThrow();
    await tx
      .insertInto('policy_number')
      .values({ policy_person_id: id, valid_from: null, member_id: memberId })
      .execute();
    return;
  }
  if (known.relationship !== relationship)
    await tx.updateTable('policy_person').set({ relationship }).where('id', '=', known.id).execute();
  await writeNumber(tx, known.id, memberId, validFrom, validTo);
}

/** Writes that a person has a number from a day to a day; before and after it is what it was. */
async function writeNumber(
  tx: Tx,
  personId: number,
  memberId: string,
  from: CalendarDate | null,
  to: CalendarDate | null,
): Promise<void> {
  const numberOn = async (day: CalendarDate): Promise<string> =>
    (await sql<{ number: string }>`select member_on(${personId}, ${day}) as number`.execute(tx)).rows[0]!
      .number;
  const after = to === null ? null : { day: addDays(to, 1), number: await numberOn(addDays(to, 1)) };
  const before = from === null ? null : await numberOn(addDays(from, -1));
  await tx
    .deleteFrom('policy_number')
    .where('policy_person_id', '=', personId)
    .where(({ eb, and, or }) =>
      and([
        ...(from === null ? [] : [eb('valid_from', '>=', from)]),
        ...(after === null ? [] : [or([eb('valid_from', 'is', null), eb('valid_from', '<=', after.day)])]),
      ]),
    )
    .execute();
  const number = (valid_from: CalendarDate | null, member_id: string) =>
    tx.insertInto('policy_number').values({ policy_person_id: personId, valid_from, member_id }).execute();
  if (before !== memberId) await number(from, memberId);
  if (after !== null && after.number !== memberId) await number(after.day, after.number);
}

/** The policy that a party holds of a plan and a group, if there is one. */
const policyHeld = (tx: Tx, holderId: number, { insurancePlanId, groupNumber }: PolicyFacts) =>
  tx
    .selectFrom('policy')
    .select('id')
    .where('insurance_plan_id', '=', insurancePlanId)
    .where('holder_id', '=', holderId)
    .where('group_number', '=', groupNumber)
    .orderBy('id')
    .executeTakeFirst();

/**
 * The policy of a coverage that is added: the one that the holder has of this plan and group, or a new one.
 * @returns its id
 */
export async function policyOf(tx: Tx, facts: PolicyFacts): Promise<number> {
  const { insurancePlanId, groupNumber } = facts;
  const holder_id = await partyOf(tx, facts.holder);
  const there = await policyHeld(tx, holder_id, facts);
  const id =
    there?.id ??
    (
      await tx
        .insertInto('policy')
        .values({ insurance_plan_id: insurancePlanId, holder_id, group_number: groupNumber })
        .returning('id')
        .executeTakeFirstOrThrow()
    ).id;
  await insure(tx, id, facts);
  return id;
}

/**
 * The policy of a coverage whose facts were put right: the same one while holder and group are; else the one that the holder has,
 * or the same one put right where it insures nobody else, or a new one.
 * @returns its id
 */
export async function policyPutRight(tx: Tx, policyId: number, facts: PolicyFacts): Promise<number> {
  const holder_id = await partyOf(tx, facts.holder);
  const there = await tx
    .selectFrom('policy')
    .select(['holder_id', 'group_number'])
    .where('id', '=', policyId)
    .executeTakeFirstOrThrow();
  if (there.holder_id === holder_id && there.group_number === facts.groupNumber) {
    await insure(tx, policyId, facts);
    return policyId;
  }
  const { rows } = await sql<{ others: boolean }>`
    select exists (select 1 from policy_person where policy_id = ${policyId} and patient_id <> ${facts.patientId})
      or (select count(*) from coverage where policy_id = ${policyId}) > 1 as others`.execute(tx);
  if (rows[0]!.others || (await policyHeld(tx, holder_id, facts))) return policyOf(tx, facts);
  await tx
    .updateTable('policy')
    .set({ holder_id, group_number: facts.groupNumber })
    .where('id', '=', policyId)
    .execute();
  await insure(tx, policyId, facts);
  return policyId;
}
