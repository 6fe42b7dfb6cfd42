import { WRITE_OFFS_COUNT } from '../../../core/books/expected';
import { PAPERS } from '../../../core/paper';
import { SECOND_FACTOR } from '../../../core/users/roles';
import { choice, npi, state, taxId, text, zip } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Who bills. */
export const practice = setupTable({
  key: 'practice',
  title: 'Practice',
  noun: ['practice', 'practices'],
  about: 'Who bills: name, NPI and address as they stand on every claim.',
  table: 'practice',
  keys: ['id'],
  order: 'id',
  single: true,
  fields: {
    name: text('Name', { needed: true }),
    npi: npi('NPI'),
    taxonomy: text('Taxonomy'),
    tax_id: taxId('Tax id'),
    line1: text('Street', { needed: true }),
    city: text('City', { needed: true }),
    state: state('State', { needed: true }),
    zip: zip('ZIP'),
    phone: text('Phone'),
    contact: text('Contact'),
    paper: choice('Paper', PAPERS),
    write_offs_count: choice('Write-offs of contracts count', WRITE_OFFS_COUNT, {
      hint: 'Holds for what is entered from now on',
    }),
    second_factor: choice('Second factor of', SECOND_FACTOR, {
      hint: 'Who has to name a code of an authenticator at sign-in',
    }),
  },
  changed: checkAgain,
});
