import { choice, text } from '../../../core/setup/fields';
import { setupTable } from '../table';

/** Fee schedules: the office's, and one a contract. */
export const schedules = setupTable({
  key: 'schedules',
  title: 'Fee schedules',
  noun: ['schedule', 'schedules'],
  about: 'The office fees and one schedule a contract; the fees of each stand under “Fees”.',
  table: 'fee_schedule',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    kind: choice('Kind', ['office', 'contract'], { fixed: true }),
  },
  children: [{ table: 'fees', words: 'Fees' }],
});
