/** What is proposed for an agency: by a person or by the policy, approved and handed over, or withdrawn. */
import { placedEntry } from '../../core/books/entries/agencies';
import type { ChargePart } from '../../core/books/entry';
import { formatDate } from '../../core/calendar';
import { contingencyOf, readSettings } from '../../core/exchange/connections';
import { type Cents, sum } from '../../core/money';
import { PLACEMENT_STATES } from '../../core/overdue/agency';
import { OBJECTIONS } from '../../core/overdue/hand-over';
import { approveInput, endPlacementInput, proposeInput } from '../../core/overdue/input';
import { counted } from '../../core/words';
import { type Context, Refused, lookAgain, otherThanSeen } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { leftToAsk } from '../books/owed';
import { type Act, inTransaction, useCase } from '../use-case';
import { readOverdue } from './facts';
import { objectionsNow } from './hand-over';
import { type OverdueRow, weighOverdue } from './list';
import { endPlacement, lockPlacement, notePlacement } from './placements';
import { readOverduePolicy } from './policy';

/** What of accounts would be handed over: what is past due of each charge, but not what goes to a confidential address. By household. */
export async function toHandOver(context: Context, householdIds: readonly number[]) {
  const rows = (await readOverdue(context, householdIds)).filter(({ patientId }) => patientId === null);
  const pastDue = new Map(
    rows.flatMap(({ facts }) => facts.charges.map(({ chargeId, amount }) => [chargeId, amount])),
  );
  const parts = new Map<number, ChargePart[]>();
  for (const [householdId, own] of await leftToAsk(context, householdIds)) {
    // What no statement has shown yet stays, and is stated as usual.
    const due = own.flatMap(({ about }): ChargePart[] => {
      const amount = pastDue.get(about.chargeId);
      return amount === undefined ? [] : [{ about, amount }];
    });
    if (due.length > 0) parts.set(householdId, due);
  }
  return { rows, parts };
}

interface Proposed {
  count: number;
  /** Who was left out, with the reason. */
  left: { account: string; why: string }[];
}

