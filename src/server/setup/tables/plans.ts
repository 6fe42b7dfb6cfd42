import { amount, choice, reference, several, text, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Insurance plans with their benefit terms. */
export const plans = setupTable({
  key: 'plans',
  title: 'Insurance plans',
  noun: ['plan', 'plans'],
  about: 'The benefit terms behind every estimate; what a plan pays of each category stands under “Shares”.',
  table: 'plan',
  keys: ['id'],
  order: 'name',
  fields: {
    payer_id: reference('Payer'),
    name: text('Name', { needed: true }),
    fee_schedule_id: reference('Fee schedule', { open: true }),
    contracted: yesNo('Contracted'),
    deductible: amount('Deductible'),
    copay: amount('Copay'),
    copay_per: choice('Copay per', ['visit', 'service']),
    maximum: amount('Yearly maximum', { open: true, hint: 'empty: none' }),
    deductible_waived: several('Deductible waived'),
    coordination: choice('Coordination', ['standard', 'non-duplication', 'maintenance']),
  },
  refers: { payer_id: 'payer', fee_schedule_id: 'fee_schedule' },
  children: { table: 'shares', words: 'Shares' },
  changed: checkAgain,
});
