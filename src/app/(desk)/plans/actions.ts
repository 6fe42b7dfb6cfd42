'use server';
/** What is done at the plans station. */
import { acceptPlan, cancelPlan, proposePlan, quotePlan } from '../../../server/plans/agree';
import { collectInstallments } from '../../../server/plans/collect';
import { ask, perform } from '../../session';

/** What a plan would be. */
export const quoteAction = async (input: unknown) => ask((context) => quotePlan(context, input));
/** Proposes a plan. @returns its id */
export const proposeAction = async (input: unknown) => perform(proposePlan, input);
/** Accepts a proposed plan with its signature. */
export const acceptAction = async (input: unknown) => perform(acceptPlan, input);
/** Cancels a plan; what is open is the patient's again. */
export const cancelAction = async (input: unknown) => perform(cancelPlan, input);
/** Takes installments, line by line. */
export const collectAction = async (input: unknown) => perform(collectInstallments, input);