/** Proposes accounts that are locked, each for a reason of its own. */
async function propose(
  act: Act,
  reasons: ReadonlyMap<number, string>,
  connectionId: number,
): Promise<Proposed> {
  const tx = act.db;
  const ids = [...reasons.keys()];
  const agency = await tx
    .selectFrom('connection')
    .select(['id', 'settings'])
    .where('id', '=', connectionId)
    .where('kind', '=', 'agency')
    .executeTakeFirst();
  if (!agency) throw new Refused('unknown', 'There is no such agency in Setup', 'connectionId');
  const settings = readSettings('agency', agency.settings);
  const { rows, parts } = await toHandOver(act, ids);
  const known = await tx.selectFrom('household').select(['id', 'number']).where('id', 'in', ids).execute();
  const left: { account: string; why: string }[] = [];
  let count = 0;
  for (const [id, why] of reasons) {
    const account = known.find((household) => household.id === id)?.number ?? String(id);
    const row = rows.find(({ householdId }) => householdId === id);
    const open = parts.get(id) ?? [];
    const reason =
      !row || open.length === 0
        ? 'nothing of it is past due'
        : row.facts.stopsAgency
          ? 'a stop keeps it from agencies'
          : row.facts.placement === 'placed'
            ? 'it is with an agency'
            : row.facts.placement === 'proposed'
              ? 'it is proposed already'
              : '';
    if (reason !== '') {
      left.push({ account, why: reason });
      continue;
    }
    const { id: placementId } = await tx
      .insertInto('placement')
      .values({
        household_id: id,
        connection_id: agency.id,
        amount: sum(open.map(({ amount }) => amount)),
        contingency: contingencyOf(settings),
        pays: settings.pays,
        proposed_on: act.today,
        proposed_by: act.user.name,
        why,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await notePlacement(tx, act, placementId, 'proposed', { words: why });
    await act.note('proposed', { kind: 'placement', id: placementId }, { account, why });
    count += 1;
  }
  return { count, left };
}

/** Proposes accounts for an agency; a manager decides. @returns how many, and who was left out with the reason */
export const proposePlacements = useCase({
  name: 'propose placements',
  permission: 'work overdue',
  input: proposeInput,
  async run(act, { householdIds, connectionId, why, sure }): Promise<Proposed> {
    const ids = [...new Set(householdIds)];
    await lockHouseholds(act.db, ids);
    const spared = [...(await sparedNow(act, ids))];
    const done = await propose(act, new Map(ids.map((id) => [id, why])), connectionId);
    if (done.count === 0)
      throw new Refused(
        'nothing',
        `Nothing was proposed: ${done.left.map((one) => `${one.account}: ${one.why}`).join('; ')}`,
      );
    const left = new Set(done.left.map(({ account }) => account));
    lookAgain(
      sure,
      spared.flatMap(([, { account, words }]) =>
        left.has(account) ? [] : [`${account}: ${words.join('; ')}`],
      ),
    );
    return done;
  },
});

const dueForAgency = ({ patientId, outlook, facts }: OverdueRow): boolean =>
  patientId === null && outlook.action === 'agency' && facts.placement === 'none';

/**
 * Proposes every account for which the policy says that an agency is due, to the agency that it names; a manager decides. Done
 * again, it proposes nobody twice, and nobody whose placement was withdrawn or came back for the same debt.
 * @param atOnce so many accounts are proposed in one transaction
 * @returns how many; 0 where the policy names no agency
 */
export async function proposeByRule(context: Context, atOnce = 200): Promise<number> {
  const { agencyId } = (await readOverduePolicy(context.db)).policy;
  if (agencyId === null) return 0;
  const due = (await weighOverdue(context)).filter(dueForAgency).map(({ householdId }) => householdId);
  let count = 0;
  for (let at = 0; at < due.length; at += atOnce) {
    const ids = due.slice(at, at + atOnce);
    count += await inTransaction(context, async (act) => {
      await lockHouseholds(act.db, ids);
      // Weighed again now that nobody else changes them: somebody may have paid meanwhile.
      const reasons = (await weighOverdue(act, ids)).filter(dueForAgency).map(byPolicy);
      if (reasons.length === 0) return 0;
      return (await propose(act, new Map(reasons), agencyId)).count;
    });
  }
  return count;
}

/** Why the policy proposes an account, in words for who decides. */
const byPolicy = ({ householdId, outlook }: OverdueRow): [number, string] => [
  householdId,
  outlook.lastLetter
    ? `by the policy: ${outlook.stage?.name ?? 'the last letter'} went out on ${formatDate(outlook.lastLetter)}`
    : `by the policy: past due for ${counted(outlook.daysPastDue, 'day')}`,
];

/**
 * What speaks against handing accounts over now, in words, by household: a promise, a plan in good order, a hardship
 * asked for, a payment.
 */
async function sparedNow(
  act: Act,
  householdIds: readonly number[],
): Promise<Map<number, { account: string; words: string[] }>> {
  const rows = await weighOverdue(act, householdIds);
  return new Map(
    rows.flatMap(({ householdId, patientId, account, outlook }) => {
      const words = outlook.spared.filter(({ id }) => id !== 'placed').map((one) => one.words);
      return patientId === null && words.length > 0 ? [[householdId, { account, words }] as const] : [];
    }),
  );
}

/**
 * Approves proposals: what is past due then moves to the agency in the books, and the hand-over is written.
 * @returns how many, and what was left out
 */
export const approvePlacements = useCase({
  name: 'approve placements',
  permission: 'approve placements',
  input: approveInput,
  async run(act, { placementIds, seen, sure }) {
    const tx = act.db;
    const ids = [...new Set(placementIds)];
    const found = await tx
      .selectFrom('placement')
      .select(['id', 'household_id'])
      .where('id', 'in', ids)
      .execute();
    if (found.length < ids.length) throw new Refused('unknown', 'There is no such placement');
    await lockHouseholds(
      tx,
      found.map(({ household_id }) => household_id),
    );
    const placements = await tx
      .selectFrom('placement')
      .selectAll()
      .where('id', 'in', ids)
      .orderBy('id')
      .forUpdate()
      .execute();
    const { rows, parts } = await toHandOver(
      act,
      placements.map(({ household_id }) => household_id),
    );
    const left: { number: string; why: string }[] = [];
    const done: Cents[] = [];
    const spared = await sparedNow(
      act,
      placements.map(({ household_id }) => household_id),
    );
    const doubts: string[] = [];
    for (const placement of placements) {
      const open = parts.get(placement.household_id) ?? [];
      const row = rows.find(({ householdId }) => householdId === placement.household_id);
      const reason =
        placement.status !== 'proposed'
          ? `it is ${PLACEMENT_STATES[placement.status]}`
          : open.length === 0
            ? 'nothing of it is past due any more'
            : row?.facts.stopsAgency
              ? 'a stop keeps it from agencies'
              : '';
      if (reason !== '') {
        left.push({ number: placement.number, why: reason });
        continue;
      }
      const amount = sum(open.map((part) => part.amount));
      // What is decided now does not hold its file.
      const words = spared.get(placement.household_id)?.words ?? [];
      if (words.length > 0) doubts.push(`${placement.number}: ${words.join('; ')}`);
      const decided = OBJECTIONS.write(await objectionsNow(act, placement));
      await tx
        .updateTable('placement')
        .set({ amount, status: 'placed', placed_on: act.today, approved_by: act.user.name, decided })
        .where('id', '=', placement.id)
        .execute();
      await tx
        .insertInto('placement_charge')
        .values(
          open.map((part) => ({
            placement_id: placement.id,
            charge_id: part.about.chargeId,
            amount: part.amount,
          })),
        )
        .execute();
      await writeEntries(tx, act, [
        placedEntry({
          businessDate: act.today,
          memo: `it was handed to a collection agency (${placement.number})`,
          key: `placed:${placement.id}`,
          placementId: placement.id,
          parts: open,
        }),
      ]);
      // What is prepared and not out yet does not go out any more.
      await tx
        .updateTable('mail_piece')
        .set({ status: 'taken-out', why: `Not sent: handed to an agency (${placement.number})` })
        .where('household_id', '=', placement.household_id)
        .where('kind', '=', 'letter')
        .where('sent_at', 'is', null)
        .where('status', 'in', ['draft', 'made', 'failed'])
        .execute();
      await notePlacement(tx, act, placement.id, 'handed over', { amount });
      await act.note('approved', { kind: 'placement', id: placement.id }, { amount });
      done.push(amount);
    }
    if (done.length === 0)
      throw new Refused(
        'nothing',
        `Nothing was handed over: ${left.map((one) => `${one.number}: ${one.why}`).join('; ')}`,
      );
    lookAgain(sure, [otherThanSeen(sum(done), seen), ...doubts]);
    return { count: done.length, left };
  },
});

/** Withdraws a proposal. */
export const withdrawPlacement = useCase({
  name: 'withdraw placement',
  permission: 'work overdue',
  input: endPlacementInput,
  async run(act, { placementId, why }) {
    const placement = await lockPlacement(act.db, placementId);
    if (placement.status !== 'proposed')
      throw new Refused('state', `It is ${PLACEMENT_STATES[placement.status]}: only a proposal is withdrawn`);
    await endPlacement(act.db, act, placement, 'withdrawn', why);
    await act.note('withdrew', { kind: 'placement', id: placementId }, { why });
  },
});
