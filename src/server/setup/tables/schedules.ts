import { choice, text, yesNo } from '../../../core/setup/fields';
import type { Db } from '../../../db/connect';
import { Refused } from '../../access';
import { setupTable } from '../table';

/** Asks that a row goes by a schedule of a kind, where it goes by one of its own. */
export const isOfKind =
  (kind: 'office' | 'discount') =>
  async (db: Db, { fee_schedule_id: id }: Readonly<Record<string, unknown>>): Promise<void> => {
    if (typeof id !== 'number') return;
    const found = await db.selectFrom('fee_schedule').select('kind').where('id', '=', id).executeTakeFirst();
    if (found && found.kind !== kind)
      throw new Refused('invalid', `That is no schedule of the kind “${kind}”`, 'fee_schedule_id');
  };

/** Fee schedules: the office's, one a contract, and discounts. */
export const schedules = setupTable({
  key: 'schedules',
  title: 'Fee schedules',
  noun: ['schedule', 'schedules'],
  about:
    'The office fees, one schedule a contract, and discounts for accounts of a category. The fees of each are on its page.',
  table: 'fee_schedule',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    kind: choice('Kind', ['office', 'contract', 'discount'], { fixed: true }),
    standard: yesNo('The usual office fees', { hint: 'of sites that have none of their own' }),
  },
  leads: { path: '/fees/', words: 'Its fees' },
});
