/** Checking claims again as background work: after a change of people or setup, and each night, for time passes too. */
import type { z } from 'zod';
import { recheckInput } from '../../core/claims/input';
import { OURS } from '../../core/claims/life';
import { documentKind } from '../../core/documents';
import { counted } from '../../core/words';
import type { WorkKind } from '../jobs/kind';
import { inTransaction } from '../use-case';
import { refreshClaims } from './check';

/** Claims are checked so many to an item. */
const BATCH = 200;

/** Checks again all claims that are still ours, or those of one household. */
export const checkClaims: WorkKind<z.output<typeof recheckInput>> = {
  expireSeconds: 3600,
  input: recheckInput,
  document: documentKind('order to check', 1, recheckInput),
  title: (items) =>
    `Checking ${counted(
      items.reduce((all, item) => all + item.size, 0),
      'claim',
    )}`,
  async items({ db }, { householdId }) {
    let query = db
      .selectFrom('claim')
      .select('id')
      .where('status', 'in', [...OURS]);
    if (householdId) query = query.where('household_id', '=', householdId);
    const ids = (await query.orderBy('id').execute()).map((row) => row.id);
    return Array.from({ length: Math.ceil(ids.length / BATCH) }, (_, at) => {
      const part = ids.slice(at * BATCH, (at + 1) * BATCH);
      return {
        subject: `${part[0]}-${part.at(-1)}${householdId ? `/${householdId}` : ''}`,
        words: counted(part.length, 'claim'),
        size: part.length,
      };
    });
  },
  async one(context, subject) {
    const [range = '', household] = subject.split('/');
    const [from, to] = range.split('-').map(Number);
    const checked = await inTransaction(context, async (act) => {
      let query = act.db
        .selectFrom('claim')
        .select('id')
        .where('id', '>=', from!)
        .where('id', '<=', to!)
        .where('status', 'in', [...OURS]);
      if (household) query = query.where('household_id', '=', Number(household));
      const claims = await query.orderBy('id').forNoKeyUpdate().execute();
      return refreshClaims(
        act.db,
        act,
        claims.map(({ id }) => id),
      );
    });
    const stopped = checked.filter(({ findings }) =>
      findings.some((finding) => finding.severity === 'stop'),
    ).length;
    return `${counted(checked.length, 'claim')} checked, ${stopped === 0 ? 'none' : stopped} to fix`;
  },
};
