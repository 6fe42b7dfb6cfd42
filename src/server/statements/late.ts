/** Late charges: worked out from what is past due, previewed, and put on accounts, each by itself. */
import { sql } from 'kysely';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, sum, toDecimal } from '../../core/money';
import { lateInput } from '../../core/statements/input';
import { lateChargeOf } from '../../core/statements/late';
import type { LateRule } from '../../core/statements/policy';
import { type Context, Refused, allow, audit } from '../access';
import { chargeAccount, householdsOf, sparedBy } from '../accounts/door';
import { lockHouseholds } from '../books/journal';
import { withheld } from '../closed';
import { readOwed } from '../books/owed';
import { useCase } from '../use-case';
import { readPolicies } from '../setup/statement-policies';

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
  /** It is closed to who asks: its amounts alone are said. */
  closed: boolean;
}

/** Charges that bear no late charge: late charges themselves, and those of cases that have switched them off. */
async function bearNone({ db }: Context, chargeIds: readonly number[]): Promise<Set<number>> {
  const { rows } = await sql<{ id: number }>`
    select c.id
    from charge c
      left join care_case k on k.id = c.case_id
    where c.id = any(${[...chargeIds]}::bigint[]) and (c.kind = 'late' or not coalesce(k.late_charges, true))`.execute(
    db,
  );
  return new Set(rows.map(({ id }) => id));
}

/**
 * The late charges that would be put on accounts today: every household that is past due, with its charge or why it is spared.
 * What goes to a confidential address bears none, for they stand on the household’s paper.
 */
export async function readLate(context: Context, ids?: readonly number[]): Promise<LateRow[]> {
  allow(context, 'read accounts');
  const late = (await readOwed(context, ids, 'past due')).filter(
    ({ patientId, pastDue }) => patientId === null && pastDue > 0,
  );
  const [policies, households, none] = await Promise.all([
    readPolicies(context.db),
    householdsOf(
      context,
      late.map(({ householdId }) => householdId),
    ),
    bearNone(
      context,
      late.flatMap(({ charges }) => charges.map(({ chargeId }) => chargeId)),
    ),
  ]);
  const byHousehold = new Map(late.map((one) => [one.householdId, one]));
  return households.map((known): LateRow => {
    const { charges: _, stops: __, ...household } = known;
    const { charges, pastDue, since, siteId } = byHousehold.get(household.householdId)!;
    const policy = policies.of(siteId);
    const bearing = charges.filter(({ chargeId }) => !none.has(chargeId)).flatMap((one) => one.pastDue);
    const amount = lateChargeOf(policy.late, policy, bearing, household.last, context.today);
    const spared =
      sparedBy(known) ||
      (bearing.length === 0
        ? 'what is past due bears none'
        : amount > 0
          ? ''
          : policy.late.kind === 'none'
            ? 'the policy has none'
            : household.last === null
              ? 'it comes to nothing'
              : `the last one is of ${formatDate(household.last)}`);
    return {
      ...household,
      siteId,
      pastDue,
      since: since!,
      amount: spared === '' ? amount : ZERO,
      spared,
      closed: false,
    };
  });
}

/** How a late charge came about, as it stands on the account and in the story. */
function lateWords({ kind, rate }: LateRule, { pastDue, since }: LateRow): string {
  const past = `Late charge on ${formatMoneyPlain(pastDue)} past due since ${formatDate(since)}`;
  return kind === 'flat' ? past : `${past}, ${rate / 100} % a year by days`;
}

/** The preview, which is put on the audit trail. */
export async function previewLate(context: Context): Promise<LateRow[]> {
  const rows = await withheld(context, await readLate(context), (row) => ({
    ...row,
    last: null,
    spared: '',
  }));
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
    if (rows.length === 0) throw new Refused('state', 'None of these gets a late charge now');
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
