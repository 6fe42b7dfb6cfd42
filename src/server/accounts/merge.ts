/** Accounts and people that were entered twice: what one has becomes the other's, and what was written of it stays. */
import { sql } from 'kysely';
import { mergeHouseholdsInput, mergePeopleInput } from '../../core/accounts/input';
import { formatDate } from '../../core/calendar';
import { type Act, useCase } from '../use-case';
import { Refused, lookAgain } from '../access';
import { startWork } from '../jobs/work';

/** What is not out yet, or waits for somebody, of the account that goes: it is decided before, for afterwards nobody knows whose it was. */
async function nothingUnderWay(act: Act, from: { id: number; number: string }, into: { id: number }) {
  const { rows } = await sql<{ piece: string | null; placements: number; hardships: number }>`
    select
      (
        select m.kind
        from mail_piece m
        where (m.household_id = ${from.id} or m.joined @> ${[from.id]}::bigint[])
          and m.status in ('draft', 'made', 'failed')
          and m.delivery <> 'in-person'
        limit 1
      ) as piece,
      (
        select count(*) from placement l where l.household_id in (${from.id}, ${into.id}) and l.ended_on is null
      ) as placements,
      (
        select count(*) from hardship y where y.household_id in (${from.id}, ${into.id}) and y.status = 'asked'
      ) as hardships`.execute(act.db);
  const { piece, placements, hardships } = rows[0]!;
  if (piece !== null)
    throw new Refused('blocked', `A ${piece} of ${from.number} is not out yet: send it or take it out first`);
  if (placements > 1)
    throw new Refused('blocked', 'Both accounts are with an agency: recall one of them first');
  if (hardships > 1)
    throw new Refused('blocked', 'A hardship is asked for both accounts: decide one of them first');
}

/**
 * Merges an account into another one: its people, charges, money, plans, claims and papers are that one's from now on. Entries go on
 * naming it and can be reversed; its number finds the other. For good.
 */
export const mergeHouseholds = useCase({
  name: 'merge accounts',
  permission: 'reverse entries',
  input: mergeHouseholdsInput,
  async run(act, { householdId, intoHouseholdId, why, sure }) {
    const tx = act.db;
    if (householdId === intoHouseholdId)
      throw new Refused('invalid', 'An account is itself already', 'intoHouseholdId');
    // Whoever writes for one of them is waited for, and whoever comes meanwhile writes for the other.
    const both = await tx
      .selectFrom('household')
      .select(['id', 'number', 'last', 'first', 'line1', 'zip', 'phone', 'merged_into'])
      .select(
        sql<string>`
          (
            select coalesce(string_agg(o.user_id, ' ' order by o.user_id), '')
            from household_open_to o
            where o.household_id = household.id
          )`.as('open'),
      )
      .where('id', 'in', [householdId, intoHouseholdId])
      .orderBy('id')
      .forUpdate()
      .execute();
    const from = both.find(({ id }) => id === householdId);
    const into = both.find(({ id }) => id === intoHouseholdId);
    if (!from) throw new Refused('unknown', 'There is no such account', 'householdId');
    if (!into) throw new Refused('unknown', 'There is no such account', 'intoHouseholdId');
    if (from.merged_into !== null || into.merged_into !== null)
      throw new Refused('already', 'One of them was merged just now: look again');
    if (from.open !== into.open)
      throw new Refused(
        'blocked',
        'One of them is closed to people to whom the other is open: make that alike',
      );
    await nothingUnderWay(act, from, into);
    const alike =
      from.last.toLowerCase() === into.last.toLowerCase() ||
      (from.line1.toLowerCase() === into.line1.toLowerCase() && from.zip === into.zip) ||
      (from.phone !== '' && from.phone === into.phone);
    const words = ({ number, last, first, line1 }: typeof from) => `${number} is ${last}, ${first}, ${line1}`;
    lookAgain(sure, alike ? [] : [`Name, address and telephone differ: ${words(from)}; ${words(into)}`]);
    await sql`
      update account_stop s
      set lifted_on = ${act.today}::date, lifted_by = ${act.user.name}, lifted_why = ${`Stands on ${into.number}`}
      where s.household_id = ${householdId} and s.lifted_on is null
        and exists (
          select
          from account_stop o
          where o.household_id = ${intoHouseholdId} and o.reason_id = s.reason_id and o.lifted_on is null
        )`.execute(tx);
    await sql`
      update promise p
      set ended_on = ${act.today}::date, ended_why = ${`Another stands on ${into.number}`}
      where p.household_id = ${householdId} and p.ended_on is null
        and exists (
          select from promise o where o.household_id = ${intoHouseholdId} and o.ended_on is null
        )`.execute(tx);
    await act.note('merged', { kind: 'household', id: householdId }, { into: into.number, why });
    await tx
      .updateTable('household')
      .set({ merged_into: intoHouseholdId, mailed_with: null })
      .where('id', '=', householdId)
      .execute();
    await act.note('merged here', { kind: 'household', id: intoHouseholdId }, { from: from.number, why });
  },
});

