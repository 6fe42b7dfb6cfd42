/** What is weighed again when pieces leave that were made before: whether they may still go, and whether they say what is so now. */
import { formatMoneyPlain } from '../../core/money';
import { dueTogether, optionsDocument, sameMoney, statementDocument } from '../../core/statements/document';
import { counted } from '../../core/words';
import type { Context } from '../access';
import { letterAgainst } from '../overdue/door';
import { readContents, weighHouseholds } from '../statements/door';

/** A piece that is not as it was made, and why, in one line. */
export interface NotAsMade {
  id: number;
  words: string;
}

/** Statements that are put together at once. */
const CHUNK = 200;
/** What does not keep a piece from leaving that was made: that it is made, and an amount that somebody wanted sent all the same. */
const LEAVES: ReadonlySet<string> = new Set(['open-piece', 'below-least', 'credit', 'everybody']);

/** Which of pieces are not as they were made, in the order of their numbers. */
export async function notAsMade(context: Context, pieceIds: readonly number[]): Promise<NotAsMade[]> {
  const found: NotAsMade[] = [];
  for (let at = 0; at < pieceIds.length; at += CHUNK) {
    const pieces = await context.db
      .selectFrom('mail_piece as p')
      .innerJoin('household as h', 'h.id', 'p.household_id')
      .select([
        'p.id',
        'p.number',
        'p.kind',
        'p.household_id',
        'p.patient_id',
        'p.joined',
        'p.options',
        'p.note',
      ])
      .select(['p.content', 'p.due_asked', 'p.sent_at', 'h.number as account'])
      .where('p.id', 'in', pieceIds.slice(at, at + CHUNK))
      .orderBy('p.number')
      .execute();
    const statements = pieces.filter(({ kind }) => kind === 'statement');
    const against = await againstStatements(context, statements);
    const contents =
      statements.length === 0
        ? []
        : await readContents(
            context,
            against.policies,
            statements
              .filter((piece) => against.of(piece) === '')
              .map((piece) => ({
                householdId: piece.household_id,
                patientId: piece.patient_id,
                joined: piece.joined,
                options: optionsDocument.read(piece.options),
                note: piece.note,
                dueDate: piece.due_asked ?? undefined,
              })),
          );
    for (const piece of pieces) {
      let words = '';
      if (piece.kind === 'letter') words = await letterAgainst(context, piece);
      else {
        words = against.of(piece);
        if (words === '') {
          const [before, now] = [statementDocument.read(piece.content), contents.shift()!];
          if (!sameMoney(before, now))
            words = `${formatMoneyPlain(dueTogether(before))} then, ${formatMoneyPlain(dueTogether(now))} now`;
        }
      }
      if (words !== '')
        found.push({ id: piece.id, words: `No. ${piece.number ?? '–'}, ${piece.account}: ${words}` });
    }
  }
  return found;
}

/** Why statements of households are not to go out now; empty where nothing speaks against it. */
async function againstStatements(
  context: Context,
  pieces: readonly { household_id: number; patient_id: number | null; joined: readonly number[] }[],
) {
  const ids = [...new Set(pieces.flatMap(({ household_id, joined }) => [household_id, ...joined]))];
  const { weighed, policies } = await weighHouseholds(context, { rows: [] }, ids);
  const key = (householdId: number, patientId: number | null): string => `${householdId}/${patientId ?? 0}`;
  const reasons = new Map(
    weighed.map(({ facts, reasons: all }) => [
      key(facts.householdId, facts.patientId),
      all.filter(({ id }) => !LEAVES.has(id)).map(({ words }) => words),
    ]),
  );
  return {
    policies,
    of: ({ household_id, patient_id, joined }: (typeof pieces)[number]): string =>
      [
        ...(reasons.get(key(household_id, patient_id)) ?? ['nothing of it is there any more']),
        ...joined.flatMap((id) => reasons.get(key(id, null)) ?? []),
      ].join('; '),
  };
}

/** So many are named when a person is asked; the rest is counted. */
const NAMED = 5;

/** What of pieces is not as it was made, for a person who decides whether they go all the same. */
export const inDoubt = (found: readonly NotAsMade[]): string[] =>
  found.length === 0
    ? []
    : [
        `${counted(found.length, 'piece is', 'pieces are')} not as made: ${found
          .slice(0, NAMED)
          .map(({ words }) => words)
          .join('; ')}${found.length > NAMED ? `; and ${found.length - NAMED} more` : ''}`,
      ];
