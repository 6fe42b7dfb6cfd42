/** Taking money to the bank: what was handed over lies somewhere until it is deposited. */
import { depositDifferenceEntry, depositEntry } from '../../core/books/entries/patients';
import { sql } from 'kysely';
import { formatDate } from '../../core/calendar';
import { type Cents, add, formatMoneyPlain, sum } from '../../core/money';
import { depositInput, undoDepositInput } from '../../core/payments/input';
import { Refused } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { type Act, useCase } from '../use-case';

/** The place, open on a day. @throws Refused */
async function placeOf(act: Act, id: number, field: 'fromPlaceId' | 'toPlaceId', day: string) {
  const place = await act.db
    .selectFrom('place')
    .select(['id', 'kind', 'name', 'closed_on'])
    .where('id', '=', id)
    .executeTakeFirst();
  if (!place) throw new Refused('unknown', 'There is no such place', field);
  if ((place.kind === 'bank') !== (field === 'toPlaceId'))
    throw new Refused(
      'invalid',
      `${place.name} is ${place.kind === 'bank' ? 'a' : 'no'} bank account`,
      field,
    );
  if (field === 'toPlaceId' && place.closed_on !== null && place.closed_on <= day)
    throw new Refused('state', `${place.name} is closed`, field);
  return place;
}

/** Tenders with their households locked, by their ids. */
async function tendersOf(act: Act, ids: readonly number[]) {
  const find = () =>
    act.db
      .selectFrom('tender as t')
      .innerJoin('receipt as r', 'r.id', 't.receipt_id')
      .select([
        't.id',
        't.kind',
        't.amount',
        't.surcharge',
        't.state',
        't.place_id',
        't.receipt_id',
        'r.household_id',
        'r.received_on',
      ])
      .where('t.id', 'in', [...ids])
      .orderBy('t.id');
  const known = await find().execute();
  if (known.length < new Set(ids).size) throw new Refused('unknown', 'One of them is not there', 'tenderIds');
  await lockHouseholds(
    act.db,
    known.map((tender) => tender.household_id),
  );
  return find().forUpdate('t').execute();
}

/** What a tender is in the books, with what was added for its kind. */
const wholeOf = ({ amount, surcharge }: { amount: Cents; surcharge: Cents }): Cents => add(amount, surcharge);

/**
 * Deposits tenders that lie in a place: each is in the bank account from that day on, by an entry of its own, so that one that bounces
 * is taken back by itself.
 * @returns the deposit and its amount in cents
 */
export const makeDeposit = useCase({
  name: 'make deposit',
  permission: 'deposit money',
  input: depositInput,
  once: (data) => data.key,
  async run(
    act,
    { fromPlaceId, toPlaceId, date, number, tenderIds, drawerIds },
  ): Promise<{ depositId: number; amount: Cents }> {
    if (date > act.today) throw new Refused('date', 'This day is still to come', 'date');
    const { closed_through: closed } = await act.db
      .selectFrom('practice')
      .select('closed_through')
      .executeTakeFirstOrThrow();
    if (closed !== null && date <= closed)
      throw new Refused('date', `The period through ${formatDate(closed)} is closed`, 'date');
    const from = await placeOf(act, fromPlaceId, 'fromPlaceId', date);
    const to = await placeOf(act, toPlaceId, 'toPlaceId', date);
    const tenders = await tendersOf(act, tenderIds);
    const elsewhere = tenders.filter((tender) => tender.place_id !== from.id || tender.state !== 'taken');
    if (elsewhere.length > 0)
      throw new Refused(
        'state',
        `${elsewhere.length === 1 ? 'One of them does' : `${elsewhere.length} of them do`} not lie in ${from.name} any more: look again`,
        { field: 'tenderIds', facts: { elsewhere: elsewhere.length } },
      );
    if (tenders.some((tender) => tender.received_on > date))
      throw new Refused('date', 'Something of it came after that day', 'date');
    const drawers = await differencesOf(act, from.id, drawerIds);
    const { id: depositId } = await act.db
      .insertInto('deposit')
      .values({ place_id: to.id, date, number, user_id: act.user.id })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeEntries(
      act.db,
      act,
      tenders.map((tender) =>
        depositEntry({
          businessDate: date,
          memo: number === '' ? `Taken to ${to.name}` : `Taken to ${to.name}, ${number}`,
          about: { receiptId: tender.receipt_id, depositId },
          cash: { account: `cash/${tender.kind}`, tenderId: tender.id, placeId: from.id },
          to: to.id,
          amount: wholeOf(tender),
        }),
      ),
    );
    await act.db
      .updateTable('tender')
      .set({ place_id: to.id })
      .where(
        'id',
        'in',
        tenders.map(({ id }) => id),
      )
      .execute();
    await writeEntries(
      act.db,
      act,
      drawers.map(({ difference }) =>
        depositDifferenceEntry({
          businessDate: date,
          memo: `Over or short, taken to ${to.name}`,
          depositId,
          from: from.id,
          to: to.id,
          amount: difference,
        }),
      ),
    );
    if (drawers.length > 0)
      await act.db
        .updateTable('drawer')
        .set({ deposit_id: depositId })
        .where(
          'id',
          'in',
          drawers.map(({ id }) => id),
        )
        .execute();
    const amount = add(sum(tenders.map(wholeOf)), sum(drawers.map(({ difference }) => difference)));
    await act.note(
      'deposited',
      { kind: 'deposit', id: depositId },
      { amount: formatMoneyPlain(amount), number },
    );
    return { depositId, amount };
  },
});

