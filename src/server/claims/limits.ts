/** Bringing in tables of limits: each takes the place of the one before, whole or not at all. */
import { sql } from 'kysely';
import { limitsInput } from '../../core/claims/input';
import { readLimits } from '../../core/claims/limits';
import { broughtLines } from '../brought';
import { checkAgain } from '../setup/changed';
import { useCase } from '../use-case';

/**
 * Brings in a table of limits as CSV. What it does not have any more is in force no more. @returns how many lines it has
 * @throws Refused naming the first line that is wrong
 */
export const bringLimits = useCase({
  name: 'bring limits',
  permission: 'change setup',
  input: limitsInput,
  async run(act, { which, text }) {
    const lines = broughtLines(readLimits(which, text));
    const codes = lines.map(({ code }) => code);
    if (which === 'units') {
      await sql`
        insert into unit_limit as u (code, units)
        select code, units from unnest(${codes}::text[], ${lines.map(({ units }) => units)}::integer[]) as n (code, units)
        on conflict (code) do update set units = excluded.units, active = true
        where (u.units, u.active) is distinct from (excluded.units, true)`.execute(act.db);
      await sql`update unit_limit set active = false where active and code <> all(${codes}::text[])`.execute(
        act.db,
      );
    } else {
      const others = lines.map(({ other }) => other);
      await sql`
        insert into not_together as t (code, other, unless_modifier)
        select code, other, unless
        from
          unnest(
            ${codes}::text[], ${others}::text[], ${lines.map(({ unlessModifier }) => unlessModifier)}::boolean[]
          ) as n (code, other, unless)
        on conflict (code, other) do update set unless_modifier = excluded.unless_modifier, active = true
        where (t.unless_modifier, t.active) is distinct from (excluded.unless_modifier, true)`.execute(
        act.db,
      );
      await sql`
        update not_together t set active = false
        where t.active
          and not exists (
            select from unnest(${codes}::text[], ${others}::text[]) as n (code, other)
            where (n.code, n.other) = (t.code, t.other)
          )`.execute(act.db);
    }
    await checkAgain(act);
    await act.note('brought in', { kind: 'limits', id: which }, { lines: lines.length });
    return lines.length;
  },
});
