/**
 * The one shape of a use case: who may, what is asked, done once however often it is pressed, in one transaction that
 * nests, with its audit rows, and an answer. Web, job and command line call the same.
 */
import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import type { z } from 'zod';
import type { Tx } from '../db/connect';
import { type Context, type Permission, Refused, allow, audit } from './access';
import { allowOpen } from './closed';
import { parseInput } from './input';

/** A context inside a transaction, with what the audit trail is to say. */
export interface Act extends Context {
  db: Tx;
  /** Puts a row on the audit trail, in this transaction. */
  note(
    action: string,
    subject: { kind: string; id: string | number },
    detail?: Record<string, unknown>,
  ): Promise<void>;
}

interface Definition<Schema extends z.ZodType, Answer> {
  /** What is done, in words; its name on the list of presses that count once. */
  name: string;
  permission: Permission;
  input: Schema;
  /** The key under which a press counts once; without it the use case itself does nothing a second time. */
  once?: (input: z.output<Schema>) => string;
  run(act: Act, input: z.output<Schema>): Promise<Answer>;
}

/** A use case: called with the context and what is asked. @throws Refused in words when it cannot be done */
export interface UseCase<Schema extends z.ZodType, Answer> {
  (context: Context, input: z.input<Schema>): Promise<Answer>;
  readonly title: string;
  readonly permission: Permission;
}

/** What a use case is asked with, as it comes from outside. */
export type InputOf<Of> = Of extends UseCase<infer Schema, unknown> ? z.input<Schema> : never;

/** What a reader is asked with, as it comes from outside. */
export type Asks<Reader extends (context: Context, input: never, ...more: never[]) => unknown> =
  Parameters<Reader>[1];

/** A use case, whatever it asks for and answers. */
export interface AnyUseCase {
  (context: Context, input: never): Promise<unknown>;
  readonly title: string;
  readonly permission: Permission;
  readonly input: z.ZodType;
}

const loaded = new Map<string, AnyUseCase>();
/** Every use case that is loaded, by its name. */
export const useCases = (): ReadonlyMap<string, AnyUseCase> => loaded;

/** Declares a use case. */
export function useCase<Schema extends z.ZodType, Answer>(
  definition: Definition<Schema, Answer>,
): UseCase<Schema, Answer> {
  const { name: title, permission, input: schema, once, run } = definition;
  const perform = async (context: Context, input: z.input<Schema>): Promise<Answer> => {
    allow(context, permission);
    const data = parseInput(schema, input);
    // Within another act it is sure already.
    if (!context.db.isTransaction) await allowOpen(context, data);
    return inTransaction(context, async (act) =>
      once ? answerOnce(act, title, once(data), data, () => run(act, data)) : run(act, data),
    );
  };
  const whole = Object.assign(perform, { title, permission, input: schema });
  loaded.set(title, whole);
  return whole;
}

let savepoints = 0;

/** Runs something in a transaction; inside another one, in a part of it that is undone by itself when it fails. */
export async function inTransaction<T>(context: Context, run: (act: Act) => Promise<T>): Promise<T> {
  const within = (tx: Tx): Promise<T> => {
    const act: Act = {
      ...context,
      db: tx,
      note: (action, subject, detail = {}) => audit(tx, context, action, subject, detail),
    };
    return run(act);
  };
  const { db } = context;
  if (!db.isTransaction) return db.transaction().execute(within);
  const name = sql.ref(`part_${(savepoints += 1)}`);
  await sql`savepoint ${name}`.execute(db);
  try {
    const answer = await within(db as Tx);
    await sql`release savepoint ${name}`.execute(db);
    return answer;
  } catch (error) {
    await sql`rollback to savepoint ${name}`.execute(db);
    throw error;
  }
}

/** JSON with its keys in order, so that the same input has the same text. */
const canonical = (value: unknown): string =>
  JSON.stringify(value, (_key, item: unknown) =>
    item && typeof item === 'object' && !Array.isArray(item)
      ? Object.fromEntries(Object.entries(item).sort(([a], [b]) => (a < b ? -1 : 1)))
      : item,
  );

/** The first press does it and keeps the answer, in one transaction; every other waits for it and gets the same answer. */
async function answerOnce<Answer>(
  act: Act,
  useCaseName: string,
  key: string,
  data: unknown,
  run: () => Promise<Answer>,
): Promise<Answer> {
  const fingerprint = createHash('sha256').update(canonical(data)).digest('hex');
  const first = await act.db
    .insertInto('answered')
    .values({ use_case: useCaseName, key, user_id: act.user.id, fingerprint })
    .onConflict((conflict) => conflict.doNothing())
    .returning('key')
    .executeTakeFirst();
  if (!first) {
    const before = await act.db
      .selectFrom('answered')
      .select(['fingerprint', 'answer', 'user_id'])
      .where('use_case', '=', useCaseName)
      .where('key', '=', key)
      .executeTakeFirstOrThrow();
    if (before.fingerprint !== fingerprint || before.user_id !== act.user.id)
      throw new Refused(
        'state',
        'This was saved before, with other entries: look at what is there, then enter it anew',
      );
    return before.answer as Answer;
  }
  const answer = await run();
  await act.db
    .updateTable('answered')
    .set({ answer: JSON.stringify(answer ?? null) })
    .where('use_case', '=', useCaseName)
    .where('key', '=', key)
    .execute();
  return answer;
}

/** Presses are remembered this long. */
const REMEMBERED_DAYS = 60;

/** Forgets presses of long ago. @returns how many */
export async function forgetPresses(context: Context): Promise<number> {
  const { numDeletedRows } = await context.db
    .deleteFrom('answered')
    .where('at', '<', sql<Date>`desk_now() - make_interval(days => ${REMEMBERED_DAYS})`)
    .executeTakeFirst();
  return Number(numDeletedRows);
}
