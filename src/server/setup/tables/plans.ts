import { choice, reference, text, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Insurance plans with their benefit terms. */
export const plans = setupTable({
  key: 'plans',
  title: 'Insurance plans',
  noun: ['insurance plan', 'insurance plans'],
  about: 'Whose plan it is, and by which schedule; what it pays stands under “Terms” and “Shares”.',
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
    { table: 'terms', words: 'Terms' },
    { table: 'shares', words: 'Shares' },
  ],
  changed: checkAgain,
});
