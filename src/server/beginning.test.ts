/** What a practice begins with: written once, whole, through the use cases that change it later. */
import { sql } from 'kysely';
import { FIRST_LETTERS } from '../core/overdue/letters';
import { fileDatabase } from '../testing/database';
import { begin } from './beginning';

const t = fileDatabase();

test('is there once, whoever begins at the same time, and does not come again', async () => {
  // A practice that has not begun: what the file's own began with is taken away.
  await t.pool.query(`
    alter table letter_version disable trigger user;
    alter table audit disable trigger user;
    delete from overdue_stage;
    delete from letter_version;
    delete from letter_template;
    update overdue_policy set dispute_reason = null, hardship_reason = null, bankrupt_reason = null;
    delete from stop_reason;
    delete from place;
    delete from audit;
    alter table letter_version enable trigger user;
    alter table audit enable trigger user;
  `);
  const begun = await Promise.all([begin(t.db), begin(t.db), begin(t.db)]);
  expect(begun.filter(Boolean)).toHaveLength(1);
  const { rows: stages } = await sql<{ name: string; days: number; subject: string }>`
      select s.name, s.days, v.subject
      from overdue_stage s
        join letter_version v on v.template_id = s.template_id
      order by s.position`.execute(t.db);
  expect(stages).toEqual(FIRST_LETTERS.map(({ name, days, subject }) => ({ name, days, subject })));
  // Where the money of each tender comes is there.
  const { rows: places } = await sql`select kind from place order by kind`.execute(t.db);
  expect(places).toEqual([{ kind: 'bank' }, { kind: 'clearing' }, { kind: 'undeposited' }]);
  // What a dispute, a hardship and a bankruptcy stop (common practice, no source).
  const { rows: stops } = await sql`
      select d.name as dispute, h.name as hardship, b.name as bankrupt, d.statements, d.letters, d.agency, b.statements as all
      from overdue_policy o
        join stop_reason d on d.id = o.dispute_reason
        join stop_reason h on h.id = o.hardship_reason
        join stop_reason b on b.id = o.bankrupt_reason`.execute(t.db);
  expect(stops).toEqual([
    {
      dispute: 'dispute',
      hardship: 'hardship',
      bankrupt: 'bankrupt',
      statements: false,
      letters: true,
      agency: true,
      all: true,
    },
  ]);
  expect(await sql`select 1 from stop_reason`.execute(t.db)).toHaveProperty('rows.length', 7);
  await t.pool.query('delete from overdue_stage');
  expect(await begin(t.db)).toBe(false);
  expect((await sql`select 1 from overdue_stage`.execute(t.db)).rows).toEqual([]);
  // Who began is on the trail.
  const { rows: trail } = await sql<{ user_id: string }>`
      select distinct user_id from audit where subject_kind in ('stop_reason', 'overdue_stage', 'letter')`.execute(
    t.db,
  );
  expect(trail).toEqual([{ user_id: 'wergeld' }]);
});
