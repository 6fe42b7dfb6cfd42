/** Files of collection agencies: what they say of placements, and their monthly statements. */
import { readFile } from 'node:fs/promises';
import { addDays } from '../../core/calendar';
import { counted } from '../../core/words';
import { formatMoneyPlain } from '../../core/money';
import {
  AGENCY_ANSWERS,
  type AgencyAnswer,
  BrokenAgencyFile,
  PLACEMENT_STATES,
  WITH_AGENCY,
  compareStatement,
  feeOf,
  isAgencyAnswers,
  isAgencyStatement,
  readAgencyAnswers,
  readAgencyStatement,
} from '../../core/overdue/agency';
import {
  agencyLinesDocument,
  bookAgencyPayment,
  endPlacement,
  lockPlacement,
  notePlacement,
  placementsOfAgency,
  readOverduePolicy,
} from '../overdue/door';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { noteBeside } from '../notes/notes';
import { lockHouseholds } from '../books/journal';
import type { FileKind, IncomingFile } from './kind';
import { BrokenFile, type Outcome } from '../outcome';

async function parsed<T>(path: string, read: (text: string) => T): Promise<T> {
  try {
    return read(await readFile(path, 'utf8'));
  } catch (error) {
    if (error instanceof BrokenAgencyFile) throw new BrokenFile(error.message);
    throw error;
  }
}

/** The agency whose inbox a file came through. @throws BrokenFile when it came another way */
async function agencyOf(tx: Tx, file: IncomingFile): Promise<number> {
  const connection = file.connectionId
    ? await tx
        .selectFrom('connection')
        .select(['id', 'kind'])
        .where('id', '=', file.connectionId)
        .executeTakeFirst()
    : undefined;
  if (connection?.kind !== 'agency')
    throw new BrokenFile('What an agency says is taken through the inbox of the agency that says it');
  return connection.id;
}

