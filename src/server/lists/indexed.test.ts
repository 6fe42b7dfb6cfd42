/** Every list is found over indexes: nothing that is opened all day reads through a table that grows. */
import { openDb, openPool } from '../../db/connect';
import { type TestDatabase, testDatabase } from '../../testing/database';
import { someOfEverything } from '../../testing/everything';
import type { Context } from '../access';
import { LISTS, LIST_NAMES } from './index';
import type { List } from './list';

let t: TestDatabase;
/** The desk's, over one connection that notes what is asked. */
let context: Context;
let asked: { text: string; values: unknown[] }[] = [];
let close: () => Promise<void>;
beforeAll(async () => {
  t = await testDatabase();
  await someOfEverything(t, 1);
  const pool = openPool(t.url, 1);
  pool.on('connect', (client) => {
    const query = client.query.bind(client) as (...given: unknown[]) => unknown;
    client.query = ((...given: unknown[]) => {
      const [text, values] = given;
      if (typeof text === 'string' && /^\s*(select|with)\b/i.test(text))
        asked.push({ text, values: (values as unknown[] | undefined) ?? [] });
      return query(...given);
    }) as typeof client.query;
  });
  context = { ...t.context, db: openDb(pool) };
  close = () => pool.end();
});
afterAll(async () => {
  await close();
  await t.close();
});

/** Tables with as many rows as a practice has people, payers, states and rules, however long it works. */
const SETTLED = ['dormancy', 'user', 'overdue_policy', 'statement_policy'];

interface Plan {
  'Node Type': string;
  'Relation Name'?: string;
  Plans?: Plan[];
}
const steps = (plan: Plan): Plan[] => [plan, ...(plan.Plans ?? []).flatMap(steps)];

/** The tables that a query cannot but read through: with sequential scans off the planner takes one where no index serves. */
async function readThrough(text: string, values: unknown[]): Promise<string[]> {
  const client = await t.pool.connect();
  try {
    await client.query('begin; set local enable_seqscan = off');
    const { rows } = await client.query<{ 'QUERY PLAN': { Plan: Plan }[] }>(
      `explain (format json) ${text}`,
      values,
    );
    return steps(rows[0]!['QUERY PLAN'][0]!.Plan)
      .filter((step) => step['Node Type'] === 'Seq Scan')
      .map((step) => step['Relation Name']!);
  } finally {
    await client.query('rollback');
    client.release();
  }
}

/** Those of everything that was asked meanwhile, without the settled ones. */
async function readThroughBy(run: () => Promise<unknown>): Promise<string[]> {
  asked = [];
  await run();
  expect(asked.length).toBeGreaterThan(0);
  const all = await Promise.all(asked.map(({ text, values }) => readThrough(text, values)));
  return [...new Set(all.flat())].filter((table) => !SETTLED.includes(table));
}

test.each(LIST_NAMES)('%s: its rows, their number and sums in every view', async (name) => {
  const list = LISTS[name] as List;
  for (const { key, waits } of list.views) {
    expect({ view: key, found: await readThroughBy(() => list.find(context, { view: key })) }).toEqual({
      view: key,
      found: [],
    });
    if (waits)
      expect({
        counted: key,
        found: await readThroughBy(async () =>
          (await list.counting(context, key, waits.sum)).execute(context.db),
        ),
      }).toEqual({ counted: key, found: [] });
  }
});

test('a query that no index serves is seen', async () => {
  expect(await readThrough('select * from charge where description = $1', ['x'])).toEqual(['charge']);
  expect(await readThrough('select * from charge where id = $1', [1])).toEqual([]);
});
