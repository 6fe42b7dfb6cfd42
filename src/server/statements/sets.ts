/** Saving sets of rows under a name. */
import { sql } from 'kysely';
import { rowsDocument, saveSetInput } from '../../core/statements/sets';
import { Refused } from '../access';
import { useCase } from '../use-case';
import { refuseOlder } from '../versions';

/** Saves a set; the standard one of a site takes the place of the one before. @returns its id */
export const saveSet = useCase({
  name: 'save statement set',
  permission: 'change setup',
  input: saveSetInput,
  async run(act, { setId, name, siteId, standard, rows, version }) {
    const site = siteId ?? null;
    const same = await act.db
      .selectFrom('statement_set')
      .select('id')
      .where(sql`lower(name)`, '=', name.toLowerCase())
      .executeTakeFirst();
    if (same && same.id !== setId)
      throw new Refused('already', `There is a set “${name}” already`, { field: 'name', facts: { name } });
    if (site !== null) {
      const known = await act.db
        .selectFrom('location')
        .select('id')
        .where('id', '=', site)
        .executeTakeFirst();
      if (!known) throw new Refused('unknown', 'This site is not in Setup', 'siteId');
    }
    if (standard)
      await act.db
        .updateTable('statement_set')
        .set({ standard: false })
        .where('standard', '=', true)
        .where(sql<number>`coalesce(location_id, 0)`, '=', site ?? 0)
        .where('id', '<>', setId ?? 0)
        .execute();
    const values = { name, location_id: site, standard, rows: rowsDocument.write(rows) };
    if (!setId) {
      const made = await act.db
        .insertInto('statement_set')
        .values(values)
        .onConflict((conflict) => conflict.column('name').doNothing())
        .returning('id')
        .executeTakeFirst();
      if (!made)
        throw new Refused('already', `There is a set “${name}” already`, { field: 'name', facts: { name } });
      await act.note('added', { kind: 'statement_set', id: made.id }, { name });
      return made.id;
    }
    const there = await act.db
      .selectFrom('statement_set')
      .select(['name', 'version'])
      .where('id', '=', setId)
      .forUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('state', 'This set is gone');
    refuseOlder(version, there.version, there, { name }, { name: 'Name' });
    await act.db.updateTable('statement_set').set(values).where('id', '=', setId).execute();
    await act.note('changed', { kind: 'statement_set', id: setId }, { name });
    return setId;
  },
});
