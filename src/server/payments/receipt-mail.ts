/** Receipts by e-mail: because somebody asks for one, or because a household wants them all. */
import { join } from 'node:path';
import { sql } from 'kysely';
import { addDays, formatDate } from '../../core/calendar';
import { readSettings } from '../../core/exchange/connections';
import { receiptName } from '../../core/mail/pieces';
import { emailReceiptInput } from '../../core/payments/input';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { foldersOf, writeWhole } from '../folders';
import { writeMessage } from '../mail/message';
import { LOOK_DAYS, keepDocument } from '../mail/pieces';
import { type Act, inTransaction, useCase } from '../use-case';
import { drawReceipt } from './paper';
import { lockReceipt } from './receipts';

/** Whose a receipt is, and where it goes: to the household, or, while a patient whose own it is has an address apart, there alone. */
async function readTo(db: Db, receiptId: number) {
  return db
    .selectFrom('receipt as r')
    .innerJoin('household as h', 'h.id', 'r.household_id')
    .leftJoin('confidential_address as a', (on) =>
      on.onRef('a.patient_id', '=', 'r.patient_id').on('a.ended_on', 'is', null),
    )
    .select([
      'r.id',
      'r.household_id as householdId',
      'a.patient_id as apart',
      'r.received_on as receivedOn',
      'h.receipts_by_email as all',
      sql<string>`case when a.patient_id is null then h.first || ' ' || h.last else coalesce(a.name, '') end`.as(
        'name',
      ),
      sql<string>`case when a.patient_id is null then h.email else coalesce(a.email, '') end`.as('email'),
      sql<boolean>`case when a.patient_id is null then h.email_returned else a.email_returned end is not null`.as(
        'cameBack',
      ),
    ])
    .where('r.id', '=', receiptId)
    .executeTakeFirstOrThrow();
}

const gatewayOf = (db: Db) =>
  db
    .selectFrom('connection')
    .select(['folder', 'settings'])
    .where('kind', '=', 'message-gateway')
    .orderBy('id')
    .executeTakeFirst();

/** Why a receipt cannot go by e-mail; null when it can. */
async function hindrance(db: Db, to: Awaited<ReturnType<typeof readTo>>): Promise<string | null> {
  if (to.email === '')
    return to.apart === null
      ? 'The account has no e-mail address'
      : 'This receipt is kept apart for a patient whose address apart has no e-mail';
  if (to.cameBack) return `E-mail to ${to.email} came back: put the address right first`;
  return (await gatewayOf(db)) ? null : 'There is no message gateway in Setup';
}

/** Sends a receipt by e-mail, as often as it is asked for. @returns where it goes */
export const emailReceipt = useCase({
  name: 'e-mail receipt',
  permission: 'take payments',
  input: emailReceiptInput,
  once: (data) => data.key,
  async run(act, { receiptId }): Promise<string> {
    await lockReceipt(act, receiptId);
    const to = await readTo(act.db, receiptId);
    const why = await hindrance(act.db, to);
    if (why !== null) throw new Refused('missing', why, 'receiptId');
    const { state } = await stateOf(act.db, receiptId);
    if (state === 'nothing') throw new Refused('nothing', 'Nothing of it was taken');
    await act.db
      .insertInto('receipt_message')
      .values({ receipt_id: receiptId, asked: true, user_id: act.user.id })
      .execute();
    await act.note('asked for e-mail', { kind: 'receipt', id: receiptId });
    return to.email;
  },
});

/** Keeps that the receipt of a household that wants them all goes by e-mail, once its cards are answered. */
export async function emailIfAll(act: Act, receiptId: number): Promise<void> {
  const to = await readTo(act.db, receiptId);
  if (!to.all || (await hindrance(act.db, to)) !== null) return;
  await act.db
    .insertInto('receipt_message')
    .values({ receipt_id: receiptId, asked: false, user_id: act.user.id })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
}

/** Whether a receipt can be handed out: a card of it waits, nothing of it was taken, or it stands. */
async function stateOf(db: Db, receiptId: number): Promise<{ state: 'waits' | 'nothing' | 'stands' }> {
  const { rows } = await sql<{ state: 'waits' | 'nothing' | 'stands' }>`
    select case
      when bool_or(t.state = 'pending') then 'waits'
      when bool_or(t.state in ('taken', 'returned')) then 'stands'
      else 'nothing'
    end as state
    from tender t
    where t.receipt_id = ${receiptId}`.execute(db);
  return rows[0]!;
}

/**
 * Sends what waits: each is drawn as it is now, and is kept byte for byte. Whoever dies in the middle leaves it waiting, and the same
 * message is the same file. @returns how many went out
 */
export async function sendReceipts(context: Context): Promise<number> {
  const waiting = await context.db
    .selectFrom('receipt_message as m')
    .select('m.id')
    .where('m.state', '=', 'waiting')
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('tender as t')
            .select('t.id')
            .whereRef('t.receipt_id', '=', 'm.receipt_id')
            .where('t.state', '=', 'pending'),
        ),
      ),
    )
    .orderBy('m.id')
    .limit(500)
    .execute();
  let sent = 0;
  let fault: unknown = null;
  for (const { id } of waiting)
    try {
      if (await inTransaction(context, (act) => sendOne(act, id))) sent += 1;
    } catch (error) {
      // One that cannot go holds up no other; it waits, and is tried again.
      fault ??= error;
    }
  if (fault !== null) throw fault;
  return sent;
}

