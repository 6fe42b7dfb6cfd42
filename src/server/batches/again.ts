/** What is done with pieces whose paper stands: printed ones are out, others are handed over once more, or do not count. */
import { batchInput, leavingInput, voidInput } from '../../core/statements/input';
import { Refused, lookAgain } from '../access';
import { lockHouseholds } from '../books/journal';
import { sendPieces, voidThese } from '../mail/pieces';
import { type Act, inTransaction, useCase } from '../use-case';
import { packParcel, sendMessage, sendParcel, sendParcels } from './handing-over';
import { inDoubt, notAsMade } from './leaving';
import { sendAnew } from './making';
import { piecesWithin, toPrint } from './sending';

/**
 * Says that pieces were printed and mailed, from one number to another. Of those that are not as they were made a person says
 * whether they went all the same. @returns how many are out now
 */
export const confirmPrinted = useCase({
  name: 'confirm printed',
  permission: 'prepare statements',
  input: leavingInput,
  async run(act, { sure, ...input }) {
    const ids = (await toPrint(act, input, 'waiting').select('id').execute()).map(({ id }) => id);
    if (ids.length === 0) throw new Refused('nothing', 'Nothing of these waits to be printed');
    if (!sure) lookAgain(sure, inDoubt(await notAsMade(act, ids)));
    const sent = await sendPieces(act.db, act, ids, 'printed');
    await act.note('printed', { kind: 'mail batch', id: input.batchId }, { pieces: sent });
    return sent;
  },
});

/**
 * Makes new papers of what came back, to be printed here: dated today, with a new date to pay by. The old ones do not count.
 * @returns how many wait to be printed now, and why others do not
 */
export const printAnew = useCase({
  name: 'print what came back anew',
  permission: 'prepare statements',
  input: batchInput,
  async run(act, input): Promise<{ made: number; left: string[] }> {
    const back = () =>
      piecesWithin(act.db, input)
        .selectAll('mail_piece')
        .where('status', '=', 'failed')
        .where('sent_at', 'is not', null);
    await lockHouseholds(
      act.db,
      (await back().execute()).flatMap(({ household_id, joined }) => [household_id, ...joined]),
    );
    const pieces = await back().forUpdate().execute();
    if (pieces.length === 0) throw new Refused('nothing', 'Nothing of these came back');
    let made = 0;
    const left: string[] = [];
    for (const piece of pieces) {
      const words = await part(act, async (own) => {
        const done = await sendAnew(own, piece, 'mail');
        return done.as === 'made' ? '' : done.words;
      });
      if (words === '') made += 1;
      else left.push(`No. ${piece.number ?? '–'}: ${words}`);
    }
    await act.note('made anew', { kind: 'mail batch', id: input.batchId }, { pieces: made });
    return { made, left };
  },
});

/** Does a part of an act by itself: what is refused of it leaves nothing. @returns what it says, or why it was refused */
async function part(act: Act, run: (own: Act) => Promise<string>): Promise<string> {
  try {
    return await inTransaction(act, run);
  } catch (error) {
    if (error instanceof Refused) return error.message;
    throw error;
  }
}

/**
 * Hands the same pieces over once more, under the same ids: those of the print shop in a new parcel, e-mails as the same
 * message. Whoever has one already does not take it twice; what came back goes out anew instead. @returns how many
 */
export const sendAgain = useCase({
  name: 'send again',
  permission: 'prepare statements',
  input: leavingInput,
  async run(act, { sure, ...input }) {
    const pieces = await piecesWithin(act.db, input)
      .select(['id', 'delivery'])
      .where('status', '=', 'sent')
      .where('document', 'is not', null)
      .where('delivery', 'in', ['print-shop', 'email'])
      .execute();
    if (pieces.length === 0) throw new Refused('nothing', 'Nothing of these went by print shop or e-mail');
    if (!sure)
      lookAgain(
        sure,
        inDoubt(
          await notAsMade(
            act,
            pieces.map(({ id }) => id),
          ),
        ),
      );
    for (const { id, delivery } of pieces) if (delivery === 'email') await sendMessage(act, id, true);
    const papers = pieces.filter(({ delivery }) => delivery === 'print-shop').map(({ id }) => id);
    if (papers.length > 0) {
      await sendParcels(act, input.batchId);
      const parcelId = await packParcel(act, input.batchId, papers);
      if (parcelId !== null) await sendParcel(act, parcelId);
    }
    await act.note('sent again', { kind: 'mail batch', id: input.batchId }, { pieces: pieces.length });
    return pieces.length;
  },
});

/** Says that pieces on paper, or that failed, never reached anybody: they do not count, and the households are free again. */
export const voidPieces = useCase({
  name: 'void pieces',
  permission: 'prepare statements',
  input: voidInput,
  async run(act, { pieceIds, why }) {
    const pieces = await act.db
      .selectFrom('mail_piece')
      .select(['id', 'number', 'status', 'delivery', 'sent_at'])
      .where('id', 'in', pieceIds)
      .orderBy('id')
      .forUpdate()
      .execute();
    const other = pieces.find(
      ({ status, delivery }) =>
        !['made', 'failed', 'sent'].includes(status) || (status === 'sent' && delivery === 'email'),
    );
    if (pieces.length === 0) throw new Refused('unknown', 'There is no such piece');
    if (other)
      throw new Refused(
        'state',
        other.delivery === 'email' && other.status === 'sent'
          ? `Number ${other.number ?? '–'} went by e-mail and did not come back: it counts`
          : `Number ${other.number ?? '–'} is no paper yet: take it out instead`,
      );
    await voidThese(
      act,
      pieces.map(({ id }) => id),
      why,
    );
    await act.note('voided', { kind: 'mail pieces', id: pieces[0]!.id }, { pieces: pieces.length, why });
    return pieces.length;
  },
});
