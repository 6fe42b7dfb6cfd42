/** Which reasons and remarks go together: brought in whole, and asked where a denial is shown. */
import { sql } from 'kysely';
import { type Combination, readCombinations } from '../../core/remittances/combinations';
import { combinationsInput } from '../../core/remittances/input';
import type { Db } from '../../db/connect';
import { broughtLines } from '../brought';
import { useCase } from '../use-case';

/** Brings in a list as CSV; what it does not have any more is in force no more. @returns how many combinations it has */
export const bringCombinations = useCase({
  name: 'bring combinations',
  permission: 'change setup',
  input: combinationsInput,
  async run(act, { text }): Promise<number> {
    const lines = broughtLines(readCombinations(text));
    const brought = sql`
      unnest(
        ${lines.map(({ scenario }) => scenario)}::integer[], ${lines.map(({ reason }) => reason)}::text[],
        ${lines.map(({ remark }) => remark)}::text[], ${lines.map(({ groups }) => groups.join(' '))}::text[]
      ) as n (scenario, reason, remark, groups)`;
    await sql`
      insert into reason_combination as c (scenario, reason, remark, groups)
      select scenario, reason, remark, string_to_array(groups, ' ') from ${brought}
      on conflict (scenario, reason, remark) do update set groups = excluded.groups, active = true
      where (c.groups, c.active) is distinct from (excluded.groups, true)`.execute(act.db);
    await sql`
      update reason_combination c set active = false
      where c.active
        and not exists (
          select from ${brought} where (n.scenario, n.reason, n.remark) = (c.scenario, c.reason, c.remark)
        )`.execute(act.db);
    await act.note('brought in', { kind: 'reason_combination', id: 'all' }, { combinations: lines.length });
    return lines.length;
  },
});

/** What is in force of some reasons, and whether anything is at all. */
export async function combinationsOf(
  db: Db,
  reasons: readonly string[],
): Promise<{ any: boolean; list: Combination[] }> {
  const [any, list] = await Promise.all([
    db
      .selectFrom('reason_combination')
      .select('scenario')
      .where('active', '=', true)
      .limit(1)
      .executeTakeFirst(),
    db
      .selectFrom('reason_combination')
      .select(['scenario', 'reason', 'remark', 'groups'])
      .where('active', '=', true)
      .where('reason', 'in', ['', ...reasons])
      .execute(),
  ]);
  return { any: any !== undefined, list: list as Combination[] };
}
