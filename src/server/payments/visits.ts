/**
 * Visits to come: brought in or typed, known to be somebody's, with what is to be collected; money that is taken for one is reserved
 * until the visit is charged, and free the day after. Wergeld plans no visits: another program does.
 */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import { dateField } from '../../core/fields';
import { type Cents, ZERO, formatMoneyPlain, least, minus, sum } from '../../core/money';
import {
  endVisitInput,
  expectVisitInput,
  importVisitsInput,
  matchVisitInput,
} from '../../core/payments/input';
import { spreadInOrder } from '../../core/payments/spread';
import { type ToldVisit, readToldVisits } from '../../core/payments/visits';
import { collectToday } from '../accounts/door';
import { type Context, Refused, allow, wallClock } from '../access';
import { heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { openCharges } from '../books/open-lines';
import { isClosed } from '../closed';
import { parseInput } from '../input';
import { type Act, inTransaction, useCase } from '../use-case';
import { allocations } from './tenders';

/** Money is kept for no visit that is further away, in days: two years. */
const MOST_DAYS_AHEAD = 731;
const TOO_FAR = 'This day is more than two years ahead';

/** A visit that somebody types. @returns its id */
export const expectVisit = useCase({
  name: 'expect visit',
  permission: 'take payments',
  input: expectVisitInput,
  once: (data) => data.key,
  async run(act, data): Promise<number> {
    const patient = await act.db
      .selectFrom('patient')
      .select(['id', 'household_id', 'last', 'first', 'birth_date'])
      .where('id', '=', data.patientId)
      .where('merged_into', 'is', null)
      .executeTakeFirst();
    if (!patient) throw new Refused('unknown', 'There is no such patient', 'patientId');
    const [provider, site] = await Promise.all([
      data.providerId === null
        ? true
        : act.db.selectFrom('provider').select('id').where('id', '=', data.providerId).executeTakeFirst(),
      data.locationId === null
        ? true
        : act.db.selectFrom('location').select('id').where('id', '=', data.locationId).executeTakeFirst(),
    ]);
    if (!provider) throw new Refused('unknown', 'There is no such provider', 'providerId');
    if (!site) throw new Refused('unknown', 'There is no such site', 'locationId');
    if (data.day < act.today) throw new Refused('date', 'This day is over', 'day');
    if (data.day > addDays(act.today, MOST_DAYS_AHEAD)) throw new Refused('date', TOO_FAR, 'day');
    const { id } = await act.db
      .insertInto('expected_visit')
      .values({
        household_id: patient.household_id,
        patient_id: patient.id,
        last: patient.last,
        first: patient.first,
        birth_date: patient.birth_date,
        day: data.day,
        at_time: data.time,
        provider_id: data.providerId,
        location_id: data.locationId,
        reason: data.reason,
        codes: data.codes,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('expects a visit', { kind: 'expected visit', id }, { day: data.day });
    return id;
  },
});

/** What came of a file of visits. */
export interface VisitsBrought {
  fresh: number;
  changed: number;
  canceled: number;
  /** Visits of nobody who is known for sure. */
  unmatched: number;
  faults: string[];
}

/** The one patient of a name, and birth date where it is said; null where there is none, or several. */
async function patientOf(act: Act, visit: ToldVisit): Promise<{ id: number; household_id: number } | null> {
  const found = await act.db
    .selectFrom('patient')
    .select(['id', 'household_id'])
    .where(sql<boolean>`lower(last) = lower(${visit.last})`)
    .where(sql<boolean>`lower(first) = lower(${visit.first})`)
    .where('merged_into', 'is', null)
    .where(
      visit.birthDate === null ? sql<boolean>`true` : sql<boolean>`birth_date = ${visit.birthDate}::date`,
    )
    .limit(2)
    .execute();
  return found.length === 1 ? found[0]! : null;
}

/**
 * Brings in a file of visits to come. The same file again, or another of the same program, changes what it says otherwise and adds
 * nothing twice; what cannot be read is named, and the rest is taken. A visit of a day that is over is left alone.
 */
export const importVisits = useCase({
  name: 'import visits',
  permission: 'take payments',
  input: importVisitsInput,
  async run(act, { name, text }): Promise<VisitsBrought> {
    const { visits, faults } = readToldVisits(text, act.today, wallClock);
    if (visits.length === 0 && faults.length > 0) throw new Refused('invalid', faults[0]!, 'text');
    const [providers, sites] = await Promise.all([
      act.db.selectFrom('provider').select(['id', 'last', 'first']).execute(),
      act.db.selectFrom('location').select(['id', 'name']).execute(),
    ]);
    const providerOf = (words: string): number | null => {
      const said = words.toLowerCase();
      const found = providers.filter(
        ({ last, first }) =>
          said !== '' &&
          (said === last.toLowerCase() ||
            said.startsWith(`${last.toLowerCase()},`) ||
            said.includes(`${first} ${last}`.toLowerCase())),
      );
      return found.length === 1 ? found[0]!.id : null;
    };
    const siteOf = (words: string): number | null =>
      sites.find((site) => site.name.toLowerCase() === words.toLowerCase())?.id ?? null;
    const brought: VisitsBrought = { fresh: 0, changed: 0, canceled: 0, unmatched: 0, faults: [...faults] };
    const words = (text_: string, what: string, found: number | null, key: string): void => {
      if (text_ !== '' && found === null)
        brought.faults.push(`${key}: ${what} “${text_.slice(0, 40)}” is not in Setup`);
    };
    for (const visit of visits) {
      if (visit.day < act.today) continue;
      if (visit.day > addDays(act.today, MOST_DAYS_AHEAD)) {
        brought.faults.push(`${visit.key}: ${TOO_FAR.toLowerCase()}`);
        continue;
      }
      const [providerId, locationId] = [providerOf(visit.provider), siteOf(visit.site)];
      words(visit.provider, 'provider', providerId, visit.key);
      words(visit.site, 'site', locationId, visit.key);
      const there = await act.db
        .selectFrom('expected_visit')
        .selectAll()
        .where('source', '=', 'file')
        .where('source_key', '=', visit.key)
        .forUpdate()
        .executeTakeFirst();
      // Somebody's whose name is put right is still that one.
      const told = there && isAnother(there, visit) ? await patientOf(act, visit) : null;
      const another =
        there !== undefined && isAnother(there, visit) && (!told || told.id !== there.patient_id);
      if (another && (await hasMoney(act, there.id))) {
        brought.faults.push(
          `${visit.key}: it was the visit of ${there.first} ${there.last}, for which money was taken, and is said to be another’s`,
        );
        continue;
      }
      const patient = there?.patient_id && !another ? null : (told ?? (await patientOf(act, visit)));
      const said = {
        last: visit.last,
        first: visit.first,
        birth_date: visit.birthDate,
        day: visit.day,
        at_time: visit.time,
        provider_id: providerId,
        location_id: locationId,
        reason: visit.reason,
        codes: visit.codes,
        ...(patient || another
          ? { patient_id: patient?.id ?? null, household_id: patient?.household_id ?? null }
          : {}),
      };
      if (!there) {
        if (visit.canceled) continue;
        // Two that bring in the same at once: the second one finds it there.
        const made = await act.db
          .insertInto('expected_visit')
          .values({ ...said, source: 'file', source_key: visit.key, user_id: act.user.id })
          .onConflict((conflict) => conflict.doNothing())
          .returning('id')
          .executeTakeFirst();
        if (!made) continue;
        brought.fresh += 1;
        if (!patient) brought.unmatched += 1;
        continue;
      }
      if ((!there.patient_id || another) && !patient) brought.unmatched += 1;
      if (visit.canceled && there.canceled_on === null) {
        await endVisit(act, there.id, 'canceled', `told by ${name || 'the program that plans visits'}`, true);
        brought.canceled += 1;
        continue;
      }
      // What a file has canceled comes after all, and what is still held of its money is reserved again.
      const comes =
        there.canceled_told && !visit.canceled
          ? {
              canceled_on: null,
              canceled_why: '',
              canceled_told: false,
              // What a person had freed before stays free.
              ...(there.freed_why === there.canceled_why ? { freed_on: null, freed_why: '' } : {}),
            }
          : {};
      const differs = Object.entries({ ...said, ...comes }).some(
        ([column, value]) => JSON.stringify(there[column as keyof typeof there]) !== JSON.stringify(value),
      );
      if (!differs || visit.canceled) continue;
      await act.db
        .updateTable('expected_visit')
        .set({ ...said, ...comes })
        .where('id', '=', there.id)
        .execute();
      brought.changed += 1;
    }
    await act.note(
      'brought in visits',
      { kind: 'file', id: name || 'visits' },
      { ...brought, faults: brought.faults.length },
    );
    return brought;
  },
});

/** Whether a file says another person than before. */
const isAnother = (
  there: { last: string; first: string; birth_date: CalendarDate | null },
  said: ToldVisit,
): boolean =>
  there.last.toLowerCase() !== said.last.toLowerCase() ||
  there.first.toLowerCase() !== said.first.toLowerCase() ||
  (there.birth_date !== null && said.birthDate !== null && there.birth_date !== said.birthDate);

/** Whether money was taken for a visit. */
const hasMoney = async (act: Act, visitId: number): Promise<boolean> =>
  (await act.db
    .selectFrom('receipt')
    .select('id')
    .where('expected_visit_id', '=', visitId)
    .executeTakeFirst()) !== undefined;

/** Says whose visit it is. */
export const matchVisit = useCase({
  name: 'match visit',
  permission: 'take payments',
  input: matchVisitInput,
  async run(act, { expectedVisitId, patientId }) {
    const patient = await act.db
      .selectFrom('patient')
      .select(['id', 'household_id'])
      .where('id', '=', patientId)
      .where('merged_into', 'is', null)
      .executeTakeFirst();
    if (!patient) throw new Refused('unknown', 'There is no such patient', 'patientId');
    const visit = await lockVisit(act, expectedVisitId);
    if (visit.patient_id === patientId) return;
    if (await hasMoney(act, expectedVisitId))
      throw new Refused('blocked', 'Money was taken for it: move that first');
    await act.db
      .updateTable('expected_visit')
      .set({ patient_id: patient.id, household_id: patient.household_id })
      .where('id', '=', expectedVisitId)
      .execute();
    await act.note(
      'is the visit of',
      { kind: 'expected visit', id: expectedVisitId },
      { patient: patientId },
    );
  },
});

async function lockVisit(act: Act, id: number) {
  const visit = await act.db
    .selectFrom('expected_visit')
    .selectAll()
    .where('id', '=', id)
    .forUpdate()
    .executeTakeFirst();
  if (!visit) throw new Refused('unknown', 'There is no such visit', 'expectedVisitId');
  return visit;
}

/** Ends a visit: it does not come, or its money is free. */
async function endVisit(
  act: Act,
  id: number,
  as: 'canceled' | 'freed',
  why: string,
  told = false,
): Promise<void> {
  await act.db
    .updateTable('expected_visit')
    .set({
      ...(as === 'canceled' ? { canceled_on: act.today, canceled_why: why, canceled_told: told } : {}),
      // Its money may have been freed before.
      freed_on: sql<CalendarDate>`coalesce(freed_on, ${act.today}::date)`,
      freed_why: sql<string>`case when freed_on is null then ${why} else freed_why end`,
    })
    .where('id', '=', id)
    .execute();
  await act.note(as === 'canceled' ? 'does not come' : 'is free', { kind: 'expected visit', id }, { why });
}

/** A visit that does not come: the money that was taken for it is free at once. */
export const cancelVisit = useCase({
  name: 'cancel visit',
  permission: 'take payments',
  input: endVisitInput,
  async run(act, { expectedVisitId, why }) {
    const visit = await lockVisit(act, expectedVisitId);
    if (visit.canceled_on !== null) throw new Refused('already', 'It was said before that it does not come');
    await endVisit(act, expectedVisitId, 'canceled', why);
  },
});

/** Frees the money that was taken for a visit before its time: it is credit as any other. */
export const freeReserved = useCase({
  name: 'free reserved credit',
  permission: 'take payments',
  input: endVisitInput,
  async run(act, { expectedVisitId, why }) {
    const visit = await lockVisit(act, expectedVisitId);
    if (visit.freed_on !== null) throw new Refused('already', 'Its money is free already');
    await endVisit(act, expectedVisitId, 'freed', why);
  },
});

/** Lets the money of one visit pay what that visit left open with its patient. @returns cents */
async function payVisit(act: Act, visitId: number): Promise<Cents> {
  const known = await act.db
    .selectFrom('expected_visit')
    .select(['household_id', 'patient_id'])
    .where('id', '=', visitId)
    .executeTakeFirstOrThrow();
  if (known.household_id === null) return ZERO;
  await lockHouseholds(act.db, [known.household_id]);
  const visit = await lockVisit(act, visitId);
  if (visit.freed_on !== null || visit.household_id !== known.household_id) return ZERO;
  const open = (await openCharges(act, [known.household_id])).filter(
    (charge) => charge.patientId === visit.patient_id && charge.date === visit.day,
  );
  const apart = open[0]?.apart ?? null;
  const held = await heldReceipts(act.db, known.household_id, apart, visitId);
  const { parts } = spreadInOrder(sum(held.map(({ left }) => left)), open);
  let paid = ZERO;
  for (const part of parts) {
    let rest = part.amount;
    for (const receipt of held) {
      const amount = least(rest, receipt.left);
      if (amount <= 0) continue;
      receipt.left = minus(receipt.left, amount);
      rest = minus(rest, amount);
      paid = sum([paid, amount]);
      await writeEntries(
        act.db,
        act,
        allocations(
          act.today,
          `${receipt.how}, taken before the visit`,
          receipt.id,
          [{ id: part.id, amount }],
          open,
        ),
      );
    }
  }
  return paid;
}

/**
 * Lets money that was taken for visits of today pay what they left open, and frees what is left of those that are over. Done twice,
 * the second finds nothing to do.
 * @returns how many paid something, and how many are free now
 */
export async function settleVisits(context: Context): Promise<{ paid: number; freed: number }> {
  const { rows } = await sql<{ id: number; over: boolean }>`
    select v.id, v.day < ${context.today}::date as over
    from expected_visit v
    where v.freed_on is null
      and v.day <= ${context.today}::date
      and exists (
        select
        from receipt r
          join receipt_balance k on k.receipt_id = r.id
        where r.expected_visit_id = v.id and k.held > 0
      )
    order by v.id`.execute(context.db);
  const done = { paid: 0, freed: 0 };
  for (const { id, over } of rows)
    await inTransaction(context, async (act) => {
      const paid = await payVisit(act, id);
      if (paid > 0) {
        done.paid += 1;
        await act.note(
          'paid from check-in',
          { kind: 'expected visit', id },
          { amount: formatMoneyPlain(paid) },
        );
      }
      if (over) {
        await endVisit(act, id, 'freed', 'the visit is over');
        done.freed += 1;
      }
    });
  return done;
}

/** A visit of a day, as the desk sees it. Amounts in cents. */
export interface VisitRow {
  id: number;
  time: string;
  householdId: number | null;
  patientId: number | null;
  account: string;
  name: string;
  birthDate: CalendarDate | null;
  provider: string;
  site: string;
  siteId: number | null;
  reason: string;
  codes: string[];
  coverage: string;
  notices: string[];
  /** What the household owes before this visit. */
  owed: Cents;
  /** What was taken for it and is reserved. */
  reserved: Cents;
  /** Something was charged for this person on this day. */
  charged: boolean;
  canceled: string;
  freed: string;
  /** It is of an account that is closed to who asks. */
  closed: boolean;
  /** This patient is kept apart: the money is theirs. */
  apart: boolean;
}

/** The visits of a day, by time. A fixed number of queries. */
export async function readVisits(
  context: Context,
  asked: unknown,
): Promise<{ day: CalendarDate; rows: VisitRow[] }> {
  allow(context, 'take payments');
  const day = asked === undefined ? context.today : parseInput(dateField, asked);
  const { rows } = await sql<VisitRow>`
    select v.id, v.at_time as time, v.household_id as "householdId", v.patient_id as "patientId",
      coalesce(h.number, '') as account, v.last || case when v.first = '' then '' else ', ' || v.first end as name,
      coalesce(p.birth_date, v.birth_date) as "birthDate",
      coalesce(d.first || ' ' || d.last, '') as provider, coalesce(l.name, '') as site, v.location_id as "siteId",
      v.reason, v.codes,
      coalesce(
        (
          select o.plan_name
          from care_case k
            join covered o on o.id = coverage_on(k.id, 1, v.day)
          where k.patient_id = v.patient_id and k.standing
          limit 1
        ), ''
      ) as coverage,
      coalesce(
        (
          select array_agg(n.words order by n.id)
          from note n
          where (n.household_id = v.household_id or n.patient_id = v.patient_id)
            and n.on_opening
            and n.ended_on is null
            and (n.until is null or n.until >= ${context.today}::date)
        ), '{}'
      ) as notices,
      coalesce((
        select sum(greatest(0, w.owed - w.credit)) from owed_part w where w.household_id = v.household_id
      ), 0)::bigint as owed,
      coalesce(
        (
          select sum(k.held)
          from receipt r
            join receipt_balance k on k.receipt_id = r.id
          where r.expected_visit_id = v.id and v.freed_on is null
        ), 0
      )::bigint as reserved,
      exists (
        select
        from charge c
        where c.patient_id = v.patient_id and c.service_date = v.day and c.status = 'done' and c.kind = 'service'
      ) as charged,
      v.canceled_why as canceled, v.freed_why as freed, a.id is not null as apart,
      coalesce(${isClosed(context, sql`v.household_id`)}, false) as closed
    from expected_visit v
      left join household h on h.id = v.household_id
      left join patient p on p.id = v.patient_id
      left join confidential_address a on a.patient_id = v.patient_id and a.ended_on is null
      left join provider d on d.id = v.provider_id
      left join location l on l.id = v.location_id
    where v.day = ${day}::date
    order by v.at_time, v.last, v.id
    limit 1000`.execute(context.db);
  return {
    day,
    rows: rows.map((row) =>
      row.closed
        ? {
            ...row,
            name: 'A closed account',
            account: '',
            birthDate: null,
            reason: '',
            notices: [],
            owed: ZERO,
            coverage: '',
            codes: [],
          }
        : row,
    ),
  };
}

/** What is to be collected of one visit, part by part, as the account says it for today. Amounts in cents. */
export async function readToCollect(
  context: Context,
  { householdId, patientId }: { householdId: number; patientId: number },
): Promise<{ parts: { words: string; amount: Cents }[]; total: Cents; why: string }> {
  const all = await collectToday(context, householdId);
  const own = all.find((one) => one.patientId === patientId);
  return own ?? { parts: [], total: ZERO, why: '' };
}
