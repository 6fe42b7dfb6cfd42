/** Fees of schedules: changed together from a day on, taken back, and what holds on which day. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, household } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { enterCharge } from '../accounts/charges';
import { saveSetup } from '../setup/save';
import { changeFees, undoFees } from './change';
import { compareSchedules, readFeeHistory, readSchedule, readScheduleChanges, readSchedules } from './read';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `fees-test-${(serial += 1)}`;
/** A schedule of its own. */
async function schedule(kind = 'contract', more: Record<string, string | boolean> = {}): Promise<number> {
  const name = `Schedule ${(serial += 1)}`;
  await saveSetup(t.context, { table: 'schedules', values: { name, kind, standard: false, ...more } });
  return (await readSchedules(t.context)).find((one) => one.name === name)!.id;
}
const standard = async (): Promise<number> =>
  (await readSchedules(t.context)).find((one) => one.standard)!.id;
const change = (scheduleId: number, from: string, lines: object[], more: object = {}) =>
  changeFees(t.context, { scheduleId, from, lines: lines as never, sure: true, key: key(), ...more });
const feeOn = async (scheduleId: number, code: string, day: CalendarDate): Promise<number | null> =>
  (await readSchedule(t.context, scheduleId, day)).fees.find((one) => one.code === code)!.amount;

test('the fee of a date is the fee of that date, at each edge of its versions', async () => {
  const id = await schedule();
  await change(id, '', [{ code: '99213', amount: '100.00' }]);
  await change(id, '2026-04-01', [{ code: '99213', amount: '110.00', facility: '90.00' }]);
  await change(id, '2026-07-01', [{ code: '99213', amount: '120.00' }]);
  for (const [day, fee] of [
    ['1900-01-01', 10_000],
    ['2026-03-31', 10_000],
    ['2026-04-01', 11_000],
    ['2026-06-30', 11_000],
    ['2026-07-01', 12_000],
    ['2199-12-31', 12_000],
  ] as const)
    expect(await feeOn(id, '99213', calendarDate(day))).toBe(fee);
  const { fees, versions } = await readSchedule(t.context, id, calendarDate('2026-05-01'));
  expect(fees.find(({ code }) => code === '99213')).toMatchObject({
    facility: 9_000,
    since: '2026-04-01',
    next: { from: '2026-07-01', amount: 12_000 },
  });
  expect(versions).toEqual([
    { from: '2026-07-01', fees: 1 },
    { from: '2026-04-01', fees: 1 },
    { from: null, fees: 1 },
  ]);
  // A version that is taken away leaves the one before it.
  await change(id, '2026-04-01', [{ code: '99213', amount: '' }]);
  expect(await feeOn(id, '99213', calendarDate('2026-06-30'))).toBe(10_000);
});

test('all that is said is written or nothing, and every line that is wrong is named', async () => {
  const id = await schedule();
  await expect(
    change(id, '', [
      { code: '99213', amount: '100.00' },
      { code: 'NOPE1', amount: '1.00' },
      { code: '80053', amount: '', facility: '5.00' },
      { code: '99213', amount: '101.00' },
    ]),
  ).rejects.toMatchObject({
    fields: {
      'lines.1.code': 'Code NOPE1 is not in the list of services',
      'lines.2.amount': '80053 has a fee in a facility, and none elsewhere',
      'lines.3.code': '99213 stands here twice',
    },
  });
  for (const amount of ['dear', '-1', '99999999', '1e3'])
    await expect(change(id, '', [{ code: '99213', amount }])).rejects.toMatchObject({
      field: 'lines.0.amount',
    });
  await expect(change(id, '2026-02-30', [{ code: '99213', amount: '1.00' }])).rejects.toMatchObject({
    field: 'from',
  });
  await expect(change(99_999_999, '', [{ code: '99213', amount: '1.00' }])).rejects.toThrow(
    /no such schedule/,
  );
  await expect(
    changeFees(t.as('biller'), {
      scheduleId: id,
      from: '',
      lines: [{ code: '99213', amount: '1.00' }],
      key: key(),
    }),
  ).rejects.toThrow(/may not/);
  expect((await readSchedule(t.context, id, TODAY)).versions).toEqual([]);
});

test('a day that is over and a fee that is doubled are looked at again; what somebody changed meanwhile is named', async () => {
  const id = await schedule();
  await change(id, '', [{ code: '99213', amount: '100.00' }]);
  const ask = (from: string, amount: string, was?: number | null) =>
    changeFees(t.context, { scheduleId: id, from, lines: [{ code: '99213', amount, was }], key: key() });
  await expect(ask('2026-01-01', '110.00')).rejects.toMatchObject({
    doubts: ['1 Jan 2026 is over: what was entered since then keeps its fee'],
  });
  await expect(ask('2026-05-01', '201.00')).rejects.toMatchObject({
    doubts: ['99213 goes from 100.00 to 201.00'],
  });
  await expect(ask('2026-05-01', '49.00')).rejects.toMatchObject({ code: 'doubtful' });
  expect(await ask('2026-05-01', '110.00', 10_000)).not.toBeNull();
  await expect(ask('2026-05-01', '111.00', 10_000)).rejects.toThrow(/Somebody has changed 99213 meanwhile/);
  await expect(ask('2026-04-01', '111.00', null)).rejects.toThrow(/meanwhile/);
  // Nothing is another than it was: there is no change.
  expect(await ask('2026-05-01', '110.00')).toBeNull();
});