/** Somebody has to look at a placement. */
const followUp = (
  tx: Tx,
  context: Context,
  placement: { household_id: number; number: string },
  words: string,
  key: string,
) =>
  tx
    .insertInto('follow_up')
    .values({
      kind: 'agency',
      household_id: placement.household_id,
      words: `${placement.number}: ${words}`.slice(0, 300),
      due_date: addDays(context.today, 3),
      key: `agency:${key}`.slice(0, 300),
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();

/** What agencies say of placements. */
export const agencyAnswers: FileKind = {
  connections: ['agency'],
  recognizes: isAgencyAnswers,
  async check(path) {
    await parsed(path, readAgencyAnswers);
    return 'answers of an agency';
  },
  async apply(tx: Tx, context: Context, file): Promise<Outcome[]> {
    const answers = await parsed(file.path, readAgencyAnswers);
    const agency = await agencyOf(tx, file);
    const placements = await tx
      .selectFrom('placement')
      .select(['id', 'number', 'household_id'])
      .where('connection_id', '=', agency)
      .where('number', 'in', ['', ...answers.map(({ placement }) => placement)])
      .execute();
    await lockHouseholds(
      tx,
      placements.map(({ household_id }) => household_id),
    );
    const outcomes: Outcome[] = [];
    for (const answer of answers) {
      const found = placements.find(({ number }) => number === answer.placement);
      const say = (result: Outcome['result'], why: string): void =>
        void outcomes.push({
          kind: 'agency',
          trace: answer.placement,
          amount: answer.gross === 0 ? null : answer.gross,
          result,
          why,
        });
      if (!found) {
        say('refused', 'no placement of this number is with them');
        continue;
      }
      try {
        say('posted', await applyAnswer(tx, context, found.id, answer));
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        await followUp(
          tx,
          context,
          found,
          error.message,
          `${found.id}:${answer.result}:${answer.reference}:${answer.date}`,
        );
        say('refused', error.message);
      }
    }
    return outcomes;
  },
};

/** Applies one answer; said again, it changes nothing more. @returns words of what was done @throws Refused when it cannot be so */
async function applyAnswer(
  tx: Tx,
  context: Context,
  placementId: number,
  answer: AgencyAnswer,
): Promise<string> {
  const placement = await lockPlacement(tx, placementId);
  const { result } = answer;
  const words = answer.words ? `: ${answer.words}` : '';
  if (result === 'payment') {
    const contract = feeOf(answer.gross, placement.contingency);
    if (answer.fee !== contract)
      throw new Refused(
        'state',
        `the fee of payment ${answer.reference} is ${formatMoneyPlain(answer.fee)}, by the contract ${formatMoneyPlain(contract)}: book it by hand, or ask them`,
        { facts: { fee: answer.fee, contract } },
      );
    return bookAgencyPayment(tx, context, placement, { ...answer, paidOn: answer.date });
  }
  const ends = { refused: 'refused', returned: 'returned', bankrupt: 'returned' } as const;
  if (result === 'accepted') {
    if (placement.status === 'accepted') return 'said before';
    if (placement.status !== 'placed')
      throw new Refused('state', `it is ${PLACEMENT_STATES[placement.status]}, they say accepted`);
    await tx.updateTable('placement').set({ status: 'accepted' }).where('id', '=', placementId).execute();
    await notePlacement(tx, context, placementId, 'accepted', { words: answer.words });
    return AGENCY_ANSWERS.accepted;
  }
  if (!WITH_AGENCY.includes(placement.status)) {
    if (result !== 'disputed' && placement.status === ends[result]) return 'said before';
    throw new Refused(
      'state',
      `it is ${PLACEMENT_STATES[placement.status]}, they say ${AGENCY_ANSWERS[result]}`,
    );
  }
  if (result === 'disputed') {
    if (placement.disputed) return 'said before';
    await tx.updateTable('placement').set({ disputed: true }).where('id', '=', placementId).execute();
    await notePlacement(tx, context, placementId, 'disputed', { words: answer.words });
    await followUp(tx, context, placement, `disputed with the agency${words}`, `${placementId}:disputed`);
    return AGENCY_ANSWERS.disputed;
  }
  if (result === 'refused' && placement.status === 'accepted')
    throw new Refused('state', 'it was accepted before, they say refused');
  const back = await endPlacement(tx, context, placement, ends[result], `${AGENCY_ANSWERS[result]}${words}`);
  await followUp(
    tx,
    context,
    placement,
    `${AGENCY_ANSWERS[result]}${words}; ${formatMoneyPlain(back)} is to be decided about`,
    `${placementId}:${result}`,
  );
  if (result === 'bankrupt') await stopBankrupt(tx, context, placement);
  return `${AGENCY_ANSWERS[result]}: ${formatMoneyPlain(back)} came back`;
}

/** Stops an account whose debtor is bankrupt, as the policy's reason says; without one nothing is stopped. */
async function stopBankrupt(
  tx: Tx,
  context: Context,
  placement: { household_id: number; number: string },
): Promise<void> {
  const { bankruptReason } = await readOverduePolicy(tx);
  if (bankruptReason === null) return;
  const set = await tx
    .insertInto('account_stop')
    .values({
      household_id: placement.household_id,
      reason_id: bankruptReason,
      since: context.today,
      user_name: context.user.name,
    })
    .onConflict((conflict) => conflict.doNothing())
    .returning('id')
    .executeTakeFirst();
  if (!set) return;
  const beside = { stop_id: set.id, household_id: placement.household_id };
  await noteBeside({ ...context, db: tx }, beside, `the agency says so (${placement.number})`);
}

/** Monthly statements of agencies, kept and compared with our books. */
export const agencyStatements: FileKind = {
  connections: ['agency'],
  recognizes: isAgencyStatement,
  async check(path) {
    await parsed(path, readAgencyStatement);
    return 'statement of an agency';
  },
  async apply(tx: Tx, context: Context, file): Promise<Outcome[]> {
    const lines = await parsed(file.path, readAgencyStatement);
    const agency = await agencyOf(tx, file);
    await tx
      .insertInto('agency_statement')
      .values({
        connection_id: agency,
        file_id: file.fileId,
        received_on: context.today,
        lines: agencyLinesDocument.write(lines),
      })
      .execute();
    const differences = compareStatement(lines, await placementsOfAgency(tx, agency, context.today));
    return [
      {
        kind: 'agency statement',
        trace: file.name.slice(0, 60),
        amount: null,
        result: differences.length === 0 ? 'posted' : 'held',
        why:
          differences.length === 0
            ? 'agrees with our books'
            : `${counted(differences.length, 'difference')}, ${differences
                .slice(0, 3)
                .map(({ placement, column }) => `${placement} (${column})`)
                .join(', ')}`,
      },
    ];
  },
};
