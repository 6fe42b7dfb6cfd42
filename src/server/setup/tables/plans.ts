import { choice, reference, text, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Insurance plans; what they cover are rules of their own. */
export const plans = setupTable({
  key: 'plans',
  title: 'Insurance plans',
  noun: ['insurance plan', 'insurance plans'],
  about:
    'Whose plan it is, and by which schedule; what it pays stands under its shares, deductibles, copays and maximums.',
  table: 'insurance_plan',
  keys: ['id'],
  order: 'name',
  fields: {
    payer_id: reference('Payer'),
    name: text('Name', { needed: true }),
    fee_schedule_id: reference('Fee schedule', { open: true }),
    contracted: yesNo('Contracted'),
    coordination: choice('Coordination', ['standard', 'non-duplication', 'maintenance']),
  },
  refers: { payer_id: 'payer', fee_schedule_id: 'fee_schedule' },
  children: [
    { table: 'shares', words: 'Shares' },
    { table: 'deductibles', words: 'Deductibles' },
    { table: 'copays', words: 'Copays' },
    { table: 'maximums', words: 'Maximums' },
    { table: 'out-of-pocket', words: 'Out of pocket' },
    { table: 'limits', words: 'Limits' },
    { table: 'conditions', words: 'Conditions' },
    { table: 'reductions', words: 'Reductions' },
  ],
  changed: checkAgain,
});
