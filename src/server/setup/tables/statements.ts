import { amount, choice, reference, several, state, text, whole, yesNo } from '../../../core/setup/fields';
import { Refused } from '../../access';
import { setupTable } from '../table';

/** How statements are made, for the practice and for sites that do otherwise. */
export const statementPolicies = setupTable({
  key: 'statement-policy',
  title: 'Statement policy',
  noun: ['policy', 'policies'],
  about:
    'Who gets a statement how often, and what it says of paying. The row without a site is for the whole practice; a site’s own row takes its place there.',
  table: 'statement_policy',
  keys: ['id'],
  order: 'id',
  fields: {
    location_id: reference('Site', { open: true, fixed: true, hint: 'Empty: the whole practice' }),
    least: amount('Least to send'),
    cycle: choice('Cycle', { days: 'every so many days', monthly: 'on a day of the month' }),
    cycle_number: whole('Days, or day', 1, 366),
    due_days: whole('Days to pay', 0, 120),
    grace_days: whole('Days of grace', 0, 120),
    aging_from: choice('Age from', {
      responsible: 'when it became the patient’s',
      service: 'the date of service',
    }),
    tenders: several('Can be paid by'),
    remit_name: text('Payments to: name', { hint: 'Empty: the practice’s own address' }),
    remit_line1: text('Payments to: street'),
    remit_city: text('Payments to: city'),
    remit_state: state('Payments to: state'),
    remit_zip: text('Payments to: ZIP'),
    phone: text('Telephone for questions', { hint: 'Empty: the practice’s own' }),
    hours: text('Hours'),
  },
  refers: { location_id: 'location' },
  verify: async (_, parsed) => {
    if (parsed.cycle === 'monthly' && Number(parsed.cycle_number) > 28)
      throw new Refused('A day of the month is 1 to 28', 'cycle_number');
    const remit = ['remit_line1', 'remit_city', 'remit_state', 'remit_zip'].filter(
      (name) => parsed[name] === '',
    );
    if (remit.length > 0 && remit.length < 4)
      throw new Refused('The address for payments is incomplete', remit[0]!);
  },
});

/** Why something is not done with an account. */
export const stopReasons = setupTable({
  key: 'stop-reasons',
  title: 'Account stops',
  noun: ['reason', 'reasons'],
  about: 'Why something is not done with an account, and what each reason stops.',
  table: 'stop_reason',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Reason', { needed: true }),
    statements: yesNo('Statements'),
    late_charges: yesNo('Late charges'),
    letters: yesNo('Letters'),
    calls: yesNo('Calls'),
    agency: yesNo('Agency'),
  },
});

/** What accounts are sorted by. */
export const accountCategories = setupTable({
  key: 'account-categories',
  title: 'Account categories',
  noun: ['category', 'categories'],
  about: 'What accounts are sorted by when statements are chosen.',
  table: 'account_category',
  keys: ['name'],
  order: 'name',
  fields: { name: text('Name', { needed: true, fixed: true }) },
});
