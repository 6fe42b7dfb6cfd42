/** Choosing who gets a statement: every household with a charge or a credit is in with its reasons or out with its reasons. */
import type { Cents } from '../../core/money';
import { sum } from '../../core/money';
import {
  type Choice,
  type HouseholdFacts,
  type ReasonId,
  choose,
  dueNow,
  mendingPlace,
} from '../../core/statements/selection';
import { runInput } from '../../core/statements/sets';
import type { z } from 'zod';
import { type Context, allow, audit } from '../access';
import { withheld } from '../closed';
import { parseInput } from '../input';
import { readFacts } from './facts';
import { type Policies, readPolicies, rowsOfRun } from '../setup/statement-policies';

/** What a run goes by: rows as they stand on the screen, a saved set by id or name, or each site’s own; of one site or all. */
export type Run = Partial<z.output<typeof runInput>> & { setName?: string };

/** A household that was weighed. `due` in cents: what is owed less credit. */
export interface Weighed extends Choice {
  facts: HouseholdFacts;
  due: Cents;
}

/** Weighs all households of a run, or those named, in the order of their names. */
export async function weighHouseholds(
  context: Context,
  run: Run,
  ids?: readonly number[],
): Promise<{ weighed: Weighed[]; policies: Policies }> {
  allow(context, 'read accounts');
  const policies = await readPolicies(context.db);
  const rowsOf = await rowsOfRun(context.db, run);
  // Sites without a set of their own share one, so that few sets of rows are asked for what they weigh.
  const sites = await context.db.selectFrom('location').select('id').execute();
  const every = [null, ...sites.map(({ id }) => id)].flatMap((site) => rowsOf(site));
  const facts = await readFacts(context, policies, every, ids);
  const weighed = facts
    .filter(({ siteId }) => !run.siteId || siteId === run.siteId)
    .map((one) => ({
      facts: one,
      due: dueNow(one),
      ...choose(one, rowsOf(one.siteId), policies.of(one.siteId), context.today),
    }));
  return { weighed, policies };
}

/** A household on the screen, with its reasons in words and where each is mended. */
export interface ChosenRow {
  householdId: number;
  /** Whose services go to a confidential address, and are weighed apart; null for the rest of the household. */
  patientId: number | null;
  account: string;
  name: string;
  due: Cents;
  delivery: HouseholdFacts['delivery'];
  reasons: { id: ReasonId; words: string; mend: string | null }[];
  /** It is closed to who asks: its amount alone is said. */
  closed: boolean;
}

/** What a run would do: how many get one and how much, and who is left out and why. */
export interface RunPreview {
  in: { count: number; due: Cents; rows: ChosenRow[] };
  out: { count: number; due: Cents; rows: ChosenRow[]; byReason: { id: ReasonId; count: number }[] };
}

/** Rows of each side that are shown. */
export const SHOWN = 200;

const asRow = ({ facts, due, reasons }: Weighed): ChosenRow => ({
  householdId: facts.householdId,
  patientId: facts.patientId,
  account: facts.account,
  name: facts.name,
  due,
  delivery: facts.delivery,
  reasons: reasons.map((reason) => ({ ...reason, mend: mendingPlace(reason.id, facts) })),
  closed: false,
});

/** Rows as who asks may see them. */
const shownTo = (context: Context, weighed: readonly Weighed[]): Promise<ChosenRow[]> =>
  withheld(context, weighed.slice(0, SHOWN).map(asRow), (row) => ({ ...row, reasons: [] }));

/**
 * Previews a run; nothing is written but that it was looked at.
 * @param only of those left out, the ones with this reason alone
 */
export async function previewRun(
  context: Context,
  input: z.input<typeof runInput>,
  only?: string,
): Promise<RunPreview> {
  const run = parseInput(runInput, input);
  const { weighed } = await weighHouseholds(context, run);
  await audit(context.db, context, 'chose households', { kind: 'list', id: 'statements-due' });
  const taken = weighed.filter((one) => one.in);
  const left = weighed.filter((one) => !one.in);
  const counts = new Map<ReasonId, number>();
  for (const { reasons } of left) for (const { id } of reasons) counts.set(id, (counts.get(id) ?? 0) + 1);
  const shown = only ? left.filter(({ reasons }) => reasons.some(({ id }) => id === only)) : left;
  return {
    in: {
      count: taken.length,
      due: sum(taken.map(({ due }) => due)),
      rows: await shownTo(context, taken),
    },
    out: {
      count: left.length,
      due: sum(left.map(({ due }) => due)),
      rows: await shownTo(context, shown),
      byReason: [...counts].map(([id, count]) => ({ id, count })).sort((a, b) => b.count - a.count),
    },
  };
}
