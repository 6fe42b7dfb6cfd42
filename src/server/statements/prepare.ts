/** One household's statement at once: put together from the books, kept as it is, and handed over. */
import {
  PLAIN_OPTIONS,
  type StatementContent,
  sameMoney,
  statementDocument,
} from '../../core/statements/document';
import { statementInput } from '../../core/statements/input';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { keepDocument, sendPieces } from '../mail/pieces';
import { useCase } from '../use-case';
import { readContents } from './content';
import { draftColumns } from './drafting';
import { statementPdf } from './pdf';
import { readPolicies } from './policies';

/** Prepares a statement, keeps it and says that it was handed over. @returns its id */
export const prepareStatement = useCase({
  name: 'prepare statement',
  permission: 'send statements',
  input: statementInput,
  once: (data) => data.key,
  async run(act, { householdId, patientId }) {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const [content] = (await readContents(act, await readPolicies(tx), [
      { householdId, patientId, options: PLAIN_OPTIONS },
    ])) as [StatementContent];
    if (content.owed <= 0) throw new Refused('Nothing is owed by the patient now: there is nothing to send');
    // The same statement of the same day is one, wherever it was asked for.
    const before = await tx
      .selectFrom('statement as s')
      .innerJoin('mail_piece as p', 'p.id', 's.piece_id')
      .select(['s.id', 'p.content'])
      .where('s.household_id', '=', householdId)
      .where('s.patient_id', 'is not distinct from', patientId)
      .where('s.date', '=', act.today)
      .where('p.delivery', '=', 'in-person')
      .where('p.status', '=', 'sent')
      .orderBy('s.id', 'desc')
      .executeTakeFirst();
    if (before && sameMoney(statementDocument.read(before.content), content)) return before.id;
    const printed = await statementPdf(content);
    const { id: pieceId } = await tx
      .insertInto('mail_piece')
      .values({
        household_id: householdId,
        patient_id: patientId,
        delivery: 'in-person',
        ...draftColumns(content),
        status: 'made',
        document: await keepDocument(tx, printed),
        pages: printed.pages,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await sendPieces(tx, act, [pieceId], 'handed over');
    const { id } = await tx
      .selectFrom('statement')
      .select('id')
      .where('piece_id', '=', pieceId)
      .executeTakeFirstOrThrow();
    await act.note('prepared', { kind: 'statement', id });
    return id;
  },
});
