/** Reading kept statements. */
import { type StatementContent, statementDocument } from '../../core/statements/document';
import { type Context, Refused, allow, audit } from '../access';

/** A kept statement, as it was sent. */
export async function readStatement(
  context: Context,
  statementId: number,
): Promise<StatementContent & { id: number; householdId: number }> {
  allow(context, 'read accounts');
  const row = await context.db
    .selectFrom('statement')
    .select(['id', 'household_id', 'content'])
    .where('id', '=', statementId)
    .executeTakeFirst();
  if (!row) throw new Refused('There is no such statement');
  await audit(context.db, context, 'read', { kind: 'statement', id: statementId });
  return { ...statementDocument.read(row.content), id: row.id, householdId: row.household_id };
}
