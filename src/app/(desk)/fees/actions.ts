'use server';
/** What the pages of fee schedules send. */
import { changeFees, undoFees } from '../../../server/fees/change';
import { readFeeHistory } from '../../../server/fees/read';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Changes fees of a schedule. */
export const changeFeesAction = async (input: InputOf<typeof changeFees>) => perform(changeFees, input);
/** Takes a change of fees back. */
export const undoFeesAction = async (input: InputOf<typeof undoFees>) => perform(undoFees, input);
/** The history of one fee. */
export const feeHistoryAction = async (input: Asks<typeof readFeeHistory>) =>
  ask((context) => readFeeHistory(context, input));
