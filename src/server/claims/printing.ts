/** Claims on paper: those that are ready are printed together, and are then with their payers. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { maySend } from '../../core/claims/rules';
import { printInput } from '../../core/claims/input';
import { type Cents, formatMoneyPlain, sum } from '../../core/money';
import { counted } from '../../core/words';
import { type Context, Refused, allow } from '../access';
import { useCase } from '../use-case';
import { refreshClaims } from './check';
import { freeLeftOut } from './correct';
import { byUser, moveClaims } from './life';
import { closeAnswered } from './replace';

/** At most so many claims are printed at once. */
const MOST = 500;

/**
 * Prints claims that go on paper, those named or all that are ready: they are with their payers from then on, and the print is kept to be
 * opened again. @returns the print's id
 * @throws Refused when none is ready, or a named one cannot go
 */
export const printClaims = useCase({
  name: 'print claims',
  permission: 'work claims',
  input: printInput,
  async run(act, { claimIds }) {
    const tx = act.db;
    let query = tx
      .selectFrom('claim as m')
      .innerJoin('payer as y', 'y.id', 'm.payer_id')
      .select(['m.id', 'm.control_number'])
      .where('m.status', '=', 'ready')
      .where('y.accepts', '=', 'paper');
    if (claimIds) query = query.where('m.id', '=', sql<number>`any(${claimIds}::bigint[])`);
    const claims = await query.orderBy('m.id').limit(MOST).forNoKeyUpdate('m').execute();
    if (claimIds && claims.length < new Set(claimIds).size)
      throw new Refused(
        'nothing',
        'A claim was printed already, is not ready, or goes in a file: nothing was printed',
      );
    const checked = await refreshClaims(
      tx,
      act,
      claims.map(({ id }) => id),
    );
    const going = checked.filter(({ findings }) => maySend(findings));
    if (going.length === 0) throw new Refused('nothing', 'No claim is ready to be printed');
    const total = sum(going.map(({ content }) => content.total));
    const { id } = await tx
      .insertInto('claim_print')
      .values({
        user_name: act.user.name,
        business_date: act.today,
        claims: going.map((claim) => claim.id),
        total,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const ids = going.map((claim) => claim.id);
    await moveClaims(tx, act, going, 'sent', byUser(act), `Printed, number ${id}`, {
      sentBy: 'paper',
      sentDate: act.today,
    });
    await closeAnswered(act, ids);
    await freeLeftOut(tx, act, { claimIds: ids });
    await act.note(
      'printed',
      { kind: 'claims', id: ids.length },
      { print: id, words: `${counted(ids.length, 'claim')}, ${formatMoneyPlain(total)}` },
    );
    return id;
  },
});

/** A print of claims. */
export interface Printed {
  id: number;
  on: CalendarDate;
  by: string;
  claims: number;
  total: Cents;
}

/** The prints of the last months, the newest first. */
export async function readPrints(context: Context): Promise<Printed[]> {
  allow(context, 'read claims');
  return context.db
    .selectFrom('claim_print')
    .select([
      'id',
      'business_date as on',
      'user_name as by',
      sql<number>`cardinality(claims)`.as('claims'),
      'total',
    ])
    .orderBy('id', 'desc')
    .limit(200)
    .execute();
}
