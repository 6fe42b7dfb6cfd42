/** Policies behind coverages: who holds one, whom it insures, and by what number the payer knows them from which day on. */
import { sql } from 'kysely';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';

/** @throws Refused when a plan is not in Setup, or its payer is retired */
export async function planOffered(tx: Tx, insurancePlanId: number, today: CalendarDate): Promise<void> {
  const plan = await tx
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select(['y.name', 'y.retired_on'])
    .where('n.id', '=', insurancePlanId)
    .executeTakeFirst();
  if (!plan) throw new Refused('unknown', 'This plan is not in Setup', 'insurancePlanId');
  if (plan.retired_on !== null && plan.retired_on <= today)
    throw new Refused(
      'state',
      `${plan.name} is retired since ${formatDate(plan.retired_on)}: nothing new is of it`,
      'insurancePlanId',
    );
}

/** How the insured person is related to the holder. */
type Relationship = 'self' | 'spouse' | 'child' | 'other';

/** Who holds a policy: a patient, somebody who is nobody's patient here and is known by what is said, or an employer. */
export type Holder =
  | { patientId: number }
  | ({ last: string; first: string; birthDate: CalendarDate; sex: 'F' | 'M' | 'U' } & HolderAddress)
  | ({ organization: string } & HolderAddress);

/** Where a holder is who is no patient; empty where the patient lives. */
interface HolderAddress {
  line1: string;
  city: string;
  state: string;
  zip: string;
}

/** What a coverage says of its policy. */
export interface PolicyFacts {
  patientId: number;
  caseId: number;
  insurancePlanId: number;
  holder: Holder;
  relationship: Relationship;
  groupNumber: string;
  memberId: string;
  /** While the coverage is in force the person has this number. */
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
}

/**
 * The party that a holder is; the first time it is one it is made. Somebody who is no patient is the one of that name and birth date who
 * holds a policy of the patient's household; what is said of the holder of the policy that is put right is put right there.
 */
async function partyOf(tx: Tx, facts: PolicyFacts, current: number | undefined): Promise<number> {
  const { holder } = facts;
  if ('organization' in holder) {
    const { organization, ...address } = holder;
    return employer(tx, organization, address, current);
  }
  if (!('patientId' in holder)) return outsideParty(tx, holder, facts.patientId, current);
  const { patientId } = holder;
  const { rows } = await sql<{ id: number }>`
    with made as (
      insert into party (patient_id) values (${patientId}) on conflict (patient_id) do nothing returning id
    )
    select id from made union all select id from party where patient_id = ${patientId} limit 1`.execute(tx);
  return rows[0]!.id;
}

/** The employer that holds the policy that is put right, by its new name; else the one of that name, of whomever it is. */
async function employer(
  tx: Tx,
  last: string,
  address: HolderAddress,
  current: number | undefined,
): Promise<number> {
  const own = await tx
    .selectFrom('party as h')
    .innerJoin('policy as q', 'q.holder_id', 'h.id')
    .select(['h.id', sql<boolean>`(select count(*) from policy o where o.holder_id = h.id) = 1`.as('alone')])
    .where('q.id', '=', current ?? 0)
    .where('h.organization', '=', true)
    .executeTakeFirst();
  if (own?.alone) {
    await tx
      .updateTable('party')
      .set({ last, ...address })
      .where('id', '=', own.id)
      .execute();
    return own.id;
  }
  const known = await tx
    .selectFrom('party')
    .select('id')
    .where('organization', '=', true)
    .where(sql<boolean>`lower(last) = lower(${last})`)
    .orderBy('id')
    .executeTakeFirst();
  if (known) {
    // What nobody said takes nothing away.
    if (address.line1 !== '') await tx.updateTable('party').set(address).where('id', '=', known.id).execute();
    return known.id;
  }
  const made = await tx
    .insertInto('party')
    .values({ organization: true, last, ...address })
    .returning('id')
    .executeTakeFirstOrThrow();
  return made.id;
}

