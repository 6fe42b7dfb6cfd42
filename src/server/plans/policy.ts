/** How the practice agrees plans. */
import type { Selectable } from 'kysely';
import type { Db } from '../../db/connect';
import type { DB } from '../../db/views';

/** The plan policy as its row; amounts in cents, rates in basis points a year. */
export type PlanPolicy = Selectable<DB['plan_policy']>;

/** Reads the plan policy. */
export const readPlanPolicy = (db: Db): Promise<PlanPolicy> =>
  db.selectFrom('plan_policy').selectAll().executeTakeFirstOrThrow();
