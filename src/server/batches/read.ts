/** Reading batches: how far each is, and its pieces in one paper. */
import { sql } from 'kysely';
import { formatDate } from '../../core/calendar';
import {
  type PieceContent,
  type PieceFace,
  PIECE_KINDS,
  type PieceKind,
  faceOf,
  readContent,
} from '../../core/mail/contents';
import type { PieceState } from '../../core/mail/pieces';
import { type Cents, sum } from '../../core/money';
import { paperInput } from '../../core/statements/input';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import { counted } from '../../core/words';
import { type Context, Refused, allow, audit } from '../access';
import { parseInput } from '../input';
import { drawPiece } from '../mail/draw';
import { heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';
import { type NotAsMade, notAsMade } from './leaving';
import { isOpenPiece, piecesWithin, toPrint } from './sending';

/** A batch as its page shows it. `due` in cents, of what is not taken out. */
export interface BatchPage {
  id: number;
  kind: PieceKind;
  title: string;
  by: string;
  madeOn: string;
  counts: Record<PieceState, number>;
  due: Cents;
  /** Pieces that wait to be printed here: the first and the last number. */
  toPrint: { count: number; first: number; last: number } | null;
  /** Those of them that are not as they were made, in words, and are not printed until somebody has looked. */
  notAsMade: NotAsMade[];
  /** The number of the last piece. */
  last: number;
  /** Pieces whose money has changed since they were drafted, of those that are open to who asks. */
  changed: number[];
  /** The newest piece of work that prepares or sends it, while it goes on. */
  workId: number | null;
}

/** Of so many pieces that wait to be printed the page says which are not as they were made. */
const LOOKED_AT = 200;

/** Reads a batch. @throws Refused when it is not there */
export async function readBatch(context: Context, batchId: number): Promise<BatchPage> {
  allow(context, 'read accounts');
  const { db } = context;
  const batch = await db
    .selectFrom('mail_batch')
    .select(['id', 'kind', 'title', 'user_name as by', 'made_on as madeOn'])
    .where('id', '=', batchId)
    .executeTakeFirst();
  if (!batch) throw new Refused('unknown', 'There is no such batch');
  const [rows, work] = await Promise.all([
    db
      .selectFrom('mail_piece')
      .select([
        'id',
        'number',
        'status',
        'delivery',
        'amount',
        sql<Cents>`case when status = 'draft' then piece_due(mail_piece) else amount end`.as('dueNow'),
        isOpenPiece(context).as('open'),
      ])
      .where('batch_id', '=', batchId)
      .orderBy('number')
      .execute(),
    db
      .selectFrom('work')
      .select('id')
      .where('kind', 'in', ['draft batch', 'send batch'])
      .where('status', 'in', ['waiting', 'running', 'stopping'])
      .where('input', '@>', JSON.stringify({ value: { batchId } }) as never)
      .orderBy('id', 'desc')
      .executeTakeFirst(),
  ]);
  await audit(db, context, 'read', { kind: 'mail batch', id: batchId });
  const counts: Record<PieceState, number> = {
    draft: 0,
    'taken-out': 0,
    made: 0,
    sent: 0,
    failed: 0,
    void: 0,
  };
  for (const { status } of rows) counts[status] += 1;
  const print = rows.filter(({ status, delivery, open }) => open && status === 'made' && delivery === 'mail');
  return {
    ...batch,
    // Of many it is looked when they are printed: the page does not wait for it.
    notAsMade:
      print.length > LOOKED_AT
        ? []
        : await notAsMade(
            context,
            print.map(({ id }) => id),
          ),
    counts,
    due: sum(
      rows.filter(({ status }) => status !== 'taken-out' && status !== 'void').map(({ amount }) => amount),
    ),
    toPrint:
      print.length === 0
        ? null
        : { count: print.length, first: print[0]!.number!, last: print.at(-1)!.number! },
    last: rows.at(-1)?.number ?? 0,
    changed: rows.filter((row) => row.open && row.dueNow !== row.amount).map(({ id }) => id),
    workId: work?.id ?? null,
  };
}

/** Batches that have drafts or what failed, oldest first; those of a set where one is named. */
export async function batchesToSend(context: Context, setName?: string): Promise<number[]> {
  allow(context, 'read accounts');
  let query = context.db
    .selectFrom('mail_batch as m')
    .select('m.id')
    .where('m.kind', '=', 'statement')
    .where(({ exists, selectFrom }) =>
      exists(
        selectFrom('mail_piece as p')
          .select('p.id')
          .whereRef('p.batch_id', '=', 'm.id')
          .where('p.status', '=', 'draft'),
      ),
    );
  if (setName !== undefined) query = query.where('m.set_name', '=', setName);
  return (await query.orderBy('m.id').execute()).map(({ id }) => id);
}

/** How many pieces of a batch are in which state, in the words of the command line. */
export async function statesOf(context: Context, batchId: number) {
  const { counts } = await readBatch(context, batchId);
  return {
    sent: counts.sent,
    to_print: counts.made,
    draft: counts.draft,
    failed: counts.failed,
    taken_out: counts['taken-out'],
  };
}

/** Pieces of a batch that are drawn before the event loop has its turn. */
const AT_ONCE = 200;

/**
 * The papers of a batch in mailing order as one PDF, after a list of them; between two numbers where they are given. Each is
 * drawn from what its piece said when it was made. `list: 'only'` leaves it at the list, of all that is not taken out.
 * @throws Refused when it is not there
 */
export async function batchPaper(context: Context, input: unknown): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'prepare statements');
  const ask = parseInput(paperInput, input);
  const { batchId } = ask;
  const batch = await context.db
    .selectFrom('mail_batch')
    .select(['kind', 'title', 'made_on'])
    .where('id', '=', batchId)
    .executeTakeFirst();
  if (!batch) throw new Refused('unknown', 'There is no such batch');
  const asked = ask.list
    ? piecesWithin(context.db, ask).where('status', 'not in', ['taken-out', 'void'])
    : toPrint(context, ask, ask.what);
  const found = await asked.select(['id', 'number', 'amount', 'pages']).execute();
  // What waits to be printed and is not as it was made is looked at first.
  const not = new Set(
    ask.what === 'waiting' && !ask.list
      ? (
          await notAsMade(
            context,
            found.map(({ id }) => id),
          )
        ).map(({ id }) => id)
      : [],
  );
  const rows = found.filter(({ id }) => !not.has(id));
  const [first] = rows;
  if (!first) throw new Refused('unknown', 'There is nothing to print between these numbers');
  await audit(context.db, context, 'printed', { kind: 'mail batch', id: batchId });
  let paper: Paper | undefined;
  for (let at = 0; at < rows.length; at += AT_ONCE) {
    const some = rows.slice(at, at + AT_ONCE);
    const contents = await contentsOf(
      context,
      some.map(({ id }) => id),
    );
    if (!paper) {
      const { paper: size, practice } = faceOf(contents.get(first.id)!);
      paper = await Paper.open(size, batch.title, practice.name);
      await drawList(context, paper, batch, practice, rows);
    }
    if (ask.list) break;
    for (const { id } of some) {
      paper.turn();
      drawPiece(paper, contents.get(id)!);
    }
  }
  return { name: `${batch.kind}s-${batchId}.pdf`, bytes: await paper!.finish() };
}