test('pressed twice it counts once; at the same moment one of two who saw the same is told', async () => {
  const id = await schedule();
  const once = key();
  const press = () => change(id, '', [{ code: '99213', amount: '100.00' }], { key: once });
  expect(await press()).toBe(await press());
  const both = await Promise.allSettled(
    ['120.00', '130.00'].map((amount) => change(id, '', [{ code: '99213', amount, was: 10_000 }])),
  );
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
});

test('taken back, what stood there before stands again, unless it was changed since; the history says all of it', async () => {
  const id = await schedule();
  const first = (await change(id, '', [
    { code: '99213', amount: '100.00' },
    { code: '80053', amount: '40.00' },
  ]))!;
  const second = (await change(id, '', [
    { code: '99213', amount: '110.00' },
    { code: '80053', amount: '' },
  ]))!;
  await expect(undoFees(t.context, { changeId: first })).rejects.toThrow(
    /80053, 99213 were changed again since/,
  );
  expect(await undoFees(t.context, { changeId: second })).toBe(2);
  expect(
    (await readScheduleChanges(t.context, id)).map(({ fees, from, words, undone }) => [
      fees,
      from,
      words,
      undone,
    ]),
  ).toEqual([
    [2, null, '2 fees taken back', false],
    [2, null, '', true],
    [2, null, '', false],
  ]);
  await expect(undoFees(t.context, { changeId: second })).rejects.toThrow(/taken back on 16 Mar 2026/);
  expect([await feeOn(id, '99213', TODAY), await feeOn(id, '80053', TODAY)]).toEqual([10_000, 4_000]);
  await undoFees(t.context, { changeId: first });
  expect(await feeOn(id, '99213', TODAY)).toBeNull();
  const { versions, changes } = await readFeeHistory(t.context, { scheduleId: id, code: '99213' });
  expect(versions).toEqual([]);
  expect(changes.map(({ before, after, undone }) => [before, after, undone])).toEqual([
    [10_000, null, false],
    [11_000, 10_000, false],
    [10_000, 11_000, true],
    [null, 10_000, true],
  ]);
});

test('property: over any changes and undos the fees are what the last standing change of each said', async () => {
  const codes = ['99213', '80053', '99214'] as const;
  const days = ['', '2026-04-01', '2026-06-01'] as const;
  const step = fc.oneof(
    fc.record({
      from: fc.constantFrom(...days),
      lines: fc.dictionary(fc.constantFrom(...codes), fc.option(fc.integer({ min: 0, max: 50_000 })), {
        minKeys: 1,
      }),
    }),
    fc.record({ undo: fc.nat(10) }),
  );
  await fc.assert(
    fc.asyncProperty(fc.array(step, { maxLength: 9 }), async (steps) => {
      const id = await schedule();
      const held = new Map<string, number>();
      const done: {
        id: number;
        before: Map<string, number | undefined>;
        after: Map<string, number | undefined>;
      }[] = [];
      for (const one of steps) {
        if ('lines' in one) {
          const before = new Map<string, number | undefined>();
          const after = new Map<string, number | undefined>();
          for (const [code, amount] of Object.entries(one.lines)) {
            const at = `${one.from}/${code}`;
            if (held.get(at) === (amount ?? undefined)) continue;
            before.set(at, held.get(at));
            after.set(at, amount ?? undefined);
            if (amount === null) held.delete(at);
            else held.set(at, amount);
          }
          const made = await change(
            id,
            one.from,
            Object.entries(one.lines).map(([code, amount]) => ({
              code,
              amount: amount === null ? '' : (amount / 100).toFixed(2),
            })),
          );
          expect(made === null).toBe(before.size === 0);
          if (made !== null) done.push({ id: made, before, after });
        } else if (done.length > 0) {
          const [taken] = done.splice(one.undo % done.length, 1) as [(typeof done)[number]];
          const may = [...taken.after].every(([at, amount]) => held.get(at) === amount);
          const undone = await undoFees(t.context, { changeId: taken.id }).then(
            () => true,
            () => false,
          );
          expect(undone).toBe(may);
          if (may)
            for (const [at, amount] of taken.before)
              if (amount === undefined) held.delete(at);
              else held.set(at, amount);
        }
      }
      for (const day of ['2026-03-31', '2026-04-01', '2026-05-31', '2026-06-01'] as const)
        for (const code of codes) {
          const holding = days.findLast((from) => from <= day && held.has(`${from}/${code}`));
          expect(await feeOn(id, code, calendarDate(day))).toBe(
            holding === undefined ? null : held.get(`${holding}/${code}`),
          );
        }
    }),
    { numRuns: runs(8) },
  );
});

