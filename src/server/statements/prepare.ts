/** One household's statement: prepared from the books and kept as it was sent. */
import { isDeepStrictEqual } from 'node:util';
import { addDays } from '../../core/calendar';
import { type StatementContent, statementDocument } from '../../core/statements/document';
import { statementInput } from '../../core/statements/input';
import { Refused } from '../access';
import { readStory } from '../accounts/ledger';
import { householdAging, householdFigures } from '../books/balances';
import { lockHouseholds } from '../books/journal';
import { useCase } from '../use-case';

/** Prepares and keeps a statement. @returns its id */
export const prepareStatement = useCase({
  name: 'prepare statement',
  permission: 'send statements',
  input: statementInput,
  once: (data) => data.key,
  async run(act, { householdId }) {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const practice = await tx.selectFrom('practice').selectAll().executeTakeFirst();
    if (!practice) throw new Refused('Enter the practice in Setup first');
    const household = await tx
      .selectFrom('household')
      .selectAll()
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const figures = await householdFigures(tx, householdId);
    if (figures.withPatient <= 0)
      throw new Refused('Nothing is owed by the patient now: there is nothing to send');
    const story = await readStory(act, householdId);
    const { name, line1, city, state, zip, phone } = practice;
    const dueDate = addDays(act.today, practice.statement_due_days);
    const content: StatementContent = {
      paper: practice.paper,
      practice: { name, line1, city, state, zip, phone },
      account: household.number,
      to: {
        name: `${household.first} ${household.last}`,
        line1: household.line1,
        line2: household.line2,
        city: household.city,
        state: household.state,
        zip: household.zip,
      },
      date: act.today,
      dueDate,
      amount: figures.withPatient,
      aging: await householdAging(tx, householdId, act.today),
      charges: story.charges,
      closing: story.closing,
    };
    // The same statement of the same day is one, wherever it was asked for.
    const before = await tx
      .selectFrom('statement')
      .select(['id', 'content'])
      .where('household_id', '=', householdId)
      .where('date', '=', act.today)
      .orderBy('id', 'desc')
      .executeTakeFirst();
    if (before && isDeepStrictEqual(statementDocument.read(before.content), content)) return before.id;
    const { id } = await tx
      .insertInto('statement')
      .values({
        household_id: householdId,
        date: act.today,
        due_date: dueDate,
        amount: content.amount,
        content: statementDocument.write(content),
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('prepared', { kind: 'statement', id });
    return id;
  },
});
