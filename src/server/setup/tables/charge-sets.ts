import { amount, code, reference, several, text, whole, yesNo } from '../../../core/setup/fields';
import { setupTable } from '../table';

/** Services that are entered together. */
export const chargeSets = setupTable({
  key: 'charge-sets',
  title: 'Charge sets',
  noun: ['charge set', 'charge sets'],
  about: 'Services that are entered together, by one name. One is also made from the services of a visit.',
  table: 'charge_set',
  keys: ['id'],
  order: 'name',
  fields: { name: text('Name', { needed: true }), active: yesNo('Active', { begins: true }) },
  children: [{ table: 'charge-set-lines', words: 'Services' }],
});

/** The services of charge sets. */
export const chargeSetLines = setupTable({
  key: 'charge-set-lines',
  title: 'Services of charge sets',
  noun: ['service', 'services'],
  about: 'Which services a set has, in their order. What differs each time, such as the tooth, is asked.',
  table: 'charge_set_line',
  keys: ['charge_set_id', 'position'],
  order: 'position',
  fields: {
    charge_set_id: reference('Set', { fixed: true }),
    position: whole('Place', 1, 50, { fixed: true }),
    code: code('Code'),
    units: whole('Units', 1, 999, { open: true }),
    minutes: whole('or minutes', 1, 600, { open: true }),
    modifiers: several('Modifiers'),
    fee: amount('Own fee', { open: true, hint: 'empty: the usual one' }),
  },
  refers: { charge_set_id: 'charge_set' },
  choices: {
    code: async (db) => {
      const rows = await db
        .selectFrom('service_code')
        .select(['code', 'description'])
        .where('active', '=', true)
        .orderBy('code')
        .execute();
      return rows.map((row) => ({ value: row.code, label: `${row.code} ${row.description}` }));
    },
  },
  parent: { table: 'charge-sets', field: 'charge_set_id' },
});
