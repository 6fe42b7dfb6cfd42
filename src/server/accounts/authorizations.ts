/** What payers allow beforehand for a case: its number, how much of it, and what of that is used. */
import { sql } from 'kysely';
import type { z } from 'zod';
import {
  type AUTHORIZATION_STATES,
  type AUTHORIZATIONS,
  authorizationFixInput,
  authorizationInput,
} from '../../core/accounts/case-input';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, parseMoney, toDecimal } from '../../core/money';
import type { Db, Tx } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { startWork } from '../jobs/work';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';

/** One authorization with what is used of it. Amounts in cents; null where nothing is limited. */
export interface Authorization {
  id: number;
  caseId: number;
  payerId: number;
  payer: string;
  kind: keyof typeof AUTHORIZATIONS;
  state: keyof typeof AUTHORIZATION_STATES;
  number: string;
  askedOn: CalendarDate | null;
  answeredOn: CalendarDate | null;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
  codes: string[];
  visits: number | null;
  units: number | null;
  amount: Cents | null;
  /** Of what was done for the case in its time, by its codes, while something is left of the insurer. */
  used: { visits: number; units: number; amount: Cents };
  version: number;
}

/** The authorizations of cases, the newest first; what is used is counted from what was done. One query. */
export async function readAuthorizations(db: Db, caseIds: readonly number[]): Promise<Authorization[]> {
  const { rows } = await sql<Authorization>`
    select a.id, a.case_id as "caseId", a.payer_id as "payerId", y.name as payer, a.kind, a.state, a.number,
      a.asked_on as "askedOn", a.answered_on as "answeredOn", a.valid_from as "validFrom", a.valid_to as "validTo",
      coalesce(a.codes, '{}') as codes, a.visits, a.units, a.amount, u.used, a.version
    from care_authorization a
      join payer y on y.id = a.payer_id
      cross join lateral (
        select json_build_object(
            'visits', count(distinct (c.service_date, c.provider_id, c.location_id)),
            'units', coalesce(sum(c.units), 0), 'amount', coalesce(sum(c.fee), 0)
          ) as used
        from charge c
        where c.case_id = a.case_id
          and c.kind = 'service'
          and c.status = 'done'
          and not c.kept_from_payers
          and daterange(a.valid_from, a.valid_to, '[]') @> c.service_date::date
          and (a.codes is null or c.code = any(a.codes))
          -- What goes past an insurer of which nothing is left uses nothing of what that one allowed.
          and not exists (
            select
            from covered o
            where o.case_id = a.case_id
              and o.payer_id = a.payer_id
              and passed_over(o.id, c.service_date::date, array[c.id])
          )
      ) u
    where a.case_id = any(${[...caseIds]}::bigint[]) and a.kind in ('prior-authorization', 'referral')
    order by a.id desc`.execute(db);
  return rows;
}

const LABELS = {
  coverageId: 'Of which insurer',
  kind: 'Kind',
  state: 'State',
  number: 'Number',
  askedOn: 'Asked on',
  answeredOn: 'Answered on',
  validFrom: 'Valid from',
  validTo: 'until',
  codes: 'Services',
  visits: 'Visits',
  units: 'Units',
  amount: 'Amount',
} as const;

type Facts = Omit<z.output<typeof authorizationFixInput>, 'authorizationId' | 'version'>;

/** The insurer of a case, with the household locked. @throws Refused when it is not one of the case */
async function insurerOf(tx: Tx, coverageId: number, caseId: number) {
  const covered = await tx
    .selectFrom('covered as o')
    .innerJoin('patient as p', 'p.id', 'o.patient_id')
    .select(['o.case_id as caseId', 'o.payer_id as payerId', 'p.household_id as householdId'])
    .where('o.id', '=', coverageId)
    .executeTakeFirst();
  if (covered?.caseId !== caseId)
    throw new Refused('others', 'This insurer is not one of the case', 'coverageId');
  await lockHouseholds(tx, [covered.householdId]);
  return covered;
}

