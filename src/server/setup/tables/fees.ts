import { amount, code, date, reference } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** What each service costs in a schedule. */
export const fees = setupTable({
  key: 'fees',
  title: 'Fees',
  noun: ['fee', 'fees'],
  about: 'What each service costs in each schedule, for one unit, from a day on.',
  table: 'fee',
  keys: ['fee_schedule_id', 'code', 'valid_from'],
  order: 'code',
  fields: {
    fee_schedule_id: reference('Schedule', { fixed: true }),
    code: code('Code', { fixed: true }),
    valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
    amount: amount('Fee'),
    facility_amount: amount('In a facility', { open: true, hint: 'empty: the same' }),
  },
  refers: { fee_schedule_id: 'fee_schedule' },
  choices: {
    code: async (db) => {
      const rows = await db
        .selectFrom('service_code')
        .select(['code', 'description'])
        .orderBy('code')
        .execute();
      return rows.map((row) => ({ value: row.code, label: `${row.code} ${row.description}` }));
    },
  },
  parent: { table: 'schedules', field: 'fee_schedule_id' },
  changed: checkAgain,
});
