/** Keeping how a person wants to see a list: its columns, and views with their order. */
import { z } from 'zod';
import { idField } from '../../core/fields';
import { FILTERS, type FilterName } from '../../core/reports/filters';
import { Refused } from '../access';
import { useCase } from '../use-case';
import { anyList } from './any';
import { filterNames } from './filters';

/** Keeps the columns of a list as a person wants them; none brings back those it begins with. @throws Refused for a column it has not */
export const chooseColumns = useCase({
  name: 'choose columns',
  permission: 'read accounts',
  input: z.object({ list: z.string().max(60), columns: z.array(z.string().max(40)).max(40) }),
  async run(act, { list, columns }) {
    const declared = anyList(list);
    if (!declared) throw new Refused('unknown', 'There is no such list');
    const known = declared.columns.map((column) => column.key);
    const stranger = columns.find((key) => !known.includes(key));
    if (stranger !== undefined)
      throw new Refused('invalid', `This list has no column “${stranger}”`, 'columns');
    const kept = [...new Set(columns)];
    if (kept.length === 0)
      await act.db
        .deleteFrom('list_choice')
        .where('user_id', '=', act.user.id)
        .where('list', '=', list)
        .execute();
    else
      await act.db
        .insertInto('list_choice')
        .values({ user_id: act.user.id, list, columns: kept })
        .onConflict((conflict) => conflict.columns(['user_id', 'list']).doUpdateSet({ columns: kept }))
        .execute();
  },
});

/** So many views of one list are kept by one person. */
const MOST_VIEWS = 20;

/** Keeps a view of a list with its order under a name; the same name again is the view as it is now. */
export const keepView = useCase({
  name: 'keep view',
  permission: 'read accounts',
  input: z.object({
    list: z.string().max(60),
    name: z.string().trim().min(1, 'is missing').max(40, 'may have 40 characters'),
    view: z.string().max(40),
    order: z.string().max(60).default(''),
    filters: z.partialRecord(z.enum(Object.keys(FILTERS) as [FilterName]), idField).default({}),
  }),
  async run(act, { list, name, view, order, filters }) {
    const declared = anyList(list);
    if (!declared) throw new Refused('unknown', 'There is no such list');
    if (!declared.views.some(({ key }) => key === view))
      throw new Refused('invalid', 'This list has no such view', 'view');
    if (order !== '' && !declared.columns.some(({ key }) => key === order.replace(/^-/, '')))
      throw new Refused('invalid', 'This list has no such column', 'order');
    const strange = Object.keys(filters).find(
      (one) => !filterNames(declared.filters).includes(one as FilterName),
    );
    if (strange !== undefined) throw new Refused('invalid', 'This list has no such filter', 'filters');
    const { count } = await act.db
      .selectFrom('list_view')
      .select(({ fn }) => fn.countAll<number>().as('count'))
      .where('user_id', '=', act.user.id)
      .where('list', '=', list)
      .where('name', '<>', name)
      .executeTakeFirstOrThrow();
    if (count >= MOST_VIEWS)
      throw new Refused('blocked', `${MOST_VIEWS} views are kept: forget one first`, 'name');
    await act.db
      .insertInto('list_view')
      .values({ user_id: act.user.id, list, name, view, ordered: order, filters: JSON.stringify(filters) })
      .onConflict((conflict) =>
        conflict
          .columns(['user_id', 'list', 'name'])
          .doUpdateSet({ view, ordered: order, filters: JSON.stringify(filters) }),
      )
      .execute();
  },
});

/** Forgets a kept view; one that is not there is no fault. */
export const forgetView = useCase({
  name: 'forget view',
  permission: 'read accounts',
  input: z.object({ list: z.string().max(60), name: z.string().max(40) }),
  async run(act, { list, name }) {
    await act.db
      .deleteFrom('list_view')
      .where('user_id', '=', act.user.id)
      .where('list', '=', list)
      .where('name', '=', name)
      .execute();
  },
});
