/** Reading what a draft in the place of another claim corrects: shown before it goes. */
import { sql } from 'kysely';
import type { ClaimContent } from '../../core/claims/content';
import { type Difference, differences, moneyWords } from '../../core/claims/differences';
import { claimDocument } from '../../core/claims/document';
import { sum } from '../../core/money';
import type { Db } from '../../db/connect';
import type { Context } from '../access';
import { decidedOf } from '../books/decided';
import { type Addable, addable } from './correct';

/** What a draft in the place of another claim says otherwise, and what can be put right on it as a whole. */
export interface Correction {
  differences: Difference[];
  /** What becomes of the money. */
  money: string;
  addable: Addable[];
  providers: { id: number; name: string; siteId: number }[];
  sites: { id: number; name: string }[];
}

/** Reads what a draft corrects, and what may be added to it. */
export async function readCorrection(
  { db }: Context,
  claim: {
    id: number;
    patientId: number;
    caseId: number;
    coverageId: number;
    form: string;
    providerId: number;
    locationId: number;
    payer: string;
    replaces: { id: number };
  },
  says: ClaimContent,
  lines: readonly { number: number; chargeId: number; leftOut: boolean }[],
): Promise<Correction> {
  const [before, old, choices, add] = await Promise.all([
    db
      .selectFrom('claim')
      .select(['id', 'coverage_id', 'content'])
      .where('id', '=', claim.replaces.id)
      .executeTakeFirstOrThrow(),
    db
      .selectFrom('claim_line')
      .select(['number', 'charge_id'])
      .where('claim_id', '=', claim.replaces.id)
      .execute(),
    providersAndSites(db),
    addable(db, {
      patient_id: claim.patientId,
      case_id: claim.caseId,
      coverage_id: claim.coverageId,
      form: claim.form,
      provider_id: claim.providerId,
      location_id: claim.locationId,
    }),
  ]);
  const said = claimDocument.read(before.content);
  const decided = [...(await decidedOf(db, before)).values()];
  return {
    differences: differences(
      { content: said, chargeOf: (line) => old.find(({ number }) => number === line)?.charge_id },
      { content: says, chargeOf: (line) => lines.find(({ number }) => number === line)?.chargeId },
    ),
    money: moneyWords(
      claim.payer,
      { was: said.total, is: says.total },
      {
        paid: sum(decided.map(({ paid }) => paid)),
        passedOn: sum(decided.map(({ passedOn }) => passedOn)),
      },
    ),
    addable: add,
    ...choices,
  };
}

/** Who may have done it, and where. */
async function providersAndSites(db: Db): Promise<Pick<Correction, 'providers' | 'sites'>> {
  const [providers, sites] = await Promise.all([
    db
      .selectFrom('provider')
      .select(['id', sql<string>`last || ', ' || first`.as('name'), 'location_id as siteId'])
      .orderBy('last')
      .orderBy('first')
      .execute(),
    db.selectFrom('location').select(['id', 'name']).orderBy('name').execute(),
  ]);
  return { providers, sites };
}
