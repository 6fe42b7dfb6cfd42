/** Which of those who get a statement lie in one envelope. */
import type { HouseholdFacts } from './selection';

/** A piece of mail: whose statement comes first, and who else lies in it. */
export interface Envelope<One> {
  first: One;
  joined: One[];
}

/**
 * Puts households that are mailed together into one envelope, the one that it is addressed to first; a patient with a
 * confidential address has one alone. In the order of the first of each.
 */
export function intoEnvelopes<
  One extends { facts: Pick<HouseholdFacts, 'householdId' | 'patientId' | 'envelope'> },
>(taken: readonly One[]): Envelope<One>[] {
  const byEnvelope = new Map<string, One[]>();
  for (const one of taken) {
    const { patientId, envelope } = one.facts;
    const key = patientId === null ? `household ${envelope}` : `patient ${patientId}`;
    const own = byEnvelope.get(key);
    if (own) own.push(one);
    else byEnvelope.set(key, [one]);
  }
  return [...byEnvelope.values()].map((own) => {
    const first = own.find(({ facts }) => facts.householdId === facts.envelope) ?? own[0]!;
    return { first, joined: own.filter((one) => one !== first) };
  });
}
