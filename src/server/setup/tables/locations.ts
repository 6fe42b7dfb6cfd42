import { clia, percent, reference, state, text, zip } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { isOfKind } from './schedules';

/** Where services are given. */
export const locations = setupTable({
  key: 'locations',
  title: 'Locations',
  noun: ['location', 'locations'],
  about: 'Where services are given.',
  table: 'location',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    place_of_service: text('Place of service'),
    line1: text('Street'),
    city: text('City'),
    state: state('State', { needed: true }),
    zip: zip('ZIP'),
    phone: text('Phone'),
    tax_rate: percent('Tax on taxable services', { open: true, hint: 'empty: none' }),
    clia: text('Number of its laboratory (CLIA)', { form: clia }),
    fee_schedule_id: reference('Its own office fees', { open: true, hint: 'empty: the usual ones' }),
  },
  refers: { fee_schedule_id: 'fee_schedule' },
  verify: isOfKind('office'),
  changed: checkAgain,
});
