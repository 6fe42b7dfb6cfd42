/**
 * Notes, while database tests run, which columns of which types each raw query brought: what the program says of them is a claim
 * that the compiler cannot check (`testing/typed-queries`).
 */
import { AsyncLocalStorage } from 'node:async_hooks';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type RawBuilder, RawNode, sql } from 'kysely';
import pg from 'pg';

/** Columns of a query: name and type by its number in `pg_type`. */
export type Brought = [name: string, type: number][];

/** A query as it stands in the source: its words without what is put into it. */
export const sourceOf = (words: readonly string[]): string => words.join('\u0001');

const folder = process.env.WERGELD_ASKED;
if (folder) {
  const bySource = new Map<string, Map<string, Brought>>();
  /** What came while a raw query was asked. */
  const coming = new AsyncLocalStorage<{ brought?: Brought }>();

  const client = pg.Client.prototype as unknown as { query: (...given: unknown[]) => unknown };
  const { query } = client;
  client.query = function (...given: unknown[]) {
    const asked = query.apply(this, given);
    const here = coming.getStore();
    if (!here || !(asked instanceof Promise)) return asked;
    return asked.then((result: pg.QueryResult) => {
      if (result.fields) here.brought = result.fields.map(({ name, dataTypeID }) => [name, dataTypeID]);
      return result;
    });
  };

  const raw = Object.getPrototypeOf(sql``) as RawBuilder<unknown>;
  const { execute } = raw;
  raw.execute = async function (this: RawBuilder<unknown>, database) {
    const here: { brought?: Brought } = {};
    const answer = await coming.run(here, () => execute.call(this, database));
    const node = this.toOperationNode();
    if (!RawNode.is(node) || !here.brought) return answer;
    const source = sourceOf(node.sqlFragments);
    const all = bySource.get(source) ?? new Map<string, Brought>();
    bySource.set(source, all.set(JSON.stringify(here.brought), here.brought));
    return answer;
  };

  afterAll(() => {
    mkdirSync(folder, { recursive: true });
    writeFileSync(
      join(folder, `${process.pid}-${Math.random().toString(36).slice(2)}.json`),
      JSON.stringify([...bySource].map(([source, all]) => [source, [...all.values()]])),
    );
  });
}
