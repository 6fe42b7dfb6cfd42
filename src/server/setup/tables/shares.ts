import { percent, reference, text } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** What a plan pays of a category of services. */
export const shares = setupTable({
  key: 'shares',
  title: 'Plan shares',
  noun: ['share', 'shares'],
  about: 'What a plan pays of each category of services. A category that is not here is not covered.',
  table: 'plan_share',
  keys: ['plan_id', 'category'],
  order: 'category',
  fields: {
    plan_id: reference('Plan', { fixed: true }),
    category: text('Category', { fixed: true, needed: true }),
    share: percent('Pays'),
  },
  refers: { plan_id: 'plan' },
  parent: { table: 'plans', field: 'plan_id' },
  changed: checkAgain,
});
