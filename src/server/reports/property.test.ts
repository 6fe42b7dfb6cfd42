/** Whatever happened at the desk, in whatever order: the reports say what the books say. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import { cents, toDecimal } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, decided, household, intake, remitText, sentClaim } from '../../testing/desk';
import { Refused } from '../access';
import { chargeAccount, voidCharge } from '../accounts/charges';
import { openFigures } from '../books/balances';
import { checkBooks } from '../books/check';
import { settleWaiting } from '../follow-ups/work';
import { spendCredit } from '../payments/credit';
import { reverseAllocation, reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { REPORTS, reportOf } from './index';
import type { ReportPage } from './report';
import { runs } from '../../testing/runs';

const t = fileDatabase();

let serial = 0;
const key = (): string => `report-property-${(serial += 1)}`;
const read = (name: string, address: Record<string, string> = {}): Promise<ReportPage> =>
  reportOf(name)!.read(t.context, address);
const booked = async (query: string): Promise<number> =>
  (await sql<{ n: number }>`select coalesce(${sql.raw(query)}, 0) as n`.execute(t.db)).rows[0]!.n;
/** What moved on accounts of a part between two days, in cents, as the journal has it. */
const moved = (part: string, from: CalendarDate, to: CalendarDate): Promise<number> =>
  booked(
    `(select sum(p.amount)
      from posting p
        join entry e on e.id = p.entry_id
        join book_account a on a.code = p.account
      where a.part = '${part}' and e.business_date between '${from}' and '${to}')`,
  );

/** An eighth of an amount in cents, half a cent away from zero. */
const eighth = (amount: number): number => Math.sign(amount) * Math.floor((Math.abs(amount) + 4) / 8) + 0;

/** Something that a person does; `a` and `b` choose on what. */
type Step = { kind: (typeof KINDS)[number]; a: number; b: number };
const KINDS = [
  'visit',
  'self',
  'decide',
  'pay',
  'late',
  'reverse remit',
  'reverse receipt',
  'take off',
  'void',
  'settle',
  'spend',
] as const;

/** Does steps one after the other; what is refused is passed over, as a person would. */
async function live(steps: readonly Step[]): Promise<void> {
  const made = await household(t, false);
  const claims: { controls: string[]; number: string; charges: number[] }[] = [];
  const charges: number[] = [];
  const remits: number[] = [];
  const receipts: number[] = [];
  const pick = <T>(from: readonly T[], n: number): T | undefined => from[n % Math.max(1, from.length)];
  const DO: Record<Step['kind'], (step: Step) => Promise<unknown>> = {
    visit: async ({ a }) => {
      const s = await sentClaim(t, [toDecimal(cents(10_000 + a))]);
      claims.push({ controls: s.controls, number: s.claim.control_number, charges: s.charges });
      charges.push(...s.charges);
    },
    self: async ({ a, b }) =>
      charges.push(
        await charge(
          t,
          t.context,
          made.patientId,
          toDecimal(cents(a + 1)),
          '99213',
          addDays(TODAY, -(b % 200)),
        ),
      ),
    decide: async ({ a, b }) => {
      const claim = claims.pop();
      if (!claim) return;
      const [{ fee }] = (
        await t.pool.query<{ fee: number }>('select fee from charge where id = $1', [claim.charges[0]])
      ).rows as [{ fee: number }];
      const paid = b % 2 === 0 ? Math.min(fee, a) : 0;
      const rest = `${b % 3 === 0 ? 'CO-97' : b % 3 === 1 ? 'PR-3' : 'CO-45'}:${toDecimal(cents(fee - paid))}`;
      const line = { control: claim.controls[0]!, charge: fee, paid, reasons: fee === paid ? [] : [rest] };
      const { outcomes } = await intake(t.context, remitText([decided(claim.number, [line])]));
      const id = outcomes[0]!.remittanceId!;
      await postRemittance(t.context, id);
      remits.push(id);
    },
    pay: async ({ a, b }) =>
      receipts.push(
        (
          await takeReceipt(t.context, {
            householdId: made.householdId,
            tenders: [{ tender: 'cash', amount: toDecimal(cents(a + 1)) }],

            receivedOn: addDays(TODAY, -(b % 20)),
            key: key(),
          })
        ).receiptId,
      ),
    late: ({ a }) =>
      chargeAccount(t.context, {
        householdId: made.householdId,
        kind: a % 2 === 0 ? 'late' : 'interest',
        amount: toDecimal(cents(a + 1)),
        date: TODAY,
        key: key(),
      }),
    'reverse remit': ({ a }) =>
      reverseRemittance(t.context, { remittanceId: pick(remits, a) ?? 0, why: 'x' }),
    'reverse receipt': ({ a }) => reverseReceipt(t.context, { receiptId: pick(receipts, a) ?? 0, why: 'x' }),
    'take off': async ({ a }) => {
      const { rows } = await sql<{ id: number }>`
        select distinct e.id
        from entry e
          join posting p on p.entry_id = e.id
        where e.kind = 'allocation' and p.household_id = ${made.householdId}
        order by e.id`.execute(t.db);
      return reverseAllocation(t.context, { entryId: pick(rows, a)?.id ?? 0, why: 'x' });
    },
    void: ({ a }) => voidCharge(t.context, { chargeId: pick(charges, a) ?? 0, why: 'x' }),
    settle: ({ a, b }) =>
      settleWaiting(t.context, {
        chargeId: pick(charges, a) ?? 0,
        to: b % 2 === 0 ? 'off' : 'patient',
        exception: b % 4 === 3 ? 'no-contract' : undefined,
        why: 'x',
      }),
    spend: () => spendCredit(t.context, { householdId: made.householdId, key: key() }),
  };
  for (const step of steps)
    await DO[step.kind](step).catch((error: unknown) => {
      if (!(error instanceof Refused)) throw error;
    });
}

