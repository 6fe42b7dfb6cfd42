/** What is done with pieces whose paper stands: printed ones are out, others are handed over once more, or do not count. */
import { batchInput, printedInput, voidInput } from '../../core/statements/input';
import { Refused } from '../access';
import { sendPieces, voidThese } from '../mail/pieces';
import { useCase } from '../use-case';
import { packParcel, sendMessage, sendParcel, sendParcels } from './handing-over';
import { piecesWithin, toPrint } from './sending';

/** Says that pieces were printed and mailed, from one number to another. @returns how many are out now */
export const confirmPrinted = useCase({
  name: 'confirm printed',
  permission: 'prepare statements',
  input: printedInput,
  async run(act, input) {
    const pieces = await toPrint(act.db, input, input.cameBack ? 'back' : 'waiting')
      .select('id')
      .execute();
    if (pieces.length === 0)
      throw new Refused(
        input.cameBack ? 'Nothing of these came back' : 'Nothing of these waits to be printed',
      );
    const sent = await sendPieces(
      act.db,
      act,
      pieces.map(({ id }) => id),
      'printed',
    );
    await act.note('printed', { kind: 'mail batch', id: input.batchId }, { pieces: sent });
    return sent;
  },
});

/**
 * Hands the same pieces over once more, under the same ids: those of the print shop in a new parcel, e-mails as the same
 * message. Whoever has one already does not take it twice. @returns how many
 */
export const sendAgain = useCase({
  name: 'send again',
  permission: 'prepare statements',
  input: batchInput,
  async run(act, input) {
    const pieces = await piecesWithin(act.db, input)
      .select(['id', 'delivery'])
      .where('status', 'in', ['sent', 'failed'])
      .where('document', 'is not', null)
      .where('delivery', 'in', ['print-shop', 'email'])
      .execute();
    if (pieces.length === 0) throw new Refused('Nothing of these went by print shop or e-mail');
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
    if (pieces.length === 0) throw new Refused('There is no such piece');
    if (other)
      throw new Refused(
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
