/** Two payers that are one: what one of them has becomes the other's, and what was written of it stays. */
import { sql } from 'kysely';
import { mergePayersInput } from '../../core/setup/merge';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { startWork } from '../jobs/work';
import { useCase } from '../use-case';

/** What is known of the one payer and not of the other is the other's; what its claims have otherwise is not. */
async function partsFollow(tx: Tx, payerId: number, intoId: number): Promise<void> {
  await tx.updateTable('payer_contact').set({ payer_id: intoId }).where('payer_id', '=', payerId).execute();
  await sql`
    update payer_provider w set payer_id = ${intoId}
    where w.payer_id = ${payerId}
      and not exists (
        select
        from payer_provider o
        where o.payer_id = ${intoId}
          and o.provider_id = w.provider_id
          and daterange(o.valid_from, o.valid_to, '[]') && daterange(w.valid_from, w.valid_to, '[]')
      )`.execute(tx);
  await sql`
    update payer_agreement a set payer_id = ${intoId}
    where a.payer_id = ${payerId}
      and not exists (
        select
        from payer_agreement o
        where o.payer_id = ${intoId}
          and o.transaction = a.transaction
          and o.provider_id is not distinct from a.provider_id
      )`.execute(tx);
  await sql`
    update payer_reference r set payer_id = ${intoId}
    where r.payer_id = ${payerId}
      and not exists (
        select from payer_reference o where o.payer_id = ${intoId} and o.qualifier = r.qualifier
      )`.execute(tx);
}

/**
 * Merges a payer into another one: plans, claims, remittances, what it allowed and what it holds are the other's from now on. Old
 * entries go on naming it and can be reversed; files that name it are the other's. A plan of the same name is told apart.
 */
export const mergePayers = useCase({
  name: 'merge payers',
  permission: 'change setup',
  input: mergePayersInput,
  async run(act, { payerId, intoId, why }) {
    const tx = act.db;
    if (payerId === intoId) throw new Refused('invalid', 'A payer is itself already', 'intoId');
    const both = await tx
      .selectFrom('payer')
      .select(['id', 'name', 'merged_into'])
      .where('id', 'in', [payerId, intoId])
      .orderBy('id')
      .forUpdate()
      .execute();
    const from = both.find(({ id }) => id === payerId);
    const into = both.find(({ id }) => id === intoId);
    if (!from) throw new Refused('unknown', 'There is no such payer', 'payerId');
    if (!into) throw new Refused('unknown', 'There is no such payer', 'intoId');
    if (from.merged_into !== null)
      throw new Refused('already', `${from.name} was merged into another payer before`, 'payerId');
    if (into.merged_into !== null)
      throw new Refused('state', `${into.name} was merged into another payer: choose that one`, 'intoId');
    await sql`
      update insurance_plan n set name = n.name || ' (' || ${from.name} || ')'
      where n.payer_id = ${payerId}
        and exists (select from insurance_plan o where o.payer_id = ${intoId} and o.name = n.name)`.execute(
      tx,
    );
    const moved = { payer_id: intoId };
    const of = 'payer_id' as const;
    await tx.updateTable('insurance_plan').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('claim').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('remittance').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('keyed_remittance').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('contract_letter').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('provider_adjustment').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('care_authorization').set(moved).where(of, '=', payerId).execute();
    await tx.updateTable('payer_identifier').set(moved).where(of, '=', payerId).execute();
    await partsFollow(tx, payerId, intoId);
    // Those that were merged into it before are the other's too.
    await tx.updateTable('payer').set({ merged_into: intoId }).where('merged_into', '=', payerId).execute();
    await tx.updateTable('payer').set({ merged_into: intoId }).where('id', '=', payerId).execute();
    await act.note('merged', { kind: 'payer', id: payerId }, { into: into.name, why });
    await startWork(act, 'check claims', {});
  },
});
