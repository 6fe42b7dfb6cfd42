import { choice, reference, text, whole, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { connectionChoices } from './connections';

/** Who is billed. */
export const payers = setupTable({
  key: 'payers',
  title: 'Payers',
  noun: ['payer', 'payers'],
  about: 'Who is billed, how, and what each demands.',
  table: 'payer',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    payer_id: text('Payer id'),
    connection_id: reference('Connection', { open: true }),
    accepts: choice('Claims go', ['electronic', 'paper', 'hold']),
    bills_as: choice('Bills as', ['group', 'individual']),
    filing_code: text('Filing code', { hint: 'SBR09, such as CI' }),
    timely_filing_days: whole('Filing limit, days', 1, 9999),
    requires_referring: yesNo('Needs referral'),
    requires_authorization: yesNo('Needs authorization'),
    phone: text('Phone'),
  },
  refers: { connection_id: 'connection' },
  choices: { connection_id: connectionChoices('clearinghouse') },
  changed: checkAgain,
});
