'use server';
/** What is done in Setup. */
import { z } from 'zod';
import { parseInput } from '../../../server/input';
import { bringLimits } from '../../../server/claims/limits';
import { bringDormancy } from '../../../server/payments/unclaimed';
import { bringCombinations } from '../../../server/remittances/combinations';
import { lookedAtCode } from '../../../server/setup/added';
import { mergePayers } from '../../../server/setup/merge-payers';
import { rowHistory } from '../../../server/setup/read';
import { addSetupRows, saveSetup } from '../../../server/setup/save';
import type { InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Adds or changes a row of a setup table. @returns the row’s key */
export const saveSetupAction = async (input: InputOf<typeof saveSetup>) => perform(saveSetup, input);

/** Adds several rows at once, all or none. @returns how many */
export const addRowsAction = async (input: InputOf<typeof addSetupRows>) => perform(addSetupRows, input);

/** Brings in a table of limits on services as CSV. @returns how many lines it has */
export const bringLimitsAction = async (input: InputOf<typeof bringLimits>) => perform(bringLimits, input);

/** Notes that a code that was added while entering was looked at. */
export const lookedAtAction = async (input: InputOf<typeof lookedAtCode>) => perform(lookedAtCode, input);

/** Merges a payer into another one. */
export const mergePayersAction = async (input: InputOf<typeof mergePayers>) => perform(mergePayers, input);

const rowInput = z.object({ table: z.string().max(40), row: z.string().max(200) });
/** What happened to a row, newest first. */
export const rowHistoryAction = async (input: z.input<typeof rowInput>) =>
  ask(async (context) => {
    const { table, row } = parseInput(rowInput, input);
    const changes = await rowHistory(context, table, row);
    return changes.map((change) => ({ ...change, at: change.at.toISOString() }));
  });
/** Brings in how long credit rests, by state. */
export const bringDormancyAction = async (input: InputOf<typeof bringDormancy>) =>
  perform(bringDormancy, input);
/** Brings in which reasons and remarks go together. */
export const bringCombinationsAction = async (input: InputOf<typeof bringCombinations>) =>
  perform(bringCombinations, input);
