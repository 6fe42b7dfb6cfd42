'use server';
/** What is done with what policies cover. */
import { dropOwnRule, estimateVisit, sayOwnRule } from '../../../server/estimates/terms';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** Estimates a visit of one's choice, by what is being typed. */
export const visitAction = async (input: Asks<typeof estimateVisit>) =>
  ask((context) => estimateVisit(context, input));
/** Writes what one person's policy says otherwise than its plan. */
export const sayOwnRuleAction = async (input: InputOf<typeof sayOwnRule>) => perform(sayOwnRule, input);
/** Takes it back. */
export const dropOwnRuleAction = async (input: InputOf<typeof dropOwnRule>) => perform(dropOwnRule, input);
