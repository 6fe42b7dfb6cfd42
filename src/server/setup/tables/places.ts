import { PLACE_KINDS } from '../../../core/payments/tenders';
import { choice, date, reference, text } from '../../../core/setup/fields';
import { Refused } from '../../access';
import { setupTable } from '../table';

/** A drawer is made when somebody opens it. */
const { drawer: _, ...SET_UP } = PLACE_KINDS;

/** Where money is. */
export const places = setupTable({
  key: 'places',
  title: 'Places of money',
  noun: ['place', 'places'],
  about:
    'Where money is that patients pay. Cash and checks lie where they are not yet deposited, cards and debits are cleared by a merchant account, a bank transfer is in a bank account; a site may have its own.',
  table: 'place',
  rowsWith: { column: 'kind', values: Object.keys(SET_UP) },
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    kind: choice('Kind', SET_UP),
    location_id: reference('Site', { open: true, hint: 'empty: of all sites' }),
    merchant: text('Merchant account', {
      hint: 'what the card terminal is asked with, of money that is cleared',
    }),
    closed_on: date('Closed', { hint: 'nothing comes there from this day on' }),
  },
  refers: { location_id: 'location' },
  verify: async (__, parsed) => {
    if (parsed.merchant !== '' && parsed.kind !== 'clearing')
      throw new Refused('invalid', 'A merchant account is of money that is cleared', 'merchant');
  },
});