const step = fc.record({ kind: fc.constantFrom(...KINDS), a: fc.nat(20_000), b: fc.nat(400) });

test('property: aging, production, reductions and what was received are the books, whatever was done and undone', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 14 }), async (steps) => {
      await live(steps);
      expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
      const owed = await booked('(select sum(with_patient) from charge_balance)');
      for (const age of ['responsible', 'service']) {
        const page = await read('patient-aging', { age });
        expect(page.totals.total).toBe(owed);
        expect([0, 1, 2, 3, 4].reduce((all, index) => all + page.totals[`days${index}`]!, 0)).toBe(owed);
      }
      expect((await read('payer-aging')).totals.total).toBe(
        await booked('(select sum(with_payer) from charge_balance)'),
      );
      const [from, to] = [addDays(TODAY, -365), TODAY];
      const production = await read('production', { from, to });
      expect(production.totals.charged).toBe(0 - (await moved('fee', from, to)));
      // Over all their life both ways of counting say the same, but for what is not answered yet.
      const open = await booked(`(
        select coalesce(sum(case when c.expects then b.expected else c.contract_off end), 0)
        from charge c
          join charge_balance b on b.charge_id = c.id
        where c.status = 'done'
          and not exists (
            select
            from posting p
              join claim m on m.id = p.claim_id
            where p.charge_id = c.id and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
            group by m.coverage_id, p.account, p.coverage_id
            having sum(p.amount) <> 0
          ))`);
      expect(production.totals.answered! - production.totals.net!).toBe(open);
      expect((await read('production-lines', { from, to })).totals.expected).toBe(open);
      // What providers are paid by is what production says, by whichever of its figures.
      for (const [basis, says] of [
        ['service', production.totals.net],
        ['answer', production.totals.answered],
        ['collected', production.totals.payers! + production.totals.patients!],
      ] as const) {
        await sql`
          insert into provider_share (provider_id, basis, share)
          select id, ${basis}, 1250
          from provider
          on conflict on constraint one_share_on_a_day do update set basis = excluded.basis, share = excluded.share`.execute(
          t.db,
        );
        const pay = await read('provider-pay', { from, to });
        expect(pay.totals.earned).toBe(says);
        for (const row of pay.groups.flatMap(({ rows }) => rows))
          expect(row.pay).toBe(eighth(Number(row.earned)));
      }
      expect((await read('reductions', { from, to })).totals.amount ?? 0).toBe(
        await moved('reduced', from, to),
      );
      for (const by of ['day', 'month']) {
        const both = (await read('charges-and-payments', { from, to, by })).totals;
        expect([both.charged ?? 0, both.written ?? 0]).toEqual([
          0 - (await moved('fee', from, to)),
          await moved('reduced', from, to),
        ]);
        expect(both.cash ?? 0).toBe(
          await booked(
            `(select sum(p.amount) from posting p join entry e on e.id = p.entry_id
              where p.account like 'cash/%' and e.business_date between '${from}' and '${to}')`,
          ),
        );
        expect(
          ['payers', 'agencies', 'patients', 'back', 'drawers'].reduce(
            (all, one) => all + (both[one] ?? 0),
            0,
          ),
        ).toBe(both.cash ?? 0);
      }
      expect((await read('patients-paid', { from, to })).totals.amount ?? 0).toBe(
        await moved('patient_paid', from, to),
      );
      const { receivedThisWeek } = await openFigures(t.db, TODAY);
      expect((await read('received')).totals.amount).toBe(receivedThisWeek);
      expect(receivedThisWeek).toBe(
        await booked(
          `(select sum(p.amount) from posting p join entry e on e.id = p.entry_id
            where p.account like 'cash/%' and e.posting_date > '${addDays(TODAY, -7)}')`,
        ),
      );
    }),
    { numRuns: runs(12) },
  );
});

test.each(REPORTS.map((report) => [report.name, report] as const))(
  '%s: its groups sum to its totals, in any period, however it is asked',
  async (_name, report) => {
    for (const address of [
      {},
      { from: '2026-01-01', to: '2026-03-16' },
      { from: '2026-03-16', to: '2026-01-01' },
      { from: 'nonsense', to: '0000-00-00', age: 'nonsense', group: 'constructor' },
      { from: '1800-01-01', to: '2199-12-31' },
    ]) {
      const page = await report.read(t.context, address);
      for (const [column, total] of Object.entries(page.totals)) {
        expect(page.groups.reduce((all, group) => all + (group.totals[column] ?? 0), 0)).toBe(total);
        for (const group of page.groups)
          expect(group.rows.reduce((all, row) => all + Number(row[column] ?? 0), 0)).toBe(
            group.totals[column],
          );
      }
      expect(page.groups.reduce((all, group) => all + group.rows.length, 0)).toBe(page.rows);
    }
  },
);
