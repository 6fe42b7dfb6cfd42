/** Remittances that are keyed from paper: saved unfinished, then posted by the rules of a file, and opened again with a reason. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { add, formatMoneyPlain, minus, negate, sum } from '../../core/money';
import { providerAdjustmentsDocument } from '../../core/remittances/document';
import {
  KEYED_METHODS,
  NOT_EXPLAINED,
  addKeyedClaimInput,
  changeKeyedInput,
  closeKeyedInput,
  dropKeyedClaimInput,
  dropKeyedInput,
  explainLine,
  keyedAdjustmentsInput,
  keyedLinesDocument,
  remitClaimOf,
  reopenKeyedInput,
  saveKeyedClaimInput,
  startKeyedInput,
  takesBack,
} from '../../core/remittances/keyed';
import type { ProviderAdjustment, Remittance } from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import { type Context, Refused, allow, lookAgain } from '../access';
import { allowOpen } from '../closed';
import { type Act, useCase } from '../use-case';
import { keyedClaims, keyedLinesOf, remittanceOfKeyed } from './keyed-lines';
import { postsNothing, samePayment } from './matching';
import { postRemittance, type Posted } from './post';
import { receiveKeyed } from './receive';
import { reverseRemittance } from './reverse';

type Head = Omit<z.output<typeof startKeyedInput>, 'key' | 'sure'>;

/** The payer whose paper it is. @throws Refused where it is none, or its number is here */
async function payerOfHead(act: Act, head: Head, keyedId: number | null): Promise<{ doubts: string[] }> {
  const payer = await act.db
    .selectFrom('payer')
    .select(['id', 'name', 'merged_into'])
    .where('id', '=', head.payerId)
    .executeTakeFirst();
  if (!payer) throw new Refused('unknown', 'There is no such payer', 'payerId');
  if (payer.merged_into !== null)
    throw new Refused('state', `${payer.name} is another payer now: choose that one`, 'payerId');
  if ((head.method === 'NON') !== (head.amount === 0))
    throw new Refused(
      'invalid',
      head.amount === 0
        ? 'What pays nothing came without a payment'
        : `${KEYED_METHODS.NON} has an amount of 0.00`,
      'method',
    );
  const { rows } = await sql<{ words: string }>`
    select 'It is being keyed already, by ' || coalesce(u.name, k.user_id) as words
    from keyed_remittance k
      left join "user" u on u.id = k.user_id
    where k.status = 'open' and k.payer_id = ${head.payerId} and k.trace = ${head.trace} and k.amount = ${head.amount}
      and k.id is distinct from ${keyedId}::bigint
    union all
    select 'This payment is here: remittance of ' || to_char(r.payment_date, 'FMDD Mon YYYY') || ', ' || r.status
    from remittance r
    where r.trace = ${head.trace} and r.amount = ${head.amount} and payer_now(r.payer_id) = ${head.payerId}
      and (${keyedId}::bigint is null or r.keyed_id is distinct from ${keyedId}::bigint)
      and (r.status = 'held' or not ${postsNothing})`.execute(act.db);
  return { doubts: rows.map(({ words }) => words) };
}

const columnsOf = (head: Head, today: string) => ({
  payer_id: head.payerId,
  amount: head.amount,
  method: head.method,
  trace: head.trace,
  further: head.references,
  payment_date: head.paymentDate,
  received_date: head.receivedDate ?? sql<never>`${today}::date`,
  source: head.source,
});

/** Begins to key a remittance. @returns its id */
export const startKeyed = useCase({
  name: 'start keyed remittance',
  permission: 'post remittances',
  input: startKeyedInput,
  once: (data) => data.key,
  async run(act, { key: _, sure, ...head }): Promise<number> {
    if (head.receivedDate !== null && head.receivedDate > act.today)
      throw new Refused('date', 'This day is still to come', 'receivedDate');
    const { doubts } = await payerOfHead(act, head, null);
    lookAgain(sure, doubts);
    const { id } = await act.db
      .insertInto('keyed_remittance')
      .values({ ...columnsOf(head, act.today), user_id: act.user.id })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note(
      'began to key',
      { kind: 'keyed remittance', id },
      { trace: head.trace, amount: formatMoneyPlain(head.amount) },
    );
    return id;
  },
});

