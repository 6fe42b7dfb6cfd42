/**
 * Hardship: a courtesy reduction by income against the poverty level that the practice enters, asked for with its
 * evidence and decided by a manager.
 */
import { patientWriteOffEntry } from '../../core/books/entries/patients';
import { type BasisPoints, type Cents, ZERO, formatMoneyPlain, sum } from '../../core/money';
import {
  type HardshipBand,
  type PovertyLevel,
  levelOf,
  reducedBy,
  reductionFor,
} from '../../core/overdue/hardship';
import { decideHardshipInput, hardshipInput } from '../../core/overdue/input';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, lookAgain, otherThanSeen } from '../access';
import { allowOpen } from '../closed';
import { lockHouseholds, writeEntries } from '../books/journal';
import { leftToAsk } from '../books/owed';
import { useCase } from '../use-case';
import { partsUpTo } from './parts';

/** What the practice entered. */
async function tablesOf(db: Db): Promise<{ levels: PovertyLevel[]; bands: HardshipBand[] }> {
  const [levels, bands] = await Promise.all([
    db.selectFrom('poverty_level').select(['year', 'size', 'amount']).execute(),
    db.selectFrom('hardship_band').select(['up_to as upTo', 'reduction']).execute(),
  ]);
  return { levels, bands };
}

/** One asking of a household. Amounts in cents, the reduction in basis points. */
export interface HardshipRow {
  id: number;
  size: number;
  income: Cents;
  evidence: string;
  year: number;
  level: Cents;
  share: number;
  reduction: BasisPoints;
  amount: Cents;
  status: 'asked' | 'approved' | 'refused';
  askedOn: string;
  askedBy: string;
  decidedBy: string;
  decidedWhy: string;
}

/** The askings of a household, the newest first. */
export async function readHardships(context: Context, householdId: number): Promise<HardshipRow[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  return context.db
    .selectFrom('hardship')
    .select([
      'id',
      'size',
      'income',
      'evidence',
      'year',
      'level',
      'share',
      'reduction',
      'amount',
      'status',
      'asked_on as askedOn',
      'asked_by as askedBy',
      'decided_by as decidedBy',
      'decided_why as decidedWhy',
    ])
    .where('household_id', '=', householdId)
    .orderBy('id', 'desc')
    .execute();
}

/** Asks for a reduction: what it would be is worked out and kept with its evidence. @returns its id */
export const askHardship = useCase({
  name: 'ask for hardship',
  permission: 'work overdue',
  input: hardshipInput,
  once: (data) => data.key,
  async run(act, { householdId, size, income, evidence }) {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const { levels, bands } = await tablesOf(tx);
    const level = levelOf(levels, size);
    if (!level) throw new Refused('missing', 'Enter the poverty level in Setup first', 'size');
    const open = (await leftToAsk(act, [householdId])).get(householdId) ?? [];
    const owed = sum(open.map((part) => part.amount));
    if (owed <= 0) throw new Refused('state', 'The patient owes nothing now that credit does not pay');
    const asked = await tx
      .selectFrom('hardship')
      .select('id')
      .where('household_id', '=', householdId)
      .where('status', '=', 'asked')
      .executeTakeFirst();
    if (asked) throw new Refused('state', 'One is asked for and not decided yet');
    const { share, reduction } = reductionFor(level, bands, income);
    const { id } = await tx
      .insertInto('hardship')
      .values({
        household_id: householdId,
        size,
        income,
        evidence,
        year: level.year,
        level: level.amount,
        share,
        reduction,
        amount: reducedBy(owed, reduction),
        asked_on: act.today,
        asked_by: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('asked for hardship', { kind: 'household', id: householdId }, { size, share, reduction });
    return id;
  },
});

/** Decides: approved, the reduction comes off what is owed then, oldest first. @returns cents that came off */
export const decideHardship = useCase({
  name: 'decide hardship',
  permission: 'approve hardship',
  input: decideHardshipInput,
  async run(act, { hardshipId, approve, why, seen, sure }): Promise<Cents> {
    const tx = act.db;
    const found = await tx
      .selectFrom('hardship')
      .select('household_id')
      .where('id', '=', hardshipId)
      .executeTakeFirst();
    if (!found) throw new Refused('unknown', 'There is no such asking');
    await lockHouseholds(tx, [found.household_id]);
    const one = await tx
      .selectFrom('hardship')
      .selectAll()
      .where('id', '=', hardshipId)
      .forUpdate()
      .executeTakeFirstOrThrow();
    if (one.status !== 'asked') throw new Refused('state', `It was ${one.status} by ${one.decided_by}`);
    if (!approve && why === '') throw new Refused('missing', 'Say why it is refused', 'why');
    const open = (await leftToAsk(act, [one.household_id])).get(one.household_id) ?? [];
    const amount = approve ? reducedBy(sum(open.map((part) => part.amount)), one.reduction) : ZERO;
    if (approve && amount <= 0) throw new Refused('nothing', 'Nothing would come off: refuse it instead');
    if (approve) lookAgain(sure, [otherThanSeen(amount, seen)]);
    if (amount > 0)
      await writeEntries(tx, act, [
        patientWriteOffEntry({
          kind: 'write-off',
          businessDate: act.today,
          why: `Hardship, ${one.share} % of the poverty level of ${one.year}`,
          account: 'reduction/courtesy',
          parts: partsUpTo(open, amount),
        }),
      ]);
    await tx
      .updateTable('hardship')
      .set({
        status: approve ? 'approved' : 'refused',
        decided_on: act.today,
        decided_by: act.user.name,
        decided_why: why || (approve ? `${formatMoneyPlain(amount)} came off` : ''),
      })
      .where('id', '=', hardshipId)
      .execute();
    await act.note('decided hardship', { kind: 'household', id: one.household_id }, { approve, amount, why });
    return amount;
  },
});
