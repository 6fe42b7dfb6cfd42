/** Late charges: worked out from what is past due, previewed, and put on accounts, each by itself. */
import { sql } from 'kysely';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, sum, toDecimal } from '../../core/money';
import { lateInput } from '../../core/statements/input';
import { type PastDuePart, lateChargeOf, pastDuePart } from '../../core/statements/late';
import type { LateRule, Shown } from '../../core/statements/policy';
import { type Context, Refused, allow, audit } from '../access';
import { chargeAccount } from '../accounts/charges';
import { lockHouseholds } from '../books/journal';
import { useCase } from '../use-case';
import { readPolicies } from './policies';

/** A household that is past due, and its late charge; amounts in cents. `spared` says why it gets none. */
export interface LateRow {
  householdId: number;
  account: string;
  name: string;
  siteId: number | null;
  pastDue: Cents;
  since: CalendarDate;
  last: CalendarDate | null;
  amount: Cents;
  spared: string;
}

interface PastDueCharge {
  householdId: number;
  account: string;
  name: string;
  siteId: number | null;
  charges: boolean;
  stops: string[];
  last: CalendarDate | null;
  owed: Cents;
  /** Whether the charge itself may bear late charges: it is none, and its case has not switched them off. */
  bears: boolean;
  shown: Shown[];
}

/** Charges that a statement showed as owed and that are owed still, with what is known of their households. */
async function shownCharges(context: Context, ids?: readonly number[]): Promise<PastDueCharge[]> {
  const { today } = context;
  const { rows } = await sql<PastDueCharge>`
    select h.id as "householdId", h.number as account, h.last || ', ' || h.first as name, h.late_charges as charges,
      coalesce(h.location_id, (select x.location_id from charge x where x.household_id = h.id and x.kind = 'service' and x.status <> 'void' order by x.service_date desc, x.id desc limit 1)) as "siteId",
      coalesce((select array_agg(r.name order by r.name) from account_stop o join stop_reason r on r.id = o.reason_id
        where o.household_id = h.id and r.late_charges and o.lifted_on is null and o.since <= ${today}::date and (o.until is null or o.until >= ${today}::date)), '{}') as stops,
      (select max(l.service_date) from charge l where l.household_id = h.id and l.kind = 'late' and l.status = 'done') as last,
      b.with_patient - coalesce(n.amount, 0) as owed, (c.kind <> 'late' and coalesce(k.late_charges, true)) as bears, s.shown
    from (select t.charge_id, json_agg(json_build_object('due', m.due_date, 'owed', t.owed)) as shown
      from statement_charge t join statement m on m.id = t.statement_id
      where ${ids ? sql`m.household_id = any(${[...ids]}::bigint[])` : sql`true`} and not exists (select 1 from statement_void v where v.statement_id = m.id) group by 1) s
    join charge_balance b on b.charge_id = s.charge_id and b.with_patient > 0 join charge c on c.id = s.charge_id left join not_billable n on n.charge_id = s.charge_id
    join household h on h.id = c.household_id left join care_case k on k.id = c.case_id order by h.last, h.first, h.id, c.id`.execute(
    context.db,
  );
  return rows;
}

/** The late charges that would be put on accounts today: every household that is past due, with its charge or why it is spared. */
export async function readLate(context: Context, ids?: readonly number[]): Promise<LateRow[]> {
  allow(context, 'read accounts');
  const [policies, charges] = await Promise.all([readPolicies(context.db), shownCharges(context, ids)]);
  const byHousehold = new Map<number, PastDueCharge[]>();
  for (const one of charges) {
    const own = byHousehold.get(one.householdId);
    if (own) own.push(one);
    else byHousehold.set(one.householdId, [one]);
  }
  return [...byHousehold.values()].flatMap((own) => {
    const [{ householdId, account, name, siteId, last, stops, charges: may }] = own as [PastDueCharge];
    const policy = policies.of(siteId);
    const past = own.flatMap((one): (PastDuePart & { bears: boolean })[] => {
      const part = pastDuePart(one.owed, one.shown, policy.graceDays, context.today);
      return part ? [{ ...part, bears: one.bears }] : [];
    });
    if (past.length === 0) return [];
    const bearing = past.filter(({ bears }) => bears);
    const amount = lateChargeOf(policy.late, policy, bearing, last, context.today);
    const spared =
      stops.length > 0
        ? `stopped: ${stops.join(', ')}`
        : !may
          ? 'switched off for the account'
          : bearing.length === 0
            ? 'what is past due bears none'
            : amount > 0
              ? ''
              : policy.late.kind === 'none'
                ? 'the policy has none'
                : last === null
                  ? 'it comes to nothing'
                  : `the last one is of ${formatDate(last)}`;
    const since = past.map((part) => part.since).reduce((a, b) => (b < a ? b : a));
    return [
      {
        householdId,
        account,
        name,
        siteId,
        pastDue: sum(past.map((part) => part.amount)),
        since,
        last,
        amount: spared === '' ? amount : ZERO,
        spared,
      },
    ];
  });
}

/** How a late charge came about, as it stands on the account and in the story. */
function lateWords({ kind, rate }: LateRule, { pastDue, since }: LateRow): string {
  const past = `Late charge on ${formatMoneyPlain(pastDue)} past due since ${formatDate(since)}`;
  return kind === 'flat' ? past : `${past}, ${rate / 100} % a year by days`;
}

/** The preview, which is put on the audit trail. */
export async function previewLate(context: Context): Promise<LateRow[]> {
  const rows = await readLate(context);
  await audit(context.db, context, 'looked at late charges', { kind: 'list', id: 'statements-due' });
  return rows;
}

/**
 * Puts the late charges on the accounts that are named, as they are worked out at that moment; each is a charge of its own,
 * voided by itself. Those that get none any more are left out. @returns how many and how much, in cents
 */
export const postLate = useCase({
  name: 'post late charges',
  permission: 'enter charges',
  input: lateInput,
  once: (data) => data.key,
  async run(act, { householdIds, key }) {
    await lockHouseholds(act.db, householdIds);
    const policies = await readPolicies(act.db);
    const rows = (await readLate(act, householdIds)).filter(({ amount }) => amount > 0);
    if (rows.length === 0) throw new Refused('None of these gets a late charge now');
    for (const row of rows)
      await chargeAccount(act, {
        householdId: row.householdId,
        kind: 'late',
        amount: toDecimal(row.amount),
        date: act.today,
        memo: lateWords(policies.of(row.siteId).late, row),
        key: `${key.slice(0, 60)} ${row.householdId}`,
      });
    const amount = sum(rows.map((row) => row.amount));
    await act.note(
      'posted late charges',
      { kind: 'list', id: 'statements-due' },
      { count: rows.length, amount },
    );
    return { count: rows.length, amount };
  },
});
