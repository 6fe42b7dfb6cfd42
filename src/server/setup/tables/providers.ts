import { npi, reference, text, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Who gives services. */
export const providers = setupTable({
  key: 'providers',
  title: 'Providers',
  noun: ['provider', 'providers'],
  about: 'Who gives services. The NPI must pass its check digit.',
  table: 'provider',
  keys: ['id'],
  order: 'last',
  fields: {
    last: text('Last name', { needed: true }),
    first: text('First name', { needed: true }),
    suffix: text('Title'),
    npi: npi('NPI'),
    taxonomy: text('Taxonomy'),
    location_id: reference('Location'),
    active: yesNo('Active'),
  },
  refers: { location_id: 'location' },
  changed: checkAgain,
});
