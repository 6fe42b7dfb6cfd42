import { choice, reference, text, yesNo } from '../../../core/setup/fields';
import { CHARGES_AT, WRITE_OFFS_COUNT } from '../../../core/books/expected';
import { TIMED_UNITS } from '../../../core/accounts/timed';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Insurance plans; what they cover are rules of their own. */
export const plans = setupTable({
  key: 'plans',
  title: 'Insurance plans',
  noun: ['insurance plan', 'insurance plans'],
  about: 'Whose plan it is, and by which schedule. What it covers stands on a page of its own.',
  table: 'insurance_plan',
  keys: ['id'],
  order: 'name',
  fields: {
    payer_id: reference('Payer'),
    name: text('Name', { needed: true }),
    fee_schedule_id: reference('Fee schedule', { open: true }),
    contracted: yesNo('Contracted'),
    coordination: choice('Coordination', ['standard', 'non-duplication', 'maintenance']),
    charges_at: choice('Charges stand at', CHARGES_AT),
    write_offs_count: choice('Write-offs count', { '': 'as the practice says', ...WRITE_OFFS_COUNT }),
    timed_units: choice('Units of timed services', TIMED_UNITS),
  },
  refers: { payer_id: 'payer', fee_schedule_id: 'fee_schedule' },
  leads: { path: '/terms/', words: 'What it covers' },
  changed: checkAgain,
});
