/** Reading remittances and follow-ups, and small steps on follow-ups. */
import { counted } from '../../core/words';
import { sql } from 'kysely';
import type { BookAccount } from '../../core/books/accounts';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, formatMoneyPlain, negate } from '../../core/money';
import type { ProviderAdjustment, RemitClaim } from '../../core/x12/remittance835';
import { type Context, Refused, allow, audit } from '../access';
import { type Found, type ListQuery, PAGE_SIZE, findRows, likeText } from '../lists/find';
import { lockHouseholds, writeEntries } from '../books/journal';

/** One remittance of the list. `amount` in cents. */
export interface RemittanceRow {
  id: number;
  payer: string;
  trace: string;
  amount: Cents;
  method: string;
  date: CalendarDate;
  claims: number;
  status: string;
  holdReasons: string[];
  unmatched: number;
  /** Why it waits, in a line; empty when it does not. */
  why: string;
}

const HOW: Record<string, string> = { CHK: 'check', NON: 'no payment' };

/** Remittances, newest first, searched by trace or payer. Views: `ready`, `held`, `unmatched`, `posted`. */
export async function listRemittances(context: Context, ask: ListQuery): Promise<Found<RemittanceRow>> {
  allow(context, 'read remittances');
  let query = context.db.selectFrom('remittance as r');
  if (ask.view === 'ready') query = query.where('r.status', 'in', ['ready', 'posting']);
  else if (ask.view === 'held' || ask.view === 'posted') query = query.where('r.status', '=', ask.view);
  else if (ask.view === 'unmatched')
    query = query.where(
      'r.id',
      'in',
      context.db.selectFrom('remittance_claim').select('remittance_id').where('status', '=', 'unmatched'),
    );
  const like = likeText(ask.search);
  if (like)
    query = query.where((eb) =>
      eb.or([eb(sql`lower(r.trace)`, 'like', like), eb(sql`lower(r.payer_name)`, 'like', like)]),
    );
  const found: Found<Omit<RemittanceRow, 'why'>> = await findRows(
    'remittances',
    ask,
    query,
    { amount: sql`r.amount` },
    query
      .select([
        'r.id',
        'r.payer_name as payer',
        'r.trace',
        'r.amount',
        'r.method',
        'r.payment_date as date',
        'r.claims',
        'r.status',
        'r.hold_reasons as holdReasons',
        sql`(select count(*) from remittance_claim c where c.remittance_id = r.id and c.status = 'unmatched')`.as(
          'unmatched',
        ),
      ])
      .orderBy('r.payment_date', 'desc')
      .orderBy('r.id', 'desc'),
  );
  return {
    ...found,
    rows: found.rows.map((row) => ({
      ...row,
      method: HOW[row.method] ?? 'transfer',
      why:
        row.holdReasons[0] ??
        (row.unmatched > 0
          ? `${counted(row.unmatched, 'claim is', 'claims are')} not ours; the money is held`
          : ''),
    })),
  };
}

/** One claim of a remittance. Amounts in cents. */
export interface RemittanceClaimRow {
  id: number;
  number: number;
  controlNumber: string;
  claimId: number | null;
  householdId: number | null;
  content: RemitClaim;
  charge: Cents;
  paid: Cents;
  status: string;
  holdReason: string;
}

/** A remittance whole, with its claims a page at a time and the words of its reason codes. */
export interface RemittancePage extends Omit<RemittanceRow, 'why'> {
  providerAdjustments: ProviderAdjustment[];
  rows: RemittanceClaimRow[];
  posted: Cents;
  held: Cents;
  words: Record<string, string>;
  file: string;
}

/** Reads a remittance. */
export async function readRemittance(context: Context, id: number, page = 1): Promise<RemittancePage> {
  allow(context, 'read remittances');
  const { db } = context;
  const remit = await db
    .selectFrom('remittance as r')
    .leftJoin('exchange_file as f', 'f.id', 'r.file_id')
    .selectAll('r')
    .select('f.name as file')
    .where('r.id', '=', id)
    .executeTakeFirst();
  if (!remit) throw new Refused('There is no such remittance');
  await audit(db, context, 'read', { kind: 'remittance', id });
  const [rows, sums, reasons] = await Promise.all([
    db
      .selectFrom('remittance_claim as c')
      .leftJoin('claim as m', 'm.id', 'c.claim_id')
      .select([
        'c.id',
        'c.number',
        'c.control_number as controlNumber',
        'c.claim_id as claimId',
        'm.household_id as householdId',
        'c.content',
        'c.charge',
        'c.paid',
        'c.status',
        'c.hold_reason as holdReason',
      ])
      .where('c.remittance_id', '=', id)
      .orderBy('c.number')
      .limit(PAGE_SIZE)
      .offset((page - 1) * PAGE_SIZE)
      .execute(),
    db
      .selectFrom('remittance_claim')
      .select([
        sql<number>`coalesce(sum(paid) filter (where status = 'posted'), 0)`.as('posted'),
        sql<number>`coalesce(sum(paid) filter (where status = 'unmatched'), 0)`.as('held'),
        sql<number>`count(*) filter (where status = 'unmatched')`.as('unmatched'),
      ])
      .where('remittance_id', '=', id)
      .executeTakeFirstOrThrow(),
    db.selectFrom('reason_code').select(['group_code', 'code', 'words']).execute(),
  ]);
  return {
    id,
    payer: remit.payer_name,
    trace: remit.trace,
    amount: remit.amount as Cents,
    method: remit.method,
    date: remit.payment_date as CalendarDate,
    claims: remit.claims,
    status: remit.status,
    holdReasons: remit.hold_reasons as string[],
    unmatched: sums.unmatched,
    providerAdjustments: remit.provider_adjustments as ProviderAdjustment[],
    rows: rows as RemittanceClaimRow[],
    posted: sums.posted as Cents,
    held: sums.held as Cents,
    words: Object.fromEntries(reasons.map((r) => [`${r.group_code}-${r.code}`, r.words])),
    file: remit.file ?? '',
  };
}

