import { amount, percent, whole } from '../../../core/setup/fields';
import { setupTable } from '../table';

/** How payment plans may be agreed, and when one counts as broken. */
export const planPolicy = setupTable({
  key: 'plan-policy',
  title: 'Payment plan policy',
  noun: ['payment plan policy', 'payment plan policies'],
  about:
    'How payment plans may be agreed; a manager may go beyond. And when one counts as broken: what is open is then the patient’s again, and somebody follows it up.',
  table: 'plan_policy',
  keys: ['id'],
  order: 'id',
  single: true,
  fields: {
    longest: whole('Installments at most', 1, 600),
    least_installment: amount('Least installment'),
    highest_rate: percent('Highest yearly rate'),
    rate: percent('Yearly rate to begin with'),
    missed: whole('Broken when missed', 0, 99, { hint: 'So many installments; 0: never' }),
    missed_days: whole('Broken after days', 0, 999, { hint: 'So many days behind; 0: never' }),
    remind_before: whole('Remind days before', 0, 60, { hint: '0: never' }),
    remind_after: whole('Remind days after', 0, 60, { hint: '0: never' }),
  },
});
