import { date, percent, pick, reference } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { categories } from './categories';

/** What a plan pays of a category of services. */
export const shares = setupTable({
  key: 'shares',
  title: 'Plan shares',
  noun: ['share', 'shares'],
  about: 'What a plan pays of each category of services. A category that is not here is not covered.',
  table: 'insurance_share',
  keys: ['insurance_plan_id', 'category', 'valid_from'],
  order: 'category',
  fields: {
    insurance_plan_id: reference('Plan', { fixed: true }),
    category: pick('Category', { fixed: true }),
    valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
    share: percent('Pays'),
  },
  refers: { insurance_plan_id: 'insurance_plan' },
  choices: { category: categories },
  parent: { table: 'plans', field: 'insurance_plan_id' },
  changed: checkAgain,
});
