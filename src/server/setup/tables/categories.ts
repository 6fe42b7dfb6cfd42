import type { Choice } from '../../../core/setup/fields';
import { text } from '../../../core/setup/fields';
import type { Db } from '../../../db/connect';
import { setupTable } from '../table';

/** The categories of services, as choices of a form. */
export const categories = async (db: Db): Promise<Choice[]> => {
  const rows = await db.selectFrom('service_category').select('name').orderBy('name').execute();
  return rows.map(({ name }) => ({ value: name, label: name }));
};

/** The categories of services by which plans pay. */
export const serviceCategories = setupTable({
  key: 'categories',
  title: 'Service categories',
  noun: ['category', 'categories'],
  about: 'By these plans pay: services and shares choose from them.',
  table: 'service_category',
  keys: ['name'],
  order: 'name',
  fields: { name: text('Name', { needed: true, fixed: true }) },
});
