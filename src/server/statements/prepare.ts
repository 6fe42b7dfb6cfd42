/** One household's statement at once: put together from the books, kept as it is, and handed over. */
import type { z } from 'zod';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, formatMoneyPlain, minus, sum } from '../../core/money';
import {
  PLAIN_OPTIONS,
  type StatementContent,
  dueTogether,
  installmentsOf,
  optionsDocument,
  sameMoney,
  statementDocument,
} from '../../core/statements/document';
import { previewInput, statementInput } from '../../core/statements/input';
import { type Context, Refused, allow, lookAgain } from '../access';
import { allowOpen, opened } from '../closed';
import { lockHouseholds } from '../books/journal';
import { keepDocument, sendPieces } from '../mail/pieces';
import { parseInput } from '../input';
import { useCase } from '../use-case';
import { weighHouseholds } from './choosing';
import { readContents } from './content';
import { statementPdf } from '../print/statement';
import { readPolicies } from '../setup/statement-policies';

/** The columns of a draft that follow from what it says. */
export const draftColumns = (content: StatementContent) => ({
  amount: dueTogether(content),
  installments: installmentsOf(content),
  date: content.date,
  due_date: content.dueDate,
  options: optionsDocument.write(content.options),
  content: statementDocument.write(content),
});

/** Why there is nothing to send, in words: nothing is owed, or what is open stands elsewhere. */
function nothingToSend({ onPlan, withPayers, sections }: StatementContent): string {
  const atAgency = minus(sum(sections.flatMap(({ lines }) => lines.map((line) => line.elsewhere))), onPlan);
  const elsewhere = [
    onPlan > 0 && `${formatMoneyPlain(onPlan)} is on a payment plan and comes due later`,
    atAgency > 0 && `${formatMoneyPlain(atAgency)} is with an agency`,
    withPayers > 0 && `${formatMoneyPlain(withPayers)} is still with payers`,
  ].filter((one) => one !== false);
  return elsewhere.length === 0
    ? 'Nothing is owed: there is nothing to send'
    : `There is nothing to send now: ${elsewhere.join(', ')}`;
}

/**
 * What a statement of a household, or of a patient with an address apart, would say today.
 * @throws Refused where there is nothing to send
 */
async function contentToday(
  context: Context,
  { householdId, patientId }: { householdId: number; patientId: number | null },
): Promise<StatementContent> {
  const [content] = (await readContents(context, await readPolicies(context.db), [
    { householdId, patientId, options: PLAIN_OPTIONS },
  ])) as [StatementContent];
  if (content.owed <= 0 && content.installments.length === 0)
    throw new Refused('state', nothingToSend(content));
  return content;
}

/** What a statement would ask for, in cents, and until when; nothing is recorded but that it was looked at. */
export async function previewStatement(
  context: Context,
  input: z.input<typeof previewInput>,
): Promise<{ amount: Cents; dueDate: CalendarDate }> {
  allow(context, 'send statements');
  const of = parseInput(previewInput, input);
  await allowOpen(context, of);
  const { amount, dueDate } = await contentToday(context, of);
  return { amount, dueDate };
}

/** The pages of a statement as it would be handed over today. */
export async function previewPages(
  context: Context,
  input: z.input<typeof previewInput>,
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'send statements');
  const of = parseInput(previewInput, input);
  const content = await contentToday(context, of);
  await opened(context, { kind: 'household', id: of.householdId }, 'looked at a statement');
  const { bytes } = await statementPdf(content, 'Not handed over yet');
  return { name: `statement-${content.account}.pdf`, bytes };
}

/** Prepares a statement, keeps it and says that it was handed over. @returns its id */
export const prepareStatement = useCase({
  name: 'prepare statement',
  permission: 'send statements',
  input: statementInput,
  once: (data) => data.key,
  async run(act, { householdId, patientId, sure }) {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const content = await contentToday(act, { householdId, patientId });
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
    const [weighed] = (await weighHouseholds(act, { rows: [] }, [householdId])).weighed.filter(
      ({ facts }) => facts.patientId === patientId,
    );
    lookAgain(
      sure,
      weighed?.reasons.filter(({ id }) => id === 'above-estimate').map(({ words }) => words) ?? [],
    );
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
