import { PLACE_KINDS } from '../../../core/payments/tenders';
import { choice, date, reference, text } from '../../../core/setup/fields';
import { setupTable } from '../table';

/** Where money is. */
export const places = setupTable({
  key: 'places',
  title: 'Places of money',
  noun: ['place', 'places'],
  about:
    'Where money is that patients pay. Cash and checks lie where they are not yet deposited, a bank transfer is in a bank account; a site may have its own.',
  table: 'place',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    kind: choice('Kind', PLACE_KINDS),
    location_id: reference('Site', { open: true, hint: 'empty: of all sites' }),
    closed_on: date('Closed', { hint: 'nothing comes there from this day on' }),
  },
  refers: { location_id: 'location' },
});
