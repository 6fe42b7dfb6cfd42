/** States of claims in queries: the lists stand once, in the core. */
import { type RawBuilder, sql } from 'kysely';
import type { ClaimStatus } from '../core/claims/life';

/** States as a list of SQL, without its parentheses. */
export const statesText = (states: readonly ClaimStatus[]): string =>
  states.map((state) => `'${state}'`).join(', ');

/** A condition that a claim is in one of some states. @param status the column */
export const claimIn = (status: RawBuilder<unknown>, states: readonly ClaimStatus[]): RawBuilder<boolean> =>
  sql<boolean>`${status} in (${sql.raw(statesText(states))})`;
