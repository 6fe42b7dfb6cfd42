/** Preparing the drafts of a batch in the background, some households at a time, so that nobody waits long for one of them. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { documentKind } from '../../core/documents';
import { type StatementContent, optionsDocument } from '../../core/statements/document';
import { type Envelope, intoEnvelopes } from '../../core/statements/envelopes';
import { batchToDraftInput } from '../../core/statements/input';
import { counted } from '../../core/words';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import type { WorkItem, WorkKind } from '../jobs/kind';
import { draftSomeLetters, lettersDue } from '../overdue/door';
import { type Act, inTransaction } from '../use-case';
import {
  type AskedStatement,
  draftColumns,
  readContents,
  type Weighed,
  weighHouseholds,
} from '../statements/door';
import { type Policies } from '../setup/statement-policies';

type BatchToDraft = z.output<typeof batchToDraftInput>;

/** So many envelopes are prepared in one transaction, which locks their households. */
const LOT = 40;
/** Statements that are put together at once. */
const CHUNK = 200;

/** Puts contents together, so many at once. */
export async function* contentsInChunks<Asked extends AskedStatement>(
  act: Act,
  policies: Policies,
  asked: readonly Asked[],
): AsyncGenerator<(readonly [Asked, StatementContent])[]> {
  for (let at = 0; at < asked.length; at += CHUNK) {
    const some = asked.slice(at, at + CHUNK);
    const contents = await readContents(act, policies, some);
    yield some.map((one, index) => [one, contents[index]!] as const);
  }
}

/** Whose statement it is: a household’s, or a patient’s with a confidential address. */
const subjectOf = (householdId: number, patientId: number | null): string =>
  `${householdId}/${patientId ?? 0}`;

/** Of whom a statement is prepared and not out yet. */
async function openPieces(db: Db | Tx): Promise<Set<string>> {
  const rows = await db
    .selectFrom('mail_piece')
    .select(['household_id', 'patient_id', 'joined'])
    .where('kind', '=', 'statement')
    .where('status', 'in', ['draft', 'made', 'failed'])
    .where('delivery', '<>', 'in-person')
    .execute();
  return new Set(
    rows.flatMap(({ household_id, patient_id, joined }) => [
      subjectOf(household_id, patient_id),
      ...joined.map((id) => subjectOf(id, null)),
    ]),
  );
}

/** Households whose drafts of a kind are just being prepared by other work. */
async function beingPrepared(db: Db | Tx, kind: BatchToDraft['kind']): Promise<Set<number>> {
  const rows = await db
    .selectFrom('work_item as i')
    .innerJoin('work as w', 'w.id', 'i.work_id')
    .select('i.subject')
    .where('w.kind', '=', 'draft batch')
    .where('w.status', 'in', ['waiting', 'running', 'stopping'])
    .where('i.status', '=', 'waiting')
    .where('i.subject', 'like', `${kind}:%`)
    .execute();
  return new Set(rows.flatMap(({ subject }) => householdsOf(subject)));
}

const householdsOf = (subject: string): number[] =>
  subject
    .slice(subject.indexOf(':') + 1)
    .split(',')
    .map(Number);

/** The envelopes of those whom a run takes and of whom nothing is prepared yet. */
async function envelopesOf(db: Db | Tx, weighed: readonly Weighed[]): Promise<Envelope<Weighed>[]> {
  const open = await openPieces(db);
  return intoEnvelopes(
    weighed.filter((one) => one.in && !open.has(subjectOf(one.facts.householdId, one.facts.patientId))),
  );
}

/** The households of envelopes, each once. */
const together = (envelopes: readonly Envelope<Weighed>[]): number[] => [
  ...new Set(
    envelopes.flatMap(({ first, joined }) => [first, ...joined].map(({ facts }) => facts.householdId)),
  ),
];

