/** Files with answers of print shops and message gateways, a line for each piece. */
import { readFile } from 'node:fs/promises';
import { BrokenAnswers, isAnswers, maySay, readAnswers } from '../../core/mail/answers';
import { type Outside, pieceName, receiptName } from '../../core/mail/pieces';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { lockHouseholds } from '../books/journal';
import { noteOutcome } from '../mail/pieces';
import { noteMessage, receiptsOfMessages } from '../payments/door';
import type { FileKind } from './kind';
import { BrokenFile, type Outcome } from '../outcome';

async function read(path: string) {
  try {
    return readAnswers(await readFile(path, 'utf8'));
  } catch (error) {
    if (error instanceof BrokenAnswers) throw new BrokenFile(error.message);
    throw error;
  }
}

/** What print shops and message gateways say of pieces. */
export const mailAnswers: FileKind = {
  connections: ['print-shop', 'message-gateway'],
  recognizes: isAnswers,
  async check(path) {
    await read(path);
    return 'answers about mail';
  },
  async apply(tx: Tx, context: Context, file): Promise<Outcome[]> {
    const answers = await read(file.path);
    const connection = file.connectionId
      ? await tx
          .selectFrom('connection')
          .select(['id', 'kind'])
          .where('id', '=', file.connectionId)
          .executeTakeFirst()
      : undefined;
    const answerer = connection?.kind;
    if (answerer !== 'print-shop' && answerer !== 'message-gateway')
      throw new BrokenFile(
        'Answers about mail are taken through the inbox of the print shop or message gateway that gives them',
      );
    const idsOf = (kind: Outside): number[] =>
      answers.filter(({ what }) => what === kind).map(({ id }) => id);
    const households = await tx
      .selectFrom('mail_piece')
      .select('household_id')
      .distinct()
      .where('id', 'in', [0, ...idsOf('piece')])
      .execute();
    // Households before pieces, as everybody locks them.
    await lockHouseholds(tx, [
      ...households.map(({ household_id }) => household_id),
      ...(await receiptsOfMessages(tx, idsOf('receipt'))).map(({ householdId }) => householdId),
    ]);
    const outcomes: Outcome[] = [];
    const told = (trace: string, took: boolean, why: string): void =>
      void outcomes.push({
        kind: 'mail',
        trace,
        amount: null,
        result: took ? 'posted' : 'refused',
        why,
      });
    for (const { what, id, result, words } of answers.toSorted((a, b) => a.id - b.id)) {
      if (what === 'receipt') {
        const mayBe = answerer === 'message-gateway' && maySay(answerer, result);
        const noted = mayBe
          ? await noteMessage(tx, context, id, result === 'accepted' ? result : 'bounced', words)
          : null;
        told(
          receiptName(id),
          noted !== null,
          noted ??
            (mayBe ? 'no receipt of this number was handed to them' : `“${result}” is not for them to say`),
        );
        continue;
      }
      const piece = await tx
        .selectFrom('mail_piece as p')
        .leftJoin('mail_parcel as m', 'm.id', 'p.parcel_id')
        .select([
          'p.id',
          'p.household_id',
          'p.patient_id',
          'p.outcome',
          'p.sent_at',
          'p.sent_by',
          'p.status',
          'm.connection_id',
        ])
        .where('p.id', '=', id)
        .forUpdate('p')
        .executeTakeFirst();
      const theirs =
        piece &&
        (answerer === 'print-shop' ? piece.connection_id === connection!.id : piece.sent_by === 'e-mail');
      const say = (took: boolean, why: string): void => told(pieceName(id), took, why);
      if (!theirs || piece.sent_at === null) say(false, 'no piece of this number was handed to them');
      else if (!maySay(answerer, result)) say(false, `“${result}” is not for them to say`);
      else if (piece.status === 'void') say(false, 'the piece is void');
      else say(true, await noteOutcome(tx, context, piece, result, words));
    }
    return outcomes;
  },
};
