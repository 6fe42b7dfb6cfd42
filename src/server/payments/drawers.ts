/** The drawer of a user at a site: opened, dropped from, counted, locked. */
import { sql } from 'kysely';
import { drawerDifferenceEntry, placeMoveEntry } from '../../core/books/entries/patients';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, add, formatMoneyPlain, minus, negate, sum } from '../../core/money';
import { closeDrawerInput, dropInput, openDrawerInput } from '../../core/payments/input';
import { counted as countedWords } from '../../core/words';
import { type Context, Refused, allow, may } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { readPaymentPolicy } from './surcharge';
import { placeFor } from './tenders';

/** Opens the drawer of who acts at a site; cash and checks go there until it is closed. @returns its id */
export const openDrawer = useCase({
  name: 'open drawer',
  permission: 'take payments',
  input: openDrawerInput,
  once: (data) => data.key,
  async run(act, { locationId, opening }): Promise<number> {
    const site = await act.db
      .selectFrom('location')
      .select('name')
      .where('id', '=', locationId)
      .executeTakeFirst();
    if (!site) throw new Refused('unknown', 'There is no such site', 'locationId');
    const usual = (await readPaymentPolicy(act.db, locationId)).drawerOpening;
    const amount = opening ?? usual;
    if (amount < 0) throw new Refused('limit', 'A drawer does not open below zero', 'opening');
    const place =
      (await act.db
        .insertInto('place')
        .values({
          kind: 'drawer',
          name: `Drawer of ${act.user.name} (${act.user.id.slice(0, 8)}), ${site.name}`,
          location_id: locationId,
          user_id: act.user.id,
        })
        .onConflict((conflict) => conflict.doNothing())
        .returning('id')
        .executeTakeFirst()) ??
      (await act.db
        .selectFrom('place')
        .select('id')
        .where('kind', '=', 'drawer')
        .where('user_id', '=', act.user.id)
        .where('location_id', '=', locationId)
        .executeTakeFirstOrThrow());
    const made = await act.db
      .insertInto('drawer')
      .values({
        place_id: place.id,
        user_id: act.user.id,
        location_id: locationId,
        day: act.today,
        opening: amount,
      })
      .onConflict((conflict) => conflict.column('place_id').where('closed_at', 'is', null).doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!made) throw new Refused('already', `Your drawer at ${site.name} is open`);
    await act.note('opened drawer', { kind: 'drawer', id: made.id }, { opening: formatMoneyPlain(amount) });
    return made.id;
  },
});

/** An open drawer, locked against what is taken into it. @throws Refused where it is closed, or somebody else's */
async function lockDrawer(act: Act, drawerId: number) {
  const drawer = await act.db
    .selectFrom('drawer')
    .selectAll()
    .where('id', '=', drawerId)
    .forUpdate()
    .executeTakeFirst();
  if (!drawer) throw new Refused('unknown', 'There is no such drawer');
  if (drawer.user_id !== act.user.id && !may(act.user.role, 'deposit money'))
    throw new Refused('others', 'This drawer is somebody else’s');
  if (drawer.closed_at !== null) throw new Refused('already', 'This drawer is closed and locked');
  return drawer;
}

/** What lies in a drawer: its cash and its checks, by tender. */
const tendersIn = (act: Act, drawerId: number, placeId: number) =>
  act.db
    .selectFrom('tender as t')
    .innerJoin('receipt as r', 'r.id', 't.receipt_id')
    .select(['t.id', 't.kind', 't.amount', 't.receipt_id', 'r.household_id', 'r.received_on'])
    .where('t.drawer_id', '=', drawerId)
    .where('t.place_id', '=', placeId)
    .where('t.state', '=', 'taken')
    .orderBy('t.id')
    .execute();

/** What was dropped from a drawer, in cents. */
async function droppedFrom(act: Act, drawerId: number): Promise<Cents> {
  const row = await act.db
    .selectFrom('drawer_drop')
    .select(sql<Cents>`coalesce(sum(amount), 0)`.as('amount'))
    .where('drawer_id', '=', drawerId)
    .executeTakeFirstOrThrow();
  return row.amount;
}

const cashOf = (tenders: Awaited<ReturnType<typeof tendersIn>>): Cents =>
  sum(tenders.filter(({ kind }) => kind === 'cash').map(({ amount }) => amount));

/** Takes cash out of an open drawer into safety. @returns what is to be left in it, in cents */
export const dropFromDrawer = useCase({
  name: 'drop from drawer',
  permission: 'take payments',
  input: dropInput,
  once: (data) => data.key,
  async run(act, { drawerId, amount, words }): Promise<Cents> {
    const drawer = await lockDrawer(act, drawerId);
    const there = minus(
      add(drawer.opening, cashOf(await tendersIn(act, drawerId, drawer.place_id))),
      await droppedFrom(act, drawerId),
    );
    if (amount > there)
      throw new Refused('limit', `${formatMoneyPlain(there)} is in it, less than that`, {
        field: 'amount',
        facts: { there },
      });
    await act.db
      .insertInto('drawer_drop')
      .values({ drawer_id: drawerId, amount, words, user_id: act.user.id })
      .execute();
    await act.note('dropped', { kind: 'drawer', id: drawerId }, { amount: formatMoneyPlain(amount), words });
    return minus(there, amount);
  },
});

/**
 * Closes a drawer that was counted: what it holds waits for the bank, by how much it is over or short is an entry of its own, and
 * it is locked. @returns by how much it is over, below zero short, in cents
 */