test('the usual fee: of the case, of the category where no insurer is asked, of the site, of the standard schedule', async () => {
  const [discount, own, usual] = [await schedule('discount'), await schedule('office'), await standard()];
  await change(discount, '', [{ code: '99213', amount: '60.00' }]);
  await change(own, '', [{ code: '99213', amount: '155.00' }]);
  const category = `Sliding ${discount}`;
  await saveSetup(t.context, {
    table: 'account-categories',
    values: { name: category, fee_schedule_id: String(discount) },
  });
  const enter = async (patientId: number, more: object = {}) => {
    const id = await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      sure: true,
      key: key(),
      ...more,
    });
    const { fee, fee_why: why } = await t.db
      .selectFrom('charge')
      .select(['fee', 'fee_why'])
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    return [fee, why];
  };
  const insured = await household(t);
  const plain = await household(t, false);
  await t.db
    .updateTable('household')
    .set({ category })
    .where('id', 'in', [insured.householdId, plain.householdId])
    .execute();
  const office = await feeOn(usual, '99213', TODAY);
  const { name } = (await readSchedules(t.context)).find((one) => one.id === discount)!;
  // An insurer is asked for the office fee.
  expect(await enter(insured.patientId)).toEqual([office, '']);
  expect(await enter(insured.patientId, { keptFromPayers: true })).toEqual([6_000, name]);
  expect(await enter(plain.patientId)).toEqual([6_000, name]);
  expect(await enter(plain.patientId, { fee: '70.00', feeWhy: 'agreed' })).toEqual([7_000, 'agreed']);
  // What the discount does not name costs what it costs everybody.
  expect((await enter(plain.patientId, { code: '80053' }))[1]).toBe('');
  const { location_id: site } = await t.db
    .selectFrom('provider')
    .select('location_id')
    .where('id', '=', t.providers.family!)
    .executeTakeFirstOrThrow();
  await t.db.updateTable('location').set({ fee_schedule_id: own }).where('id', '=', site).execute();
  try {
    expect(await enter(insured.patientId)).toEqual([15_500, '']);
  } finally {
    await t.db.updateTable('location').set({ fee_schedule_id: null }).where('id', '=', site).execute();
  }
});

test('one office schedule is the standard one; another takes its place; sites and categories go by their own kind', async () => {
  const before = await standard();
  const other = await schedule('office');
  expect(await standard()).toBe(before);
  await t.db.updateTable('fee_schedule').set({ standard: true }).where('id', '=', other).execute();
  expect((await readSchedules(t.context)).filter((one) => one.standard).map(({ id }) => id)).toEqual([other]);
  await t.db.updateTable('fee_schedule').set({ standard: true }).where('id', '=', before).execute();
  // It cannot be that none is.
  await t.db.updateTable('fee_schedule').set({ standard: false }).where('id', '=', before).execute();
  expect(await standard()).toBe(before);
  await expect(
    saveSetup(t.context, {
      table: 'account-categories',
      values: { name: 'Wrongly', fee_schedule_id: String(other) },
    }),
  ).rejects.toMatchObject({ field: 'fee_schedule_id' });
});

test('compared on a day, with what was billed in the year before it', async () => {
  const [one, two] = [await schedule(), await schedule()];
  await change(one, '', [
    { code: '99213', amount: '100.00' },
    { code: '80053', amount: '40.00' },
  ]);
  await change(two, '', [{ code: '99213', amount: '90.00' }]);
  await change(two, '2026-07-01', [{ code: '99213', amount: '95.00' }]);
  const ask = (on: CalendarDate, more: object = {}) =>
    compareSchedules(t.context, { scheduleIds: [one, two], on, ...more });
  const { rows } = await sql<{ units: number }>`
    select coalesce(sum(units), 0) as units
    from charge
    where code = '99213'
      and status = 'done'
      and service_date > date '2025-03-16'
      and service_date <= date '2026-03-16'`.execute(t.db);
  const units = Number(rows[0]!.units);
  expect(units).toBeGreaterThan(0);
  const now = await ask(TODAY);
  expect(now.rows.map(({ code, fees }) => [code, fees])).toEqual([
    ['80053', [4_000, null]],
    ['99213', [10_000, 9_000]],
  ]);
  expect(now.totals[0]!.amount).toBe(-1_000 * units);
  expect((await ask(calendarDate('2026-07-01'))).rows[1]!.fees).toEqual([10_000, 9_500]);
  expect((await ask(TODAY, { billed: true })).rows.map(({ code }) => code)).toContain('99213');
  await expect(compareSchedules(t.context, { scheduleIds: [one, one], on: TODAY })).rejects.toThrow(
    /with itself/,
  );
  await expect(compareSchedules(t.context, { scheduleIds: [one], on: TODAY })).rejects.toMatchObject({
    field: 'scheduleIds',
  });
});
