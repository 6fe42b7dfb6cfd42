/** One household's statement: prepared from the books, kept as it was sent, printed as PDF. */
import type { CalendarDate } from '../../core/calendar';
import { addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Aging } from '../../core/statements/aging';
import type { ChargeStory } from '../../core/statements/story';
import { type Context, Refused, allow, audit } from '../access';
import { lockHouseholds } from '../books/journal';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../accounts/read';

/** What a statement says; kept with it. Amounts in cents. */
export interface StatementContent {
  practice: { name: string; line1: string; city: string; state: string; zip: string; phone: string };
  account: string;
  to: { name: string; line1: string; line2: string; city: string; state: string; zip: string };
  date: CalendarDate;
  dueDate: CalendarDate;
  amount: Cents;
  aging: Aging;
  charges: ChargeStory[];
  closing: string;
}

/** Prepares and keeps a statement. The same key prepares it once. @returns its id */
export async function prepareStatement(context: Context, householdId: number, key: string): Promise<number> {
  allow(context, 'send statements');
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('Enter the practice in Setup first');
  return context.db.transaction().execute(async (tx) => {
    await lockHouseholds(tx, [householdId]);
    const before = await tx.selectFrom('statement').select('id').where('key', '=', key).executeTakeFirst();
    if (before) return before.id;
    const inside = { ...context, db: tx };
    const page = await readAccount(inside, householdId);
    if (page.figures.withPatient <= 0)
      throw new Refused('Nothing is owed by the patient now: there is nothing to send');
    const story = await readStory(inside, householdId);
    const { household: h } = page;
    const dueDate = addDays(context.today, practice.statement_due_days);
    const content: StatementContent = {
      practice: {
        name: practice.name,
        line1: practice.line1,
        city: practice.city,
        state: practice.state,
        zip: practice.zip,
        phone: practice.phone,
      },
      account: h.number,
      to: {
        name: `${h.first} ${h.last}`,
        line1: h.line1,
        line2: h.line2,
        city: h.city,
        state: h.state,
        zip: h.zip,
      },
      date: context.today,
      dueDate,
      amount: page.figures.withPatient,
      aging: page.aging,
      charges: story.charges,
      closing: story.closing,
    };
    const { id } = await tx
      .insertInto('statement')
      .values({
        household_id: householdId,
        date: context.today,
        due_date: dueDate,
        amount: content.amount,
        content: JSON.stringify(content),
        user_id: context.user.id,
        key,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await audit(tx, context, 'prepared', { kind: 'statement', id });
    return id;
  });
}

/** A kept statement. */
export async function readStatement(
  context: Context,
  statementId: number,
): Promise<StatementContent & { id: number; householdId: number }> {
  allow(context, 'read accounts');
  const row = await context.db
    .selectFrom('statement')
    .selectAll()
    .where('id', '=', statementId)
    .executeTakeFirst();
  if (!row) throw new Refused('There is no such statement');
  await audit(context.db, context, 'read', { kind: 'statement', id: statementId });
  return { ...(row.content as StatementContent), id: row.id, householdId: row.household_id };
}