/** A keyed remittance that is open, locked. @throws Refused where it is not, or somebody changed it since it was read */
async function lockKeyed(act: Act, keyedId: number, version?: number) {
  const keyed = await act.db
    .selectFrom('keyed_remittance as k')
    .innerJoin('payer as y', 'y.id', 'k.payer_id')
    .selectAll('k')
    .select(['y.name as payer', 'y.payer_id as payerNumber'])
    .where('k.id', '=', keyedId)
    .forNoKeyUpdate('k')
    .executeTakeFirst();
  if (!keyed) throw new Refused('unknown', 'There is no such remittance');
  if (keyed.status === 'closed')
    throw new Refused('state', 'It is closed and locked: a manager opens it again');
  if (keyed.status === 'dropped') throw new Refused('state', `It was dropped: ${keyed.why}`);
  if (version !== undefined && keyed.version !== version)
    throw new Refused('state', 'Somebody has changed its head meanwhile: look at it again');
  return keyed;
}

/** Puts the head of an open one right; claims that were keyed keep to its payer. */
export const changeKeyed = useCase({
  name: 'change keyed remittance',
  permission: 'post remittances',
  input: changeKeyedInput,
  async run(act, { keyedId, seen, ...head }): Promise<void> {
    const keyed = await lockKeyed(act, keyedId, seen);
    if (head.receivedDate !== null && head.receivedDate > act.today)
      throw new Refused('date', 'This day is still to come', 'receivedDate');
    await payerOfHead(act, head, keyedId);
    const some = await act.db
      .selectFrom('keyed_claim')
      .select('id')
      .where('keyed_id', '=', keyedId)
      .executeTakeFirst();
    if (some && keyed.payer_id !== head.payerId)
      throw new Refused('blocked', `It has claims of ${keyed.payer}: take them out first`, 'payerId');
    await act.db
      .updateTable('keyed_remittance')
      .set(columnsOf(head, keyed.received_date))
      .where('id', '=', keyedId)
      .execute();
    await act.note('changed', { kind: 'keyed remittance', id: keyedId });
  },
});

/** The claim of ours that a paper names, by our number or the payer's. @throws Refused where it is none of this payer */
async function claimNamed(act: Act, payerId: number, number: string) {
  const { rows } = await sql<{
    id: number;
    payerId: number;
    payer: string;
    status: string;
    position: number;
    lines: number;
  }>`
    select m.id, payer_now(m.payer_id) as "payerId", y.name as payer, m.status, o.position,
      (select count(*) from claim_line l where l.claim_id = m.id and not l.left_out) as lines
    from claim m
      join coverage o on o.id = m.coverage_id
      join payer y on y.id = payer_now(m.payer_id)
    where (upper(m.control_number) = upper(${number}) or m.payer_claim_number = ${number} and payer_now(m.payer_id) = ${payerId})
      and m.purpose = 'bill'
      and m.status <> 'withdrawn'
    order by upper(m.control_number) = upper(${number}) desc, m.id desc
    limit 1`.execute(act.db);
  const [claim] = rows;
  if (!claim) throw new Refused('unknown', `There is no claim ${number}`, 'controlNumber');
  await allowOpen(act, { claimId: claim.id });
  if (claim.payerId !== payerId)
    throw new Refused('others', `Claim ${number} went to ${claim.payer}`, 'controlNumber');
  if (['draft', 'ready', 'held'].includes(claim.status))
    throw new Refused('state', `Claim ${number} was not sent: it is ${claim.status}`, 'controlNumber');
  return claim;
}

