'use server';
/** What is done at the plans station. */
import { acceptPlan, cancelPlan, proposePlan, quotePlan } from '../../../server/plans/agree';
import { collectInstallments } from '../../../server/payments/collect';
import type { Asks, InputOf } from '../../../server/use-case';
import { ask, perform } from '../../session';

/** What a plan would be. */
export const quoteAction = async (input: Asks<typeof quotePlan>) =>
  ask((context) => quotePlan(context, input));
/** Proposes a plan. @returns its id */
export const proposeAction = async (input: InputOf<typeof proposePlan>) => perform(proposePlan, input);
/** Accepts a proposed plan with its signature. */
export const acceptAction = async (input: InputOf<typeof acceptPlan>) => perform(acceptPlan, input);
/** Cancels a plan; what is open is the patient's again. */
export const cancelAction = async (input: InputOf<typeof cancelPlan>) => perform(cancelPlan, input);
/** Takes installments, line by line. */
export const collectAction = async (input: InputOf<typeof collectInstallments>) =>
  perform(collectInstallments, input);
