/** Batches of statements while they are drafts: begun by the rows, looked through, changed, taken out, put back. */
import { sql } from 'kysely';
import type { z } from 'zod';
import type { CalendarDate } from '../../core/calendar';
import { PLAIN_OPTIONS, type StatementOptions, optionsDocument } from '../../core/statements/document';
import {
  addInput,
  draftInput,
  editInput,
  putBackInput,
  refreshInput,
  takeOutInput,
} from '../../core/statements/input';
import type { PieceKind } from '../../core/mail/contents';
import { counted } from '../../core/words';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { finishDrafting } from '../jobs/run';
import { startWork, workSize } from '../jobs/work';
import { composeLetters } from '../overdue/door';
import { toDraft } from '../mail/pieces';
import { type Act, useCase } from '../use-case';
import { draftColumns, readContents, type Weighed, weighHouseholds } from '../statements/door';
import { contentsInChunks } from './drafting';
import { readPolicies } from '../setup/statement-policies';

/** The rows take nobody. */
export class NobodyTaken extends Refused {
  constructor(message: string) {
    super('nothing', message);
  }
}

/** A batch that was begun: its drafts are prepared in the background, so many as are planned. */
export interface Begun {
  batchId: number;
  workId: number;
  pieces: number;
}

/** Begins a batch of drafts for all whom a run takes, in the order of their names. @throws NobodyTaken */
export const startDrafting = useCase({
  name: 'draft statements',
  permission: 'prepare statements',
  input: draftInput,
  once: (data) => data.key,
  async run(act, { title, options = PLAIN_OPTIONS, key: _, ...run }): Promise<Begun> {
    const { weighed } = await weighHouseholds(act, run);
    if (!weighed.some((one) => one.in)) throw new NobodyTaken('Nobody gets a statement by these rows');
    const setName = await nameOfSet(act, run.setId ?? null);
    const batchId = await newBatch(act, title, setName, options);
    const workId = await startWork(act, 'draft batch', { batchId, kind: 'statement', run });
    if (workId === null) throw new NobodyTaken('Somebody else has prepared these meanwhile');
    const pieces = await workSize(act.db, workId);
    await act.note('began', { kind: 'mail batch', id: batchId }, { pieces });
    return { batchId, workId, pieces };
  },
});

/** What was prepared. */
export interface Drafted {
  batchId: number;
  pieces: number;
}

/** Prepares drafts and waits until they are there, for whoever has no page to watch them on. @throws NobodyTaken */
export async function draftStatements(context: Context, input: z.input<typeof draftInput>): Promise<Drafted> {
  const { batchId, workId } = await startDrafting(context, input);
  return { batchId, pieces: await finishDrafting(context.db, batchId, workId) };
}

async function nameOfSet(act: Act, setId: number | null): Promise<string> {
  if (setId === null) return '';
  const set = await act.db
    .selectFrom('statement_set')
    .select('name')
    .where('id', '=', setId)
    .executeTakeFirst();
  return set?.name ?? '';
}