/** Adds a claim that the paper speaks of; a second time as what takes an earlier word back. @returns its row */
export const addKeyedClaim = useCase({
  name: 'add keyed claim',
  permission: 'post remittances',
  input: addKeyedClaimInput,
  once: (data) => data.key,
  async run(act, { keyedId, controlNumber }): Promise<number> {
    const keyed = await lockKeyed(act, keyedId);
    const claim = await claimNamed(act, keyed.payer_id, controlNumber);
    const before = await act.db
      .selectFrom('keyed_claim')
      .select('status')
      .where('keyed_id', '=', keyedId)
      .where('claim_id', '=', claim.id)
      .execute();
    if (before.length > 1 || before.some(({ status }) => takesBack(status)))
      throw new Refused('already', `Claim ${controlNumber} is in it`, 'controlNumber');
    const { id } = await act.db
      .insertInto('keyed_claim')
      .values({
        keyed_id: keyedId,
        number: sql<number>`
          (select coalesce(max(number), 0) + 1 from keyed_claim where keyed_id = ${keyedId})`,
        claim_id: claim.id,
        // What is there already is what is said now: another one of it takes back what was said before.
        status: before.length === 1 ? '22' : String(Math.min(claim.position, 3)),
        lines: keyedLinesDocument.write([]),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('added', { kind: 'keyed claim', id }, { claim: controlNumber });
    return id;
  },
});

/** A keyed claim of an open remittance, locked with that. */
async function lockKeyedClaim(act: Act, keyedClaimId: number, version?: number) {
  const known = await act.db
    .selectFrom('keyed_claim')
    .select('keyed_id')
    .where('id', '=', keyedClaimId)
    .executeTakeFirst();
  if (!known) throw new Refused('unknown', 'There is no such claim in it');
  const keyed = await lockKeyed(act, known.keyed_id);
  const row = await act.db
    .selectFrom('keyed_claim as c')
    .innerJoin('claim as m', 'm.id', 'c.claim_id')
    .selectAll('c')
    .select('m.control_number as controlNumber')
    .where('c.id', '=', keyedClaimId)
    .executeTakeFirst();
  if (!row) throw new Refused('unknown', 'There is no such claim in it');
  if (version !== undefined && row.version !== version)
    throw new Refused('state', 'Somebody else has keyed it meanwhile: look at it again');
  return { keyed, row };
}

/** Keeps what is keyed of a claim; each line that is there explains itself. @returns its version, and whether it is whole */
export const saveKeyedClaim = useCase({
  name: 'save keyed claim',
  permission: 'post remittances',
  input: saveKeyedClaimInput,
  async run(act, { keyedClaimId, status, payerClaimNumber, lines, seen }) {
    const { row } = await lockKeyedClaim(act, keyedClaimId, seen);
    const ours = (await keyedLinesOf(act.db, [row.claim_id])).get(row.claim_id) ?? [];
    for (const [index, line] of lines.entries()) {
      const our = ours.find(({ number }) => number === line.number);
      if (!our || lines.findIndex(({ number }) => number === line.number) !== index)
        throw new Refused('unknown', `Line ${line.number} is not on claim ${row.controlNumber}`, 'lines');
      const { left } = explainLine(our, line);
      if (left !== 0)
        throw new Refused(
          'limit',
          `Line ${line.number}, ${our.code}: ${formatMoneyPlain(our.charge)} less what is taken off is ${formatMoneyPlain(add(line.paid, left))}, and ${formatMoneyPlain(line.paid)} is said to be paid`,
          { field: `lines.${index}`, facts: { left } },
        );
    }
    const other = await act.db
      .selectFrom('keyed_claim')
      .select('id')
      .where('keyed_id', '=', row.keyed_id)
      .where('claim_id', '=', row.claim_id)
      .where('id', '<>', row.id)
      .where(sql<boolean>`(status = '22') = ${takesBack(status)}`)
      .executeTakeFirst();
    if (other)
      throw new Refused('already', `Claim ${row.controlNumber} is in it with such a word already`, 'status');
    const paid = sum(lines.map((line) => line.paid));
    const explained = lines.length === ours.length;
    const { version: now } = await act.db
      .updateTable('keyed_claim')
      .set({
        status,
        payer_claim_number: payerClaimNumber,
        lines: keyedLinesDocument.write(lines),
        paid: takesBack(status) ? negate(paid) : paid,
        explained,
      })
      .where('id', '=', keyedClaimId)
      .returning('version')
      .executeTakeFirstOrThrow();
    return { version: now, explained };
  },
});

/** Takes a claim out of an open remittance. */
export const dropKeyedClaim = useCase({
  name: 'drop keyed claim',
  permission: 'post remittances',
  input: dropKeyedClaimInput,
  async run(act, { keyedClaimId }): Promise<void> {
    const { row } = await lockKeyedClaim(act, keyedClaimId);
    await act.db.deleteFrom('keyed_claim').where('id', '=', keyedClaimId).execute();
    await act.note('took out', { kind: 'keyed remittance', id: row.keyed_id }, { claim: row.controlNumber });
  },
});

/** Says what the paper takes off or adds for no claim: interest, an offset. */
export const sayKeyedAdjustments = useCase({
  name: 'say keyed adjustments',
  permission: 'post remittances',
  input: keyedAdjustmentsInput,
  async run(act, { keyedId, adjustments, seen }): Promise<void> {
    await lockKeyed(act, keyedId, seen);
    await act.db
      .updateTable('keyed_remittance')
      .set({ provider_adjustments: providerAdjustmentsDocument.write(adjustments) })
      .where('id', '=', keyedId)
      .execute();
    await act.note(
      'said adjustments',
      { kind: 'keyed remittance', id: keyedId },
      { many: adjustments.length },
    );
  },
});

/** What is keyed, as a payer says it in a file. @throws Refused where a claim of it is not whole */
async function remittanceFrom(
  tx: Tx,
  keyed: Awaited<ReturnType<typeof lockKeyed>>,
  more: readonly ProviderAdjustment[],
): Promise<Remittance> {
  const practice = await tx.selectFrom('practice').select(['name', 'npi', 'tax_id']).executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const claims = await keyedClaims(tx, keyed.id);
  const ours = await keyedLinesOf(
    tx,
    claims.map(({ claimId }) => claimId),
  );
  return {
    handling: 'I',
    payment: keyed.amount,
    creditDebit: 'C',
    method: keyed.method,
    date: keyed.payment_date,
    trace: keyed.trace,
    originator: '',
    payer: { name: keyed.payer, id: keyed.payerNumber },
    payee: { name: practice.name, npi: practice.npi, taxId: practice.tax_id },
    claims: claims.map((claim) => remitClaimOf(claim, ours.get(claim.claimId) ?? [], claim.lines)),
    providerAdjustments: [...adjustmentsOf(keyed), ...more],
  };
}

const adjustmentsOf = ({
  provider_adjustments: kept,
}: {
  provider_adjustments: unknown;
}): ProviderAdjustment[] => (kept === null ? [] : providerAdjustmentsDocument.read(kept));

/**
 * Closes a keyed remittance that is whole: it is a remittance like any other from then on, ready to be posted, and locked. What the
 * payment does not explain waits in the payer's credit where that is said. @returns the remittance
 */
export const closeKeyed = useCase({
  name: 'close keyed remittance',
  permission: 'post remittances',
  input: closeKeyedInput,
  async run(act, { keyedId, rest }): Promise<number> {
    const keyed = await lockKeyed(act, keyedId);
    const claims = await keyedClaims(act.db, keyedId);
    const open = claims.find(({ explained }) => !explained);
    if (open)
      throw new Refused(
        'state',
        `Claim ${open.controlNumber} is not keyed whole: a line of it says nothing yet`,
      );
    const said = minus(
      sum(claims.map(({ paid }) => paid)),
      sum(adjustmentsOf(keyed).map(({ amount }) => amount)),
    );
    const left = minus(keyed.amount, said);
    if (left < 0)
      throw new Refused(
        'limit',
        `What is keyed comes to ${formatMoneyPlain(said)}, ${formatMoneyPlain(negate(left))} more than the payment`,
        { field: 'amount', facts: { left } },
      );
    if (left > 0 && !rest)
      throw new Refused(
        'limit',
        `${formatMoneyPlain(left)} of the payment is not explained: key what it pays, or let it wait in the payer’s credit`,
        { field: 'rest', facts: { left } },
      );
    if (claims.length === 0 && keyed.amount === 0 && said === 0)
      throw new Refused('nothing', 'It says nothing: no claim, and no payment');
    const key = keyed.payerNumber || keyed.payer;
    await sql`select pg_advisory_xact_lock(hashtextextended(${`${key}/${keyed.trace}/${keyed.amount}`}, 0))`.execute(
      act.db,
    );
    if (keyed.amount > 0) {
      const here = await samePayment(act.db, {
        id: 0,
        payerKey: key,
        payerId: keyed.payer_id,
        header: { trace: keyed.trace, payment: keyed.amount },
        paper: true,
      });
      if (here)
        throw new Refused(
          'already',
          `This payment is here already${here.keyed ? ', keyed from paper' : ', from a file'}: it is posted once`,
          { facts: { remittanceId: here.id } },
        );
    }
    const { remittanceId, reasons } = await receiveKeyed(
      act.db,
      act,
      await remittanceFrom(
        act.db,
        keyed,
        left > 0 ? [{ code: NOT_EXPLAINED, reference: '', amount: negate(left) }] : [],
      ),
      { id: keyedId, payerId: keyed.payer_id, receivedDate: keyed.received_date },
    );
    if (reasons.length > 0) throw new Refused('state', reasons.slice(0, 3).join('; '));
    await act.db
      .updateTable('keyed_remittance')
      .set({ status: 'closed', why: '' })
      .where('id', '=', keyedId)
      .execute();
    await act.note('closed', { kind: 'keyed remittance', id: keyedId }, { remittance: remittanceId });
    return remittanceId;
  },
});

/** What came of closing: the remittance, and how much of it was posted. */
export interface KeyedClosed extends Posted {
  remittanceId: number;
}

/** Closes a keyed remittance and posts it, claim by claim. Killed between, it is ready, as one of a file would be. */
export async function closeAndPost(
  context: Context,
  input: z.input<typeof closeKeyedInput>,
): Promise<KeyedClosed> {
  const remittanceId = await closeKeyed(context, input);
  return { remittanceId, ...(await postRemittance(context, remittanceId)) };
}

/**
 * Opens a closed one again: what it posted is reversed and stays to be seen, and the next closing makes another. What has no claims is
 * explained by whoever posts; otherwise a manager opens it.
 */
export const reopenKeyed = useCase({
  name: 'reopen keyed remittance',
  permission: 'post remittances',
  input: reopenKeyedInput,
  async run(act, { keyedId, why }): Promise<void> {
    const keyed = await act.db
      .selectFrom('keyed_remittance')
      .selectAll()
      .where('id', '=', keyedId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!keyed) throw new Refused('unknown', 'There is no such remittance');
    if (keyed.status !== 'closed') throw new Refused('already', `It is ${keyed.status}`);
    if ((await keyedClaims(act.db, keyedId)).length > 0) allow(act, 'reopen remittances');
    const made = await remittanceOfKeyed(act.db, keyedId);
    if (made && made.status !== 'posted')
      throw new Refused('blocked', 'It is being posted: wait until that is done');
    if (made?.stands) await reverseRemittance(act, { remittanceId: made.id, why });
    await act.db
      .updateTable('keyed_remittance')
      .set({ status: 'open', why })
      .where('id', '=', keyedId)
      .execute();
    await act.note(
      'opened again',
      { kind: 'keyed remittance', id: keyedId },
      { why, remittance: made?.id ?? null },
    );
  },
});

/** Drops one that was begun by mistake. */
export const dropKeyed = useCase({
  name: 'drop keyed remittance',
  permission: 'post remittances',
  input: dropKeyedInput,
  async run(act, { keyedId, why }): Promise<void> {
    await lockKeyed(act, keyedId);
    await act.db
      .updateTable('keyed_remittance')
      .set({ status: 'dropped', why })
      .where('id', '=', keyedId)
      .execute();
    await act.note('dropped', { kind: 'keyed remittance', id: keyedId }, { why });
  },
});
