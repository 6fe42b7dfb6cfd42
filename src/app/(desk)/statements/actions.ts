'use server';
/** What is done at the statements station. */
import { prepareStatement } from '../../../server/statements/prepare';
import { perform } from '../../session';

/** Prepares a household’s statement. @returns its id */
export const statementAction = async (input: unknown) => perform(prepareStatement, input);