async function contentsOf(context: Context, ids: readonly number[]): Promise<Map<number, PieceContent>> {
  const rows = await context.db
    .selectFrom('mail_piece')
    .select(['id', 'kind', 'content'])
    .where('id', 'in', [...ids])
    .execute();
  return new Map(rows.map(({ id, kind, content }) => [id, readContent(kind, content)]));
}

/** The list before the papers: what lies in which order, so that a person finds a piece and sees that none is missing. */
async function drawList(
  context: Context,
  paper: Paper,
  { title, kind }: { title: string; kind: PieceKind },
  practice: PieceFace['practice'],
  pieces: readonly { id: number; number: number | null; amount: Cents; pages: number | null }[],
): Promise<void> {
  const names = await context.db
    .selectFrom('mail_piece')
    .innerJoin('household as h', 'h.id', 'mail_piece.household_id')
    .select([
      'mail_piece.id',
      'h.number',
      sql<string>`mail_piece.content -> 'value' -> 'to' ->> 'name'`.as('to'),
      isOpenPiece(context).as('open'),
      sql<number>`cardinality(mail_piece.joined)`.as('more'),
    ])
    .where(
      'mail_piece.id',
      'in',
      pieces.map(({ id }) => id),
    )
    .execute();
  const byPiece = new Map(names.map((row) => [row.id, row]));
  letterhead(paper, practice);
  paper.y += 10;
  heading(paper, title);
  paper.paragraph(
    `${counted(pieces.length, PIECE_KINDS[kind])} in mailing order, ${formatDate(context.today)}`,
    paper.left,
    paper.y,
    paper.width,
    { size: 9, color: 'quiet' },
  );
  paper.y += 6;
  table(
    paper,
    [
      { title: 'No.', share: 0.6, right: true, words: (row) => String(row.number ?? '') },
      {
        title: 'Account',
        share: 1,
        words: (row) => (byPiece.get(row.id)?.open ? byPiece.get(row.id)!.number : ''),
      },
      {
        title: 'To',
        share: 3,
        words: (row) => {
          const to = byPiece.get(row.id);
          return to && !to.open
            ? CLOSED_ACCOUNT
            : to
              ? `${to.to}${to.more > 0 ? ` and ${counted(to.more, 'more account')}` : ''}`
              : '';
        },
      },
      { title: 'Pages', share: 0.6, right: true, words: (row) => String(row.pages ?? '') },
      { title: 'Amount', share: 1.2, amount: (row) => row.amount },
    ],
    pieces,
  );
  paper.foot((page, pages) => `List · page ${page} of ${pages}`);
}
