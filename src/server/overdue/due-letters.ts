/** Letters that are due, begun as one batch whose drafts are prepared in the background. */
import type { z } from 'zod';
import { formatDate } from '../../core/calendar';
import { draftLettersInput } from '../../core/overdue/input';
import { PLAIN_OPTIONS, optionsDocument } from '../../core/statements/document';
import { type Context, Refused } from '../access';
import { finishDrafting } from '../jobs/run';
import { startWork, workSize } from '../jobs/work';
import { useCase } from '../use-case';
import { type LettersWeighed, weighLetters } from './letter-drafts';

/** A batch of letters that was begun: so many as are planned, and who was left out with the reason. */
export interface BegunLetters extends Pick<LettersWeighed, 'left'> {
  batchId: number;
  workId: number;
  pieces: number;
}

/** Begins a batch of the letters that are due, of everybody or of those named. */
export const startLetters = useCase({
  name: 'draft letters',
  permission: 'work overdue',
  input: draftLettersInput,
  once: (data) => data.key,
  async run(act, { householdIds }): Promise<BegunLetters> {
    const { left } = await weighLetters(act, householdIds);
    const { id: batchId } = await act.db
      .insertInto('mail_batch')
      .values({
        kind: 'letter',
        title: `Letters of ${formatDate(act.today)}`,
        options: optionsDocument.write(PLAIN_OPTIONS),
        user_id: act.user.id,
        user_name: act.user.name,
        made_on: act.today,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const workId = await startWork(act, 'draft batch', { batchId, kind: 'letter', householdIds });
    if (workId === null) {
      const [first] = left;
      throw new Refused(
        'state',
        first
          ? `Nobody gets a letter now: ${first.account}: ${first.why}${left.length > 1 ? ` (and ${left.length - 1} more)` : ''}`
          : 'Nobody gets a letter now',
      );
    }
    const pieces = await workSize(act.db, workId);
    await act.note('began letters', { kind: 'mail batch', id: batchId }, { pieces });
    return { batchId, workId, pieces, left };
  },
});

/** What was prepared, and who was left out with the reason. */
export interface DraftedLetters extends Pick<LettersWeighed, 'left'> {
  batchId: number;
  pieces: number;
}

/** Prepares letters and waits until their drafts are there, for whoever has no page to watch them on. */
export async function draftLetters(
  context: Context,
  input: z.input<typeof draftLettersInput>,
): Promise<DraftedLetters> {
  const { batchId, workId, left } = await startLetters(context, input);
  return { batchId, pieces: await finishDrafting(context.db, batchId, workId), left };
}