async function sendOne(act: Act, messageId: number): Promise<boolean> {
  const message = await act.db
    .selectFrom('receipt_message')
    .select(['receipt_id as receiptId', 'created_at'])
    .where('id', '=', messageId)
    .where('state', '=', 'waiting')
    .forUpdate()
    .skipLocked()
    .executeTakeFirst();
  if (!message) return false;
  const end = (state: 'failed' | 'void', why: string) =>
    act.db.updateTable('receipt_message').set({ state, why }).where('id', '=', messageId).execute();
  const { receiptId } = message;
  const { state } = await stateOf(act.db, receiptId);
  if (state === 'waits') return false;
  if (state === 'nothing') {
    await end('void', 'nothing of it was taken');
    return false;
  }
  // Where it goes is asked anew: an address may have been put right, or set apart, since it was asked for.
  const to = await readTo(act.db, receiptId);
  const [why, gateway, practice] = [
    await hindrance(act.db, to),
    await gatewayOf(act.db),
    await act.db.selectFrom('practice').select(['name', 'phone']).executeTakeFirst(),
  ];
  if (why !== null || !gateway || !practice) {
    await end('failed', why ?? 'The practice is missing in Setup');
    return false;
  }
  const paper = await drawReceipt(act, receiptId, 'e-mailed');
  const bytes = await writeMessage({
    id: receiptName(messageId),
    from: { name: practice.name, address: readSettings('message-gateway', gateway.settings).from },
    to: { name: to.name, address: to.email },
    subject: `Your receipt from ${practice.name}`,
    // Nothing of anybody's health, as in every e-mail.
    text: [
      `Your receipt of ${formatDate(to.receivedOn)} is attached.`,
      `Questions: ${practice.phone}`,
      practice.name,
    ].join('\n\n'),
    date: message.created_at,
    attachment: paper,
  });
  const document = await keepDocument(act.db, paper);
  const { outbox } = await foldersOf(gateway.folder);
  await writeWhole(join(outbox, `${receiptName(messageId)}.eml`), bytes);
  await act.db
    .updateTable('receipt_message')
    .set({ state: 'sent', email: to.email, document, sent_at: sql<Date>`desk_now()` })
    .where('id', '=', messageId)
    .execute();
  await act.note('e-mailed', { kind: 'receipt', id: receiptId }, { to: to.email });
  return true;
}

/** Whose receipts messages bring. */
export async function receiptsOfMessages(
  db: Db,
  ids: readonly number[],
): Promise<{ id: number; householdId: number }[]> {
  return db
    .selectFrom('receipt_message as m')
    .innerJoin('receipt as r', 'r.id', 'm.receipt_id')
    .select(['m.id', 'r.household_id as householdId'])
    .where('m.id', 'in', [0, ...ids])
    .execute();
}

/**
 * Notes what a gateway says of a message; what came back marks the address, and is followed up. Said again, it changes nothing more.
 * @returns words for it; null where no such message was sent
 */
export async function noteMessage(
  tx: Tx,
  context: Context,
  messageId: number,
  result: 'accepted' | 'bounced',
  words: string,
): Promise<string | null> {
  const message = await tx
    .selectFrom('receipt_message as m')
    .innerJoin('receipt as r', 'r.id', 'm.receipt_id')
    .select(['m.outcome', 'm.email', 'r.household_id', 'r.patient_id'])
    .where('m.id', '=', messageId)
    .where('m.sent_at', 'is not', null)
    .forUpdate('m')
    .executeTakeFirst();
  if (!message) return null;
  if (message.outcome === result) return 'said before';
  await tx
    .updateTable('receipt_message')
    .set({
      outcome: result,
      outcome_words: words,
      ...(result === 'bounced' ? { state: 'failed', why: words || 'came back' } : {}),
    })
    .where('id', '=', messageId)
    .execute();
  if (result === 'accepted') return 'accepted';
  // Put right since then, it is another address.
  const mark = { email_returned: context.today };
  await tx
    .updateTable('household')
    .set(mark)
    .where('id', '=', message.household_id)
    .where('email', '=', message.email)
    .execute();
  if (message.patient_id !== null)
    await tx
      .updateTable('confidential_address')
      .set(mark)
      .where('patient_id', '=', message.patient_id)
      .where('ended_on', 'is', null)
      .where('email', '=', message.email)
      .execute();
  await tx
    .insertInto('follow_up')
    .values({
      kind: 'returned-mail',
      household_id: message.household_id,
      words: `E-mail with a receipt to ${message.email} came back${words ? ` (${words})` : ''}`,
      due_date: addDays(context.today, LOOK_DAYS),
      key: `returned-mail:${receiptName(messageId)}`,
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return 'came back';
}