async function outsideParty(
  tx: Tx,
  { birthDate: birth_date, ...said }: Extract<Holder, { first: string }>,
  patientId: number,
  current: number | undefined,
): Promise<number> {
  const { last, first } = said;
  const { rows } = await sql<{ id: number }>`
    select h.id
    from party h
      join policy q on q.holder_id = h.id
    where h.patient_id is null
      and not h.organization
      and (
        q.id = ${current ?? null}::bigint
          and (lower(h.first) = lower(${first}) or h.birth_date = ${birth_date})
          or lower(h.last) = lower(${last})
          and lower(h.first) = lower(${first})
          and h.birth_date = ${birth_date}
          and exists (
            select
            from policy_person r
              join patient p on p.id = r.patient_id
              join patient o on o.household_id = p.household_id
            where r.policy_id = q.id and o.id = ${patientId}
          )
      )
    order by q.id = ${current ?? null}::bigint desc, h.id
    limit 1`.execute(tx);
  const values = { ...said, birth_date };
  const [known] = rows;
  if (known) {
    await tx.updateTable('party').set(values).where('id', '=', known.id).execute();
    return known.id;
  }
  return (await tx.insertInto('party').values(values).returning('id').executeTakeFirstOrThrow()).id;
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

/**
 * The policy that a party holds of a plan: that of the group; where no group is said, the one that insures the person, the newest
 * first, for a group that was not said is not another group. One whose group nobody has said yet is taken too, unless it has a
 * place in the case in that time: then it is another.
 */
async function policyHeld(tx: Tx, holderId: number, facts: PolicyFacts) {
  const { insurancePlanId, groupNumber, patientId, caseId, validFrom, validTo } = facts;
  const { rows } = await sql<{ id: number; groupNumber: string }>`
    select p.id, p.group_number as "groupNumber"
    from policy p
    where p.insurance_plan_id = ${insurancePlanId}
      and p.holder_id = ${holderId}
      and (
        ${groupNumber} in ('', p.group_number)
        or p.group_number = ''
          and not exists (
            select
            from coverage c
            where c.policy_id = p.id
              and c.case_id = ${caseId}
              and daterange(c.valid_from, c.valid_to, '[]') && daterange(${validFrom}, ${validTo}, '[]')
          )
      )
    order by p.group_number = ${groupNumber} desc,
      exists (select from policy_person r where r.policy_id = p.id and r.patient_id = ${patientId}) desc,
      p.id desc
    limit 1`.execute(tx);
  return rows[0] ?? null;
}

/**
 * The policy of a coverage that is added, or whose facts were put right. While its holder stays, so does the policy, and its group
 * is put right for everybody whom it insures, unless the holder has one of just that group; else it is what the holder has of the
 * plan, the same one put right where it insures nobody else, or a new one.
 * @param current the one that the coverage has
 * @returns its id, and the first names of others whose group is put right with it
 */
export async function policyOf(
  tx: Tx,
  facts: PolicyFacts,
  current?: number,
): Promise<{ policyId: number; also: string[] }> {
  const { insurancePlanId, groupNumber, patientId } = facts;
  const holder_id = await partyOf(tx, facts, current);
  const there = current === undefined ? null : await policyNow(tx, current);
  const same = there?.holder_id === holder_id;
  const stays = same && (there.group_number === groupNumber || groupNumber === '');
  const held = stays ? null : await policyHeld(tx, holder_id, facts);
  let policyId: number;
  if (held && !(same && held.groupNumber !== groupNumber)) policyId = held.id;
  else if (there && (same || (await isOwn(tx, there.id, patientId)))) policyId = there.id;
  else
    ({ id: policyId } = await tx
      .insertInto('policy')
      .values({ insurance_plan_id: insurancePlanId, holder_id })
      .returning('id')
      .executeTakeFirstOrThrow());
  const now = await policyNow(tx, policyId);
  // What nobody said of a policy that was there already takes nothing away.
  const group_number = groupNumber === '' && policyId !== current ? now.group_number : groupNumber;
  if (now.holder_id !== holder_id || now.group_number !== group_number)
    await tx.updateTable('policy').set({ holder_id, group_number }).where('id', '=', policyId).execute();
  await insure(tx, policyId, facts);
  const others =
    now.group_number === '' || now.group_number === group_number
      ? []
      : await tx
          .selectFrom('policy_person as r')
          .innerJoin('patient as i', 'i.id', 'r.patient_id')
          .select('i.first')
          .where('r.policy_id', '=', policyId)
          .where('r.patient_id', '<>', patientId)
          .orderBy('i.id')
          .execute();
  return { policyId, also: others.map(({ first }) => first) };
}

const policyNow = (tx: Tx, policyId: number) =>
  tx
    .selectFrom('policy')
    .select(['id', 'holder_id', 'group_number'])
    .where('id', '=', policyId)
    .executeTakeFirstOrThrow();

/** Whether a policy insures nobody but a person, in one coverage. */
async function isOwn(tx: Tx, policyId: number, patientId: number): Promise<boolean> {
  const { rows } = await sql<{ own: boolean }>`
    select not exists (
      select from policy_person where policy_id = ${policyId} and patient_id <> ${patientId}
    ) and (select count(*) from coverage where policy_id = ${policyId}) <= 1 as own`.execute(tx);
  return rows[0]!.own;
}