/** The last member number by payer of a person, as words; of the same payer, two people seldom have two. */
async function numbersOf(act: Act, patientIds: readonly number[]) {
  const { rows } = await sql<{ payer: string; numbers: string[] }>`
    select y.name as payer, array_agg(distinct member_on(r.id, ${act.today}::date)) as numbers
    from policy_person r
      join policy q on q.id = r.policy_id
      join insurance_plan n on n.id = q.insurance_plan_id
      join payer y on y.id = n.payer_id
    where r.patient_id = any(${[...patientIds]}::bigint[])
    group by y.id, y.name
    having count(distinct r.patient_id) > 1 and count(distinct member_on(r.id, ${act.today}::date)) > 1
    order by y.name`.execute(act.db);
  return rows;
}

/**
 * Merges a person into another one of the same account: cases, charges, claims and policies are that one's from now on, and what was
 * used of a policy counts together. Entries go on naming the person and can be reversed. For good.
 */
export const mergePeople = useCase({
  name: 'merge people',
  permission: 'reverse entries',
  input: mergePeopleInput,
  async run(act, { patientId, intoPatientId, why, sure }) {
    const tx = act.db;
    if (patientId === intoPatientId)
      throw new Refused('invalid', 'A person is himself already', 'intoPatientId');
    const known = await tx
      .selectFrom('patient')
      .select('household_id')
      .where('id', 'in', [patientId, intoPatientId])
      .execute();
    await sql`
      select from household where id = any(${known.map((row) => row.household_id)}::bigint[]) order by id for update`.execute(
      tx,
    );
    const both = await tx
      .selectFrom('patient as p')
      .innerJoin('household as h', 'h.id', 'p.household_id')
      .select(['p.id', 'p.last', 'p.first', 'p.birth_date', 'p.sex', 'p.household_id', 'h.number'])
      .select('p.merged_into')
      .select(
        sql<boolean>`
          exists (select from confidential_address a where a.patient_id = p.id and a.ended_on is null)`.as(
          'apart',
        ),
      )
      .select(
        sql<boolean>`
          exists (
            select
            from mail_piece m
            where m.patient_id = p.id and m.status in ('draft', 'made', 'failed') and m.delivery <> 'in-person'
          )`.as('piece'),
      )
      .where('p.id', 'in', [patientId, intoPatientId])
      .orderBy('p.id')
      .forUpdate('p')
      .execute();
    const from = both.find(({ id }) => id === patientId);
    const into = both.find(({ id }) => id === intoPatientId);
    if (!from) throw new Refused('unknown', 'This person is not registered', 'patientId');
    if (!into) throw new Refused('unknown', 'This person is not registered', 'intoPatientId');
    if (from.merged_into !== null || into.merged_into !== null)
      throw new Refused('already', 'One of them was merged before: look again');
    if (from.household_id !== into.household_id)
      throw new Refused(
        'others',
        `One is on account ${from.number}, the other on ${into.number}: merge the accounts first`,
        'intoPatientId',
      );
    if (from.apart !== into.apart)
      throw new Refused(
        'blocked',
        'One of them has a confidential address and the other has not: what concerns them would change whom it is sent to. End it, or enter it for both',
      );
    if (from.piece)
      throw new Refused(
        'blocked',
        'A paper to the confidential address is not out yet: send it or take it out first',
      );
    const numbers = await numbersOf(act, [patientId, intoPatientId]);
    lookAgain(sure, [
      ...(from.birth_date === into.birth_date
        ? []
        : [`Birth dates differ: ${formatDate(from.birth_date)} and ${formatDate(into.birth_date)}`]),
      ...(from.sex === into.sex ? [] : ['Sexes differ']),
      ...numbers.map(({ payer, numbers: two }) => `Member numbers at ${payer} differ: ${two.join(' and ')}`),
    ]);
    if (from.apart)
      await sql`
        update confidential_address
        set ended_on = ${act.today}::date, ended_by = ${act.user.name}
        where patient_id = ${patientId} and ended_on is null`.execute(tx);
    await act.note('merged', { kind: 'patient', id: patientId }, { into: intoPatientId, why });
    await tx.updateTable('patient').set({ merged_into: intoPatientId }).where('id', '=', patientId).execute();
    await act.note('merged here', { kind: 'patient', id: intoPatientId }, { from: patientId, why });
    await startWork(act, 'check claims', {});
  },
});
