/** Posting remittances: claim by claim, each in a transaction of its own, so that it can stop and go on anywhere. */
import { sql } from 'kysely';
import { payerCreditEntry } from '../../core/books/entries/payers';
import { negate } from '../../core/money';
import { isInterest } from '../../core/remittances/adjustment-words';
import { holdReasonsDocument, providerAdjustmentsDocument } from '../../core/remittances/document';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { writeEntries } from '../books/journal';
import { settleParts } from '../settle';
import { type Act, inTransaction } from '../use-case';
import { type RemitRow, cashAccount, payerOf } from './payer-money';
import { type ClaimPosted, postClaim } from './post-claim';
import { readReasons } from './reasons';

/** How a posting went: claims posted, and those whose money is held in the payer's credit. */
export interface Posted {
  posted: number;
  unmatched: number;
}

/**
 * Posts a remittance that balances. Safe to start twice, at once or after a kill: each claim is posted once.
 * @param progress called after each claim with how many are done by this call; answers whether to go on
 * @throws Refused when the remittance is held
 */
export async function postRemittance(
  context: Context,
  remittanceId: number,
  progress: (done: number) => Promise<boolean> = async () => true,
): Promise<Posted> {
  allow(context, 'post remittances');
  const result = { posted: 0, unmatched: 0 };
  const begun = await begin(context, remittanceId);
  if (!begun) return result;
  const reasons = await readReasons(context.db);
  for (const ids of await claimsTogether(context.db, remittanceId)) {
    const outcomes = await inTransaction(context, async (act) => {
      // Claim by claim the same is asked: its plans are made once.
      await sql`set local plan_cache_mode = force_generic_plan`.execute(act.db);
      const posted: ClaimPosted[] = [];
      for (const id of ids) posted.push(await postClaim(act.db, act, begun, id, reasons, null));
      await settleParts(
        act.db,
        act,
        posted.flatMap(({ chargeIds }) => chargeIds),
        { remittanceId, ...(ids.length === 1 ? { remittanceClaimId: ids[0]! } : {}) },
        posted.some(({ word }) => word === 'said') ? 'said' : 'taken back',
      );
      return posted;
    });
    for (const { as } of outcomes) {
      if (as === 'posted') result.posted += 1;
      else if (as === 'unmatched') result.unmatched += 1;
    }
    if (!(await progress(result.posted + result.unmatched))) return result;
  }
  await context.db
    .updateTable('remittance')
    .set({ status: 'posted', posted_at: sql`desk_now()` })
    .where('id', '=', remittanceId)
    .where('status', '=', 'posting')
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('remittance_claim')
            .select('id')
            .where('remittance_id', '=', remittanceId)
            .where('status', '=', 'ready'),
        ),
      ),
    )
    .execute();
  return result;
}

/**
 * What of a remittance is to be posted, in its order: what it says of one claim of ours together, the taking back first, so that
 * only the difference reaches the patient.
 */
async function claimsTogether(db: Db, remittanceId: number): Promise<number[][]> {
  const rows = await db
    .selectFrom('remittance_claim')
    .select(['id', 'claim_id', sql<boolean>`charge < 0`.as('back')])
    .where('remittance_id', '=', remittanceId)
    .where('status', '=', 'ready')
    .orderBy('number')
    .execute();
  const together = new Map<string, { id: number; back: boolean }[]>();
  for (const { id, claim_id, back } of rows) {
    const key = claim_id === null ? `row ${id}` : `claim ${claim_id}`;
    const own = together.get(key);
    if (own) own.push({ id, back });
    else together.set(key, [{ id, back }]);
  }
  return [...together.values()].map((own) =>
    own.sort((a, b) => Number(b.back) - Number(a.back)).map(({ id }) => id),
  );
}

/** Books what the remittance says of the provider, once. @returns null when it is posted already */
const begin = (context: Context, remittanceId: number): Promise<RemitRow | null> =>
  inTransaction(context, async (act) => {
    const remit = await act.db
      .selectFrom('remittance')
      .selectAll()
      .where('id', '=', remittanceId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!remit) throw new Refused('unknown', 'There is no such remittance');
    if (remit.status === 'posted') return null;
    if (remit.status === 'held')
      throw new Refused(
        'state',
        `This remittance is held: ${remit.hold_reasons === null ? '' : (holdReasonsDocument.read(remit.hold_reasons)[0] ?? '')}`,
      );
    if (remit.status === 'ready') {
      await act.db
        .updateTable('remittance')
        .set({ status: 'posting' })
        .where('id', '=', remittanceId)
        .execute();
      // Posted anew after a claim of it was reversed, its provider adjustments still stand.
      const { stand, undone } = await adjustmentsBooked(act.db, remit);
      if (stand + undone === 0) await bookAdjustments(act, remit, remit.provider_adjustments);
      await act.note('posted', { kind: 'remittance', id: remittanceId });
    }
    return remit;
  });

/** Provider-level adjustments: interest is income, everything else waits in the payer's credit until somebody says what it is. */
async function bookAdjustments(act: Act, remit: RemitRow, document: unknown): Promise<void> {
  if (document === null) return;
  const items = providerAdjustmentsDocument.read(document);
  const payerId = payerOf(remit);
  const held = items.flatMap((item, number) =>
    isInterest(item) || item.amount === 0 ? [] : { ...item, number, amount: negate(item.amount) },
  );
  const rows =
    held.length === 0
      ? []
      : await act.db
          .insertInto('provider_adjustment')
          .values(
            held.map(({ number, code, reference, provider = '', period = null, amount }) => ({
              remittance_id: remit.id,
              payer_id: payerId,
              version: remit.version,
              number,
              code,
              reference,
              provider,
              period,
              amount,
            })),
          )
          .returning(['id', 'number'])
          .execute();
  await writeEntries(
    act.db,
    act,
    items.map((item, number) =>
      payerCreditEntry({
        kind: 'provider-adjustment',
        businessDate: remit.payment_date,
        memo: `Provider adjustment ${item.code} ${item.reference}`.trim(),
        key: `plb:${remit.id}:${remit.version}:${number}`,
        about: {
          payerId,
          remittanceId: remit.id,
          providerAdjustmentId: rows.find((row) => row.number === number)?.id,
        },
        cashAccount: cashAccount(remit.method),
        against: isInterest(item) ? 'income/interest' : 'credit/payer',
        amount: negate(item.amount),
      }),
    ),
  );
}

/** How many provider adjustments of a remittance, in its present version, stand in the books, and how many were reversed. */
export async function adjustmentsBooked(
  db: Db,
  remit: { id: number; version: number },
): Promise<{ stand: number; undone: number }> {
  const { rows } = await sql<{ stand: number; undone: number }>`
    select count(*) filter (where x.id is null) as stand, count(x.id) as undone
    from (select distinct entry_id from posting where remittance_id = ${remit.id} and remittance_claim_id is null) p
    join entry e on e.id = p.entry_id left join entry x on x.reverses = e.id
    where e.kind = 'provider-adjustment' and e.key like ${`plb:${remit.id}:${remit.version}:%`}`.execute(db);
  return rows[0]!;
}