/** One open follow-up. `amount` in cents. */
export interface FollowUpRow {
  id: number;
  kind: string;
  words: string;
  amount: Cents;
  dueDate: CalendarDate;
  householdId: number | null;
  account: string | null;
  patient: string | null;
  claimId: number | null;
  controlNumber: string | null;
  chargeId: number | null;
  service: string | null;
  waiting: Cents;
}

/** Open follow-ups, the most pressing first. */
export async function listFollowUps(context: Context, ask: ListQuery = {}): Promise<Found<FollowUpRow>> {
  allow(context, 'read remittances');
  const query = context.db
    .selectFrom('follow_up as f')
    .leftJoin('charge_balance as b', 'b.charge_id', 'f.charge_id')
    .where('f.closed_at', 'is', null);
  const waiting = sql<number>`coalesce(b.with_payer, 0)`;
  return findRows(
    'follow-ups',
    ask,
    query,
    { amount: sql`f.amount`, waiting },
    query
      .leftJoin('household as h', 'h.id', 'f.household_id')
      .leftJoin('claim as m', 'm.id', 'f.claim_id')
      .leftJoin('charge as c', 'c.id', 'f.charge_id')
      .leftJoin('patient as p', 'p.id', 'c.patient_id')
      .select([
        'f.id',
        sql`replace(f.kind, '-', ' ')`.as('kind'),
        'f.words',
        'f.amount',
        'f.due_date as dueDate',
        'f.household_id as householdId',
        'h.number as account',
        sql`p.last || ', ' || p.first`.as('patient'),
        'm.id as claimId',
        'm.control_number as controlNumber',
        'f.charge_id as chargeId',
        sql`c.code || ' ' || c.description`.as('service'),
        waiting.as('waiting'),
      ])
      .orderBy('f.due_date')
      .orderBy('f.id'),
  );
}

/** Closes a follow-up with what came of it. */
export async function closeFollowUp(context: Context, id: number, outcome: string): Promise<void> {
  allow(context, 'work follow-ups');
  if (outcome.trim() === '') throw new Refused('Say what came of it', 'outcome');
  await context.db.transaction().execute(async (tx) => {
    const done = await tx
      .updateTable('follow_up')
      .set({ closed_at: new Date(), outcome: outcome.trim().slice(0, 300), owner: context.user.name })
      .where('id', '=', id)
      .where('closed_at', 'is', null)
      .where('kind', '<>', 'overpaid')
      .returning('id')
      .executeTakeFirst();
    if (!done)
      throw new Refused('This follow-up is closed already, or closes itself when the balance is right');
    await audit(tx, context, 'closed', { kind: 'follow-up', id }, { outcome });
  });
}

/** Writes off, with a reason, what a payer denied and still stands with it; closes the charge's follow-ups. @returns cents written off */
export async function writeOffDenied(
  context: Context,
  chargeId: number,
  why: string,
  account: BookAccount = 'reduction/payer',
): Promise<Cents> {
  allow(context, 'reverse entries');
  if (why.trim() === '') throw new Refused('Say why it is written off', 'why');
  return context.db.transaction().execute(async (tx) => {
    const charge = await tx.selectFrom('charge').selectAll().where('id', '=', chargeId).executeTakeFirst();
    if (!charge) throw new Refused('There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    const line = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select(['m.id', 'm.status', 'm.payer_id', 'm.coverage_id'])
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .executeTakeFirst();
    const balance = await tx
      .selectFrom('charge_balance')
      .select('with_payer')
      .where('charge_id', '=', chargeId)
      .executeTakeFirst();
    if (line?.status !== 'decided' || !balance || balance.with_payer <= 0)
      throw new Refused('Nothing that a payer denied stands open on this charge');
    const amount = balance.with_payer as Cents;
    const about = {
      chargeId,
      householdId: charge.household_id,
      patientId: charge.patient_id,
      caseId: charge.case_id,
      coverageId: line.coverage_id,
      payerId: line.payer_id,
      claimId: line.id,
      providerId: charge.provider_id,
      locationId: charge.location_id,
    };
    await writeEntries(tx, context, [
      {
        kind: 'write-off',
        businessDate: context.today,
        memo: why.trim(),
        postings: [
          { ...about, account, amount },
          { ...about, account: 'receivable/payer', amount: negate(amount) },
        ],
      },
    ]);
    await tx
      .updateTable('follow_up')
      .set({
        closed_at: new Date(),
        outcome: `Written off ${formatMoneyPlain(amount)}: ${why.trim()}`,
        owner: context.user.name,
      })
      .where('charge_id', '=', chargeId)
      .where('closed_at', 'is', null)
      .execute();
    const open = await tx
      .selectFrom('claim_line as l')
      .innerJoin('charge_balance as b', 'b.charge_id', 'l.charge_id')
      .select('l.id')
      .where('l.claim_id', '=', line.id)
      .where('b.with_payer', '<>', 0)
      .executeTakeFirst();
    if (!open) await tx.updateTable('claim').set({ status: 'closed' }).where('id', '=', line.id).execute();
    await audit(tx, context, 'wrote off', { kind: 'charge', id: chargeId }, { amount, why });
    return amount;
  });
}