/** What is said of an authorization, as its columns have it. @throws Refused naming the field that is wrong */
async function columnsOf({ db, today }: Act, data: Facts) {
  const amount = data.amount === '' ? null : parseMoney(data.amount);
  if (data.amount !== '' && (amount === null || amount <= 0))
    throw new Refused('invalid', 'This is not an amount', 'amount');
  // What is answered says when; what is not answered says nothing of it.
  const answeredOn = data.state === 'asked' ? null : (data.answeredOn ?? today);
  for (const [field, date] of Object.entries({ askedOn: data.askedOn, answeredOn }))
    if (date && date > today) throw new Refused('date', `${formatDate(date)} is not yet`, field);
  if (data.askedOn && answeredOn && answeredOn < data.askedOn)
    throw new Refused('date', 'It is answered before it is asked', 'answeredOn');
  if (data.validFrom && data.validTo && data.validTo < data.validFrom)
    throw new Refused('invalid', 'It ends before it begins', 'validTo');
  if ((data.state === 'approved' || data.state === 'in-part') && data.number === '')
    throw new Refused('missing', 'What was approved has a number, which claims bear', 'number');
  const known = await db
    .selectFrom('service_code')
    .select('code')
    .where('code', '=', sql<string>`any(${data.codes})`)
    .execute();
  const unknown = data.codes.find((code) => !known.some((one) => one.code === code));
  if (unknown !== undefined)
    throw new Refused('invalid', `Code ${unknown} is not in the list of services`, 'codes');
  return {
    kind: data.kind,
    state: data.state,
    number: data.number,
    asked_on: data.askedOn,
    answered_on: answeredOn,
    valid_from: data.validFrom,
    valid_to: data.validTo,
    codes: data.codes.length > 0 ? data.codes : null,
    visits: data.visits,
    units: data.units,
    amount,
  };
}

/**
 * Writes down what a payer allows beforehand; claims that are still ours are checked again, and bear its number.
 * @returns its id
 * @throws Refused naming the field
 */
export const addAuthorization = useCase({
  name: 'add authorization',
  permission: 'register people',
  input: authorizationInput,
  once: (data) => data.key,
  async run(act, { caseId, key: _, ...data }): Promise<number> {
    const { payerId, householdId } = await insurerOf(act.db, data.coverageId, caseId);
    const { id } = await act.db
      .insertInto('care_authorization')
      .values({ case_id: caseId, payer_id: payerId, ...(await columnsOf(act, data)) })
      .returning('id')
      .executeTakeFirstOrThrow();
    await startWork(act, 'check claims', { householdId });
    await act.note('wrote down', { kind: 'authorization', id });
    return id;
  },
});

/** Puts an authorization right. @throws Conflict when somebody else has changed it since the form was filled */
export const changeAuthorization = useCase({
  name: 'change authorization',
  permission: 'register people',
  input: authorizationFixInput,
  async run(act, { authorizationId, version, ...data }) {
    const known = await act.db
      .selectFrom('care_authorization')
      .select('case_id')
      .where('id', '=', authorizationId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such authorization');
    const { payerId, householdId } = await insurerOf(act.db, data.coverageId, known.case_id);
    const there = (await readAuthorizations(act.db, [known.case_id])).find(
      ({ id }) => id === authorizationId,
    );
    if (!there) throw new Refused('state', 'This is no authorization that is put right here');
    const columns = await columnsOf(act, data);
    const shown = (amount: Cents | null): string => (amount === null ? '' : toDecimal(amount));
    const stands = { ...there, coverageId: data.coverageId, amount: shown(there.amount) };
    const wanted = { ...data, answeredOn: columns.answered_on, amount: shown(columns.amount) };
    refuseOlder(version, there.version, stands, wanted, LABELS);
    await act.db
      .updateTable('care_authorization')
      .set({ payer_id: payerId, ...columns })
      .where('id', '=', authorizationId)
      .execute();
    await startWork(act, 'check claims', { householdId });
    await act.note(
      'changed',
      { kind: 'authorization', id: authorizationId },
      changesOf(stands, wanted, LABELS),
    );
  },
});
