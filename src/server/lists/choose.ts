/** Keeping how a person wants to see a list. */
import { z } from 'zod';
import { Refused } from '../access';
import { useCase } from '../use-case';
import { anyList } from './any';

/** Keeps the columns of a list as a person wants them; none brings back those it begins with. @throws Refused for a column it has not */
export const chooseColumns = useCase({
  name: 'choose columns',
  permission: 'read accounts',
  input: z.object({ list: z.string().max(60), columns: z.array(z.string().max(40)).max(40) }),
  async run(act, { list, columns }) {
    const declared = anyList(list);
    if (!declared) throw new Refused('There is no such list');
    const known = declared.columns.map((column) => column.key);
    const stranger = columns.find((key) => !known.includes(key));
    if (stranger !== undefined) throw new Refused(`This list has no column “${stranger}”`, 'columns');
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
