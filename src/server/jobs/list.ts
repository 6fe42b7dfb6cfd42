/** The list of background work. */
import { sql } from 'kysely';
import { zone } from '../access';
import { list, number, words } from '../lists/list';

/** Background work, newest first. */
export const workList = list({
  name: 'work',
  noun: ['piece of work', 'pieces of work'],
  permission: 'watch work',
  station: 'Work',
  path: '/work',
  from: sql`work w`,
  household: null,
  id: sql`w.id`,
  columns: {
    title: words('What', sql`w.title`),
    by: words('Started by', sql`w.user_name`),
    started: words('Started', sql`to_char(w.created_at at time zone ${zone()}, 'YYYY-MM-DD HH24:MI')`),
    status: words(
      'Status',
      sql<'waiting' | 'running' | 'stopping' | 'stopped' | 'finished' | 'failed'>`w.status`,
    ),
    done: number('Done', sql`(select coalesce(sum(i.done), 0) from work_item i where i.work_id = w.id)`),
    total: number('Of', sql`(select coalesce(sum(i.size), 0) from work_item i where i.work_id = w.id)`),
    failed: number(
      'Failed items',
      sql`(select count(*) from work_item i where i.work_id = w.id and i.status = 'failed')`,
    ),
    fault: words('Why it failed', sql`w.fault`),
  },
  views: {
    running: {
      label: 'Running',
      where: () => sql`w.status in ('waiting', 'running', 'stopping')`,
    },
    failed: {
      label: 'Failed or stopped',
      where: () => sql`w.status in ('failed', 'stopped')`,
    },
    finished: { label: 'Finished', where: () => sql`w.status = 'finished'` },
    all: { label: 'All' },
  },
  search: (like) => sql`lower(w.title) like ${like} or lower(w.user_name) like ${like}`,
  order: sql`w.id desc`,
});
