import { WRITE_OFFS_COUNT } from '../../../core/books/expected';
import { PAPERS } from '../../../core/paper';
import { SECOND_FACTOR } from '../../../core/users/roles';
import { choice, npi, openZip, state, taxId, text, whole, zip } from '../../../core/setup/fields';
import { Refused } from '../../access';
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
    pay_to_line1: text('Checks go to', {
      hint: 'Where it is another street, or a post office box',
      under: 'Where checks go',
    }),
    pay_to_line2: text('Second line'),
    pay_to_city: text('City'),
    pay_to_state: state('State'),
    pay_to_zip: openZip('ZIP'),
    phone: text('Phone', { under: 'Who is asked' }),
    contact: text('Contact'),
    paper: choice('Paper', PAPERS, { under: 'On paper' }),
    form_right: whole('Claim forms: to the right', -200, 200, {
      begins: '0',
      hint: 'Tenths of a millimeter, until the test page fits',
    }),
    form_down: whole('Claim forms: down', -200, 200, { begins: '0' }),
    write_offs_count: choice('Write-offs of contracts count', WRITE_OFFS_COUNT, {
      hint: 'Holds for what is entered from now on',
    }),
    second_factor: choice('Second factor of', SECOND_FACTOR, {
      hint: 'Who has to name a code of an authenticator at sign-in',
    }),
  },
  verify: async (_, { pay_to_line1: street, ...parsed }) => {
    const missing = ['pay_to_city', 'pay_to_state', 'pay_to_zip'].find(
      (part) => (parsed[part] === '') !== (street === ''),
    );
    if (missing !== undefined)
      throw new Refused(
        'missing',
        'Where checks go has a street, a city, a state and a ZIP, or nothing of it',
        missing,
      );
  },
  changed: checkAgain,
});