/** Differences of closed drawers whose cash lies in a place and is not in the bank. @throws Refused where one is not there */
async function differencesOf(
  act: Act,
  placeId: number,
  ids: readonly number[],
): Promise<{ id: number; difference: Cents }[]> {
  if (ids.length === 0) return [];
  const { rows } = await sql<{ id: number; difference: Cents }>`
    select d.id, d.difference
    from drawer d
      join entry e on e.key = 'drawer:' || d.id
      join posting p on p.entry_id = e.id and p.account = 'cash/cash' and p.place_id = ${placeId}
    where d.id = any(${[...ids]}::bigint[]) and d.deposit_id is null
    order by d.id
    for update of d`.execute(act.db);
  if (rows.length < new Set(ids).size)
    throw new Refused('state', 'One of the drawers is in the bank already, or counts exactly', 'drawerIds');
  return rows;
}

/** Undoes a deposit: what of it was not taken back by itself lies again where it lay. */
export const undoDeposit = useCase({
  name: 'undo deposit',
  permission: 'reverse entries',
  input: undoDepositInput,
  async run(act, { depositId, why }) {
    const lay = await act.db
      .selectFrom('posting as p')
      .innerJoin('entry as e', 'e.id', 'p.entry_id')
      .innerJoin('deposit as d', 'd.id', 'p.deposit_id')
      .select(['e.id as entryId', 'p.tender_id as tenderId', 'p.place_id as placeId'])
      .where('p.deposit_id', '=', depositId)
      .where('e.kind', '=', 'deposit')
      .whereRef('p.place_id', '<>', 'd.place_id')
      .orderBy('e.id')
      .execute();
    if (lay.length === 0) throw new Refused('unknown', 'There is no such deposit');
    await tendersOf(
      act,
      lay.map(({ tenderId }) => tenderId!),
    );
    const undone = new Set(
      await reverseEntries(
        act.db,
        act,
        lay.map(({ entryId }) => entryId),
        why,
      ),
    );
    if (undone.size === 0) throw new Refused('already', 'This was undone before');
    await act.db.updateTable('deposit').set({ undone_on: act.today }).where('id', '=', depositId).execute();
    const differences = await act.db
      .selectFrom('posting as p')
      .innerJoin('entry as e', 'e.id', 'p.entry_id')
      .select('e.id')
      .distinct()
      .where('p.deposit_id', '=', depositId)
      .where('e.kind', '=', 'deposit-difference')
      .execute();
    await reverseEntries(
      act.db,
      act,
      differences.map(({ id }) => id),
      why,
    );
    await act.db
      .updateTable('drawer')
      .set({ deposit_id: null })
      .where('deposit_id', '=', depositId)
      .execute();
    for (const { entryId, tenderId, placeId } of lay)
      if (undone.has(entryId))
        await act.db.updateTable('tender').set({ place_id: placeId! }).where('id', '=', tenderId).execute();
    await act.note('undone', { kind: 'deposit', id: depositId }, { why });
  },
});
