/** Changing the fees of a schedule, and taking a change back. */
import { sql } from 'kysely';
import { formatDate } from '../../core/calendar';
import { changeFeesInput, feeTyped, undoFeesInput } from '../../core/fees/input';
import { type Cents, formatMoneyPlain } from '../../core/money';
import { counted } from '../../core/words';
import type { Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { checkAgain } from '../setup/changed';
import { useCase } from '../use-case';
import { writeFees } from './write';

/** So many are named where a person is asked; the rest is counted. */
const NAMED = 4;

/** A schedule, locked. @throws Refused when there is none */
async function lockSchedule(tx: Tx, scheduleId: number) {
  const found = await tx
    .selectFrom('fee_schedule')
    .select(['id', 'name'])
    .where('id', '=', scheduleId)
    .forUpdate()
    .executeTakeFirst();
  if (!found) throw new Refused('unknown', 'There is no such schedule');
  return found;
}

/** Names the first of several, and counts the rest. */
const named = (all: readonly string[]): string =>
  `${all.slice(0, NAMED).join(', ')}${all.length > NAMED ? ` and ${all.length - NAMED} more` : ''}`;

/**
 * Changes fees of a schedule from a day on: each that is said is written, all of them or none. Charges keep the fee that they were
 * entered with; claims that are still ours are checked again.
 * @returns the id of the change, by which it is taken back; null where nothing is another than it was
 * @throws Refused naming each line that is wrong, as `lines.2.amount`; or those that somebody has changed since they were looked at
 */
export const changeFees = useCase({
  name: 'change fees',
  permission: 'change setup',
  input: changeFeesInput,
  once: (data) => data.key,
  async run(act, { scheduleId, from, lines: typed, words, sure }): Promise<number | null> {
    const tx = act.db;
    const fields: Record<string, string> = {};
    const amountOf = (at: number, name: 'amount' | 'facility'): Cents | null => {
      const amount = feeTyped(typed[at]![name]);
      if (amount === null || typeof amount === 'number') return amount;
      fields[`lines.${at}.${name}`] = `${typed[at]!.code}: ${amount.fault}`;
      return null;
    };
    const lines = typed.map(({ code, was }, at) => ({
      code,
      was,
      amount: amountOf(at, 'amount'),
      facility: amountOf(at, 'facility'),
    }));
    const schedule = await lockSchedule(tx, scheduleId);
    const codes = lines.map(({ code }) => code);
    const { rows: now } = await sql<{ code: string; known: boolean; fee: Cents | null }>`
      select k.code, s.code is not null as known,
        case
          when ${from}::date is null then (
            select f.amount
            from fee f
            where f.fee_schedule_id = ${scheduleId} and f.code = k.code and f.valid_from is null
          )
          else fee_on(${scheduleId}, k.code, ${from}::date)
        end as fee
      from unnest(${codes}::text[]) k (code)
        left join service_code s on s.code = k.code`.execute(tx);
    const stands = new Map(now.map((row) => [row.code, row]));
    const seen = new Set<string>();
    lines.forEach(({ code, amount, facility }, at) => {
      if (!stands.get(code)!.known)
        fields[`lines.${at}.code`] = `Code ${code} is not in the list of services`;
      else if (seen.has(code)) fields[`lines.${at}.code`] = `${code} stands here twice`;
      else if (amount === null && facility !== null && fields[`lines.${at}.amount`] === undefined)
        fields[`lines.${at}.amount`] = `${code} has a fee in a facility, and none elsewhere`;
      seen.add(code);
    });
    const [first] = Object.keys(fields);
    if (first) throw new Refused('invalid', fields[first]!, { field: first, fields });
    const other = lines.filter(
      ({ code, was }) => was !== undefined && (stands.get(code)!.fee ?? null) !== was,
    );
    if (other.length > 0)
      throw new Refused(
        'others',
        `Somebody has changed ${named(other.map(({ code }) => code))} meanwhile: look at the schedule again`,
      );
    const steep = lines.filter(({ code, amount }) => {
      const before = stands.get(code)!.fee;
      return before !== null && before > 0 && amount !== null && (amount > before * 2 || amount * 2 < before);
    });
    lookAgain(sure, [
      from !== null &&
        from < act.today &&
        `${formatDate(from)} is over: what was entered since then keeps its fee`,
      steep.length > 0 &&
        `${named(steep.map(({ code, amount }) => `${code} goes from ${formatMoneyPlain(stands.get(code)!.fee!)} to ${formatMoneyPlain(amount!)}`))}`,
    ]);
    const id = await writeFees(act, { scheduleId, from, words }, lines);
    if (id === null) return null;
    await act.note(
      'changed fees',
      { kind: 'fee schedule', id: scheduleId },
      { name: schedule.name, change: id, fees: lines.length, from, words },
    );
    await checkAgain(act);
    return id;
  },
});

/** Takes a change of fees back: what stood there before stands again. @throws Refused when it was, or something of it is another by now */
export const undoFees = useCase({
  name: 'take fees back',
  permission: 'change setup',
  input: undoFeesInput,
  async run(act, { changeId }): Promise<number> {
    const tx = act.db;
    const known = await tx
      .selectFrom('fee_change')
      .select('fee_schedule_id')
      .where('id', '=', changeId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such change');
    const schedule = await lockSchedule(tx, known.fee_schedule_id);
    const change = await tx
      .selectFrom('fee_change')
      .select(['valid_from', 'undone_on'])
      .where('id', '=', changeId)
      .executeTakeFirstOrThrow();
    if (change.undone_on !== null)
      throw new Refused('already', `It was taken back on ${formatDate(change.undone_on)}`);
    const { rows } = await sql<{
      code: string;
      before: Cents | null;
      beforeFacility: Cents | null;
      same: boolean;
    }>`
      select l.code, l.before, l.before_facility as "beforeFacility",
        (f.amount, f.facility_amount) is not distinct from (l.after, l.after_facility) as same
      from fee_change_line l
        left join fee f on f.fee_schedule_id = ${schedule.id}
          and f.code = l.code
          and f.valid_from is not distinct from ${change.valid_from}::date
      where l.change_id = ${changeId}
      order by l.code`.execute(tx);
    const other = rows.filter(({ same }) => !same).map(({ code }) => code);
    if (other.length > 0)
      throw new Refused(
        'others',
        `${named(other)} ${other.length === 1 ? 'was' : 'were'} changed again since: take that back first`,
      );
    await writeFees(
      act,
      {
        scheduleId: schedule.id,
        from: change.valid_from,
        words: `${counted(rows.length, 'fee')} taken back`,
      },
      rows.map(({ code, before, beforeFacility }) => ({ code, amount: before, facility: beforeFacility })),
    );
    await tx
      .updateTable('fee_change')
      .set({ undone_on: act.today, undone_by: act.user.name })
      .where('id', '=', changeId)
      .execute();
    await act.note(
      'took fees back',
      { kind: 'fee schedule', id: schedule.id },
      { name: schedule.name, change: changeId },
    );
    await checkAgain(act);
    return rows.length;
  },
});