async function newBatch(
  act: Act,
  title: string,
  setName: string,
  options: StatementOptions,
): Promise<number> {
  const { id } = await act.db
    .insertInto('mail_batch')
    .values({
      title: title || setName || 'Statements',
      set_name: setName,
      options: optionsDocument.write(options),
      user_id: act.user.id,
      user_name: act.user.name,
      made_on: act.today,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** A draft as it is changed. */
interface Draft {
  id: number;
  kind: PieceKind;
  householdId: number;
  patientId: number | null;
  joined: number[];
  number: number | null;
  options: StatementOptions;
  note: string;
  dueDate: CalendarDate | null;
}

/** Pieces that are still drafts, locked. @throws Refused when one of them is not, naming it */
async function lockDrafts(tx: Tx, pieceIds: readonly number[]): Promise<Draft[]> {
  const rows = await tx
    .selectFrom('mail_piece')
    .select([
      'id',
      'kind',
      'household_id as householdId',
      'patient_id as patientId',
      'joined',
      'number',
      'status',
      'options',
      'note',
      'due_asked as dueDate',
    ])
    .where('id', 'in', [...pieceIds])
    .orderBy('id')
    .forUpdate()
    .execute();
  const other = rows.find(({ status }) => status !== 'draft');
  if (rows.length < new Set(pieceIds).size) throw new Refused('unknown', 'There is no such piece');
  if (other)
    throw new Refused('nothing', `Number ${other.number ?? '–'} is no draft any more: it is ${other.status}`);
  return rows.map(({ status: _, options, ...row }) => ({ ...row, options: optionsDocument.read(options) }));
}

/** Puts drafts together anew from the books. */
async function compose(act: Act, every: readonly Draft[]): Promise<void> {
  const policies = await readPolicies(act.db);
  const drafts = every.filter(({ kind }) => kind === 'statement');
  await composeLetters(
    act,
    every.filter(({ kind }) => kind === 'letter').map(({ id }) => id),
  );
  const asked = drafts.map((draft) => ({
    ...draft,
    dueDate: draft.dueDate ?? undefined,
    due: draft.dueDate,
  }));
  for await (const chunk of contentsInChunks(act, policies, asked))
    for (const [{ id, note, due }, content] of chunk)
      await act.db
        .updateTable('mail_piece')
        .set({ ...draftColumns(content), note, due_asked: due, why: '' })
        .where('id', '=', id)
        .execute();
}

/** Changes drafts: delivery, words for the patient, until when to pay, how far back. What is absent stays. */
export const editPieces = useCase({
  name: 'edit pieces',
  permission: 'prepare statements',
  input: editInput,
  async run(act, { pieceIds, delivery, note, dueDate, options }) {
    if (dueDate && dueDate < act.today) throw new Refused('date', 'The date to pay by is past', 'dueDate');
    const drafts = await lockDrafts(act.db, pieceIds);
    if (
      drafts.some(({ kind }) => kind === 'letter') &&
      (note !== undefined || dueDate !== undefined || options)
    )
      throw new Refused('state', 'A letter’s words are its template’s: only how it goes can be changed here');
    if (delivery)
      await act.db.updateTable('mail_piece').set({ delivery }).where('id', 'in', pieceIds).execute();
    await compose(
      act,
      drafts.map((draft) => ({
        ...draft,
        options: { ...draft.options, ...options },
        note: note ?? draft.note,
        dueDate: dueDate === undefined ? draft.dueDate : dueDate || null,
      })),
    );
    await act.note('changed', { kind: 'mail pieces', id: pieceIds[0]! }, { pieces: pieceIds.length });
    return pieceIds.length;
  },
});

/** Makes drafts, and papers that are not out yet, anew from the books as they are now; they are drafts then. */
export const refreshPieces = useCase({
  name: 'refresh pieces',
  permission: 'prepare statements',
  input: refreshInput,
  async run(act, { pieceIds }) {
    // A paper that was made and is not out is a draft again.
    await act.db
      .updateTable('mail_piece')
      .set(toDraft(''))
      .where('id', 'in', pieceIds)
      .where('status', '=', 'made')
      .where('sent_at', 'is', null)
      .execute();
    await compose(act, await lockDrafts(act.db, pieceIds));
    return pieceIds.length;
  },
});

/** Takes pieces out that are not out yet, for a stated reason. */
export const takeOutPieces = useCase({
  name: 'take out pieces',
  permission: 'prepare statements',
  input: takeOutInput,
  async run(act, { pieceIds, why }) {
    const { numUpdatedRows } = await act.db
      .updateTable('mail_piece')
      .set({ status: 'taken-out', why })
      .where('id', 'in', pieceIds)
      .where('sent_at', 'is', null)
      .where('status', 'in', ['draft', 'made', 'failed'])
      .executeTakeFirst();
    if (numUpdatedRows === 0n) throw new Refused('already', 'These are out already, or were taken out');
    await act.note(
      'took out',
      { kind: 'mail pieces', id: pieceIds[0]! },
      { pieces: Number(numUpdatedRows), why },
    );
    return Number(numUpdatedRows);
  },
});

/** Puts pieces back that were taken out, made anew. */
export const putBackPieces = useCase({
  name: 'put back pieces',
  permission: 'prepare statements',
  input: putBackInput,
  async run(act, { pieceIds }) {
    const asked = await act.db
      .selectFrom('mail_piece')
      .select(['household_id', 'joined'])
      .where('id', 'in', pieceIds)
      .execute();
    await lockHouseholds(
      act.db,
      asked.flatMap(({ household_id, joined }) => [household_id, ...joined]),
    );
    const rows = await act.db
      .selectFrom('mail_piece as p')
      .select(['p.id', 'p.number'])
      .where('p.id', 'in', pieceIds)
      .where('p.status', '=', 'taken-out')
      .where(({ exists, selectFrom }) =>
        exists(
          selectFrom('mail_piece as o')
            .select('o.id')
            .where(
              sql<boolean>`
                (array[o.household_id] || o.joined) && (array[p.household_id] || p.joined)
                  and o.patient_id is not distinct from p.patient_id`,
            )
            .whereRef('o.kind', '=', 'p.kind')
            .where('o.delivery', '<>', 'in-person')
            .where('o.status', 'in', ['draft', 'made', 'failed']),
        ),
      )
      .execute();
    if (rows.length > 0)
      throw new Refused(
        'state',
        `${counted(rows.length, 'household has', 'households have')} another piece that is not out yet: number ${rows[0]!.number ?? '–'}`,
      );
    const { numUpdatedRows } = await act.db
      .updateTable('mail_piece')
      // Its paper, if one was made, is made anew.
      .set({ status: 'draft', why: '', document: null, pages: null })
      .where('id', 'in', pieceIds)
      .where('status', '=', 'taken-out')
      .executeTakeFirst();
    if (numUpdatedRows === 0n) throw new Refused('state', 'None of these was taken out');
    const back = await act.db
      .selectFrom('mail_piece')
      .select('id')
      .where('id', 'in', pieceIds)
      .where('status', '=', 'draft')
      .execute();
    await compose(
      act,
      await lockDrafts(
        act.db,
        back.map(({ id }) => id),
      ),
    );
    await act.note('put back', { kind: 'mail pieces', id: pieceIds[0]! }, { pieces: back.length });
    return back.length;
  },
});

/** Adds a household to a batch, whatever the rows said; what stops statements still stops them. */
export const addHousehold = useCase({
  name: 'add to batch',
  permission: 'prepare statements',
  input: addInput,
  async run(act, { batchId, householdId }) {
    await lockHouseholds(act.db, [householdId]);
    const batch = await act.db
      .selectFrom('mail_batch')
      .select(['id', 'kind', 'options'])
      .where('id', '=', batchId)
      .forUpdate()
      .executeTakeFirst();
    if (!batch) throw new Refused('unknown', 'There is no such batch');
    if (batch.kind === 'letter')
      throw new Refused('state', 'Letters are prepared from the list of what is overdue, not added here');
    const { weighed, policies } = await weighHouseholds(act, { rows: [] }, [householdId]);
    if (weighed.length === 0)
      throw new Refused('unknown', 'There is no such account, or nothing was ever charged on it');
    // What goes to a confidential address is a piece of its own.
    const fit = weighed.filter((one) => against(one).length === 0);
    if (fit.length === 0) throw new Refused('state', `It gets none: ${weighed.flatMap(against).join('; ')}`);
    const options = optionsDocument.read(batch.options);
    const contents = await readContents(
      act,
      policies,
      fit.map(({ facts }) => ({ householdId, patientId: facts.patientId, options })),
    );
    let id = 0;
    for (const [index, { facts }] of fit.entries())
      ({ id } = await act.db
        .insertInto('mail_piece')
        .values({
          batch_id: batchId,
          number: sql<number>`(select coalesce(max(number), 0) + 1 from mail_piece where batch_id = ${batchId})`,
          household_id: householdId,
          patient_id: facts.patientId,
          delivery: facts.delivery as 'mail' | 'print-shop' | 'email',
          ...draftColumns(contents[index]!),
        })
        .returning('id')
        .executeTakeFirstOrThrow());
    await act.note('added', { kind: 'mail piece', id });
    return id;
  },
});

/** Why one is not added, whatever the rows: an amount below the policy’s least does not count. */
const against = ({ in: taken, reasons }: Weighed): string[] =>
  taken ? [] : reasons.filter(({ id }) => id !== 'below-least').map(({ words }) => words);