/** Households in lots, as items of the work. */
function inLots(kind: BatchToDraft['kind'], lots: readonly (readonly number[])[]): WorkItem[] {
  let before = 0;
  return lots.map((ids) => {
    const words = `${before + 1} to ${before + ids.length}`;
    before += ids.length;
    return { subject: `${kind}:${ids.join(',')}`, words, size: ids.length };
  });
}

/** Prepares the drafts of a batch: of statements by the rows of a run, or of letters. */
export const draftBatch: WorkKind<BatchToDraft> = {
  expireSeconds: 3600,
  input: batchToDraftInput as never,
  document: documentKind<BatchToDraft>('batch to draft', 1, batchToDraftInput as never),
  title: (items) =>
    `Preparing ${counted(
      items.reduce((all, { size }) => all + size, 0),
      'draft',
    )}`,
  async items(act, input) {
    const busy = await beingPrepared(act.db, input.kind);
    const lots: number[][] = [];
    if (input.kind === 'letter') {
      const ids = (await lettersDue(act, input.householdIds ?? null)).filter((id) => !busy.has(id));
      for (let at = 0; at < ids.length; at += LOT) lots.push(ids.slice(at, at + LOT));
    } else {
      const { weighed } = await weighHouseholds(act, input.run ?? {});
      const envelopes = (await envelopesOf(act.db, weighed)).filter(
        (envelope) => !together([envelope]).some((id) => busy.has(id)),
      );
      for (let at = 0; at < envelopes.length; at += LOT) lots.push(together(envelopes.slice(at, at + LOT)));
    }
    return inLots(input.kind, lots);
  },
  async one(context: Context, subject, progress, input): Promise<string | null> {
    if (!(await progress(0))) return null;
    const ids = householdsOf(subject);
    return inTransaction(context, async (act) => {
      await lockHouseholds(act.db, ids);
      const pieces =
        input.kind === 'letter'
          ? await draftSomeLetters(act, input.batchId, ids)
          : await draftSome(act, input.batchId, input.run ?? {}, ids);
      if (pieces > 0) await act.note('drafted', { kind: 'mail batch', id: input.batchId }, { pieces });
      return counted(pieces, 'draft');
    });
  },
};

/** Drafts of some households that are locked, weighed as they are now: who paid meanwhile, or has one, gets none. */
async function draftSome(
  act: Act,
  batchId: number,
  run: NonNullable<BatchToDraft['run']>,
  ids: readonly number[],
): Promise<number> {
  const { weighed, policies } = await weighHouseholds(act, run, ids);
  const batch = await act.db
    .selectFrom('mail_batch')
    .select('options')
    .where('id', '=', batchId)
    .executeTakeFirst();
  if (!batch) throw new Refused('unknown', 'There is no such batch any more');
  const options = optionsDocument.read(batch.options);
  const asked = (await envelopesOf(act.db, weighed)).map(({ first: { facts }, joined }) => ({
    householdId: facts.householdId,
    patientId: facts.patientId,
    joined: joined.map((one) => one.facts.householdId),
    delivery: facts.delivery as 'mail' | 'print-shop' | 'email',
    options,
  }));
  let number = await lastNumber(act.db, batchId);
  for await (const chunk of contentsInChunks(act, policies, asked))
    await act.db
      .insertInto('mail_piece')
      .values(
        chunk.map(([{ householdId, patientId, joined, delivery }, content]) => ({
          batch_id: batchId,
          number: (number += 1),
          household_id: householdId,
          patient_id: patientId,
          joined,
          delivery,
          ...draftColumns(content),
        })),
      )
      .execute();
  return asked.length;
}

/** The number of a batch's last piece; 0 where it has none. */
async function lastNumber(tx: Tx, batchId: number): Promise<number> {
  const { last } = await tx
    .selectFrom('mail_piece')
    .select(sql<number>`coalesce(max(number), 0)`.as('last'))
    .where('batch_id', '=', batchId)
    .executeTakeFirstOrThrow();
  return last;
}