export const closeDrawer = useCase({
  name: 'close drawer',
  permission: 'take payments',
  input: closeDrawerInput,
  once: (data) => data.key,
  async run(act, { drawerId, counted, checks, why }): Promise<Cents> {
    // Households are locked before the drawer, as whoever takes money does; what came meanwhile is looked at again.
    const first = await act.db
      .selectFrom('tender as t')
      .innerJoin('receipt as r', 'r.id', 't.receipt_id')
      .select('r.household_id')
      .distinct()
      .where('t.drawer_id', '=', drawerId)
      .execute();
    await lockHouseholds(
      act.db,
      first.map(({ household_id }) => household_id),
    );
    const drawer = await lockDrawer(act, drawerId);
    const tenders = await tendersIn(act, drawerId, drawer.place_id);
    if (tenders.some(({ household_id }) => !first.some((one) => one.household_id === household_id)))
      throw new Refused('state', 'Something came into it at this moment: count it again');
    const expected = minus(add(drawer.opening, cashOf(tenders)), await droppedFrom(act, drawerId));
    const difference = minus(counted, expected);
    const held = tenders.filter(({ kind }) => kind === 'check').length;
    const faults = [
      difference !== 0 &&
        `${formatMoneyPlain(difference < 0 ? negate(difference) : difference)} ${difference < 0 ? 'is missing' : 'is too much'}: ${formatMoneyPlain(expected)} was to be in it`,
      checks !== held && `${countedWords(held, 'check')} are to be in it, not ${checks}`,
    ].filter((fault): fault is string => fault !== false);
    if (faults.length > 0 && why === '')
      throw new Refused('missing', `${faults.join('. ')}. Count it again, or say why`, {
        field: 'why',
        facts: { expected, difference, checks: held },
      });
    const waits = await placeFor(act.db, act, { tender: 'cash', locationId: drawer.location_id });
    await writeEntries(
      act.db,
      act,
      tenders.map((tender) =>
        placeMoveEntry({
          businessDate: tender.received_on > drawer.day ? tender.received_on : drawer.day,
          memo: 'Out of the drawer',
          about: { householdId: tender.household_id, receiptId: tender.receipt_id },
          cash: { account: `cash/${tender.kind}`, tenderId: tender.id, placeId: drawer.place_id },
          to: waits,
          amount: tender.amount,
        }),
      ),
    );
    if (tenders.length > 0)
      await act.db
        .updateTable('tender')
        .set({ place_id: waits })
        .where(
          'id',
          'in',
          tenders.map(({ id }) => id),
        )
        .execute();
    await writeEntries(act.db, act, [
      drawerDifferenceEntry({
        businessDate: act.today,
        memo: difference === 0 ? '' : `${difference < 0 ? 'Short' : 'Over'}: ${why}`,
        drawerId,
        placeId: waits,
        locationId: drawer.location_id,
        amount: difference,
      }),
    ]);
    await act.db
      .updateTable('drawer')
      .set({
        closed_at: sql<Date>`desk_now()`,
        closed_by: act.user.id,
        counted,
        checks_counted: checks,
        expected,
        difference,
        why,
      })
      .where('id', '=', drawerId)
      .execute();
    await act.note(
      'closed drawer',
      { kind: 'drawer', id: drawerId },
      { counted: formatMoneyPlain(counted), difference: formatMoneyPlain(difference), why },
    );
    return difference;
  },
});

/** A drawer as a person sees it. Amounts in cents. */
export interface DrawerRow {
  id: number;
  userId: string;
  by: string;
  locationId: number;
  site: string;
  day: CalendarDate;
  opening: Cents;
  cash: Cents;
  checks: number;
  checkAmount: Cents;
  dropped: Cents;
  /** What is to be in it in cash. */
  expected: Cents;
  closed: { by: string; counted: Cents; checks: number; difference: Cents; why: string } | null;
}

/** Drawers that are open, and those of a day; of others than one's own only for who deposits money. */
export async function readDrawers(context: Context, day: CalendarDate): Promise<DrawerRow[]> {
  allow(context, 'take payments');
  const { rows } = await sql<DrawerRow>`
    select d.id, d.user_id as "userId", coalesce(u.name, d.user_id) as by, d.location_id as "locationId", l.name as site,
      d.day, d.opening, s.cash, s.checks, s.check_amount as "checkAmount", o.dropped,
      coalesce(d.expected, d.opening + s.cash - o.dropped) as expected,
      case when d.closed_at is not null then json_build_object(
        'by', coalesce(c.name, d.closed_by), 'counted', d.counted, 'checks', d.checks_counted, 'difference', d.difference,
        'why', d.why
      ) end as closed
    from drawer d
      join location l on l.id = d.location_id
      left join "user" u on u.id = d.user_id
      left join "user" c on c.id = d.closed_by
      cross join lateral (
        select coalesce(sum(m.amount) filter (where m.kind = 'cash'), 0)::bigint as cash,
          count(*) filter (where m.kind = 'check') as checks,
          coalesce(sum(m.amount) filter (where m.kind = 'check'), 0)::bigint as check_amount
        from (
            select t.kind, t.amount
            from tender t
            where t.drawer_id = d.id and t.state = 'taken' and d.closed_at is null
            union all
            -- What left it when it was closed: what came back since was in it then.
            select t.kind, -p.amount
            from tender t
              join posting p on p.tender_id = t.id and p.place_id = d.place_id
              join entry e on e.id = p.entry_id and e.kind = 'place-move'
            where t.drawer_id = d.id and d.closed_at is not null
          ) m
      ) s
      cross join lateral (
        select coalesce(sum(amount), 0)::bigint as dropped from drawer_drop where drawer_id = d.id
      ) o
    where (d.day = ${day}::date or d.closed_at is null)
      and (${may(context.user.role, 'deposit money')} or d.user_id = ${context.user.id})
    order by d.closed_at is not null, d.day, d.id`.execute(context.db);
  return rows;
}
