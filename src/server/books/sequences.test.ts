/** Any work of the desk, in any order and by several people at once, keeps the invariants of the books. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { type Cents, cents, toDecimal } from '../../core/money';
import { write277CA } from '../../core/x12/acknowledgments';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from '../../core/x12/samples';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  intake,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { voidCharge } from '../accounts/charges';
import { Refused } from '../access';
import { buildClaims } from '../claims/build';
import { holdClaim, releaseClaim, withdrawClaim } from '../claims/hold';
import { sendClaims } from '../claims/send';
import { spendCredit } from '../payments/credit';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { matchHeld } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { settleWaiting } from '../follow-ups/work';
import { prepareStatement } from '../statements/prepare';
import { runs } from '../../testing/runs';

const t = fileDatabase();

const STEPS = [
  'charge',
  'charge',
  'void',
  'pay',
  'pay',
  'credit',
  'undo-pay',
  'remit',
  'remit',
  'undo-remit',
  'stranger',
  'match',
  'write-off',
  'statement',
  'bill',
  'build',
  'send',
  'hold',
  'withdraw',
  'answer',
] as const;

interface Step {
  do: (typeof STEPS)[number];
  /** Cents, or another number that the step makes use of. */
  a: number;
  /** Which of several things. */
  b: number;
}

const steps = fc.array(fc.record({ do: fc.constantFrom(...STEPS), a: fc.nat(50_000), b: fc.nat(100) }), {
  minLength: 4,
  maxLength: 20,
});

let serial = 0;

/** Two households: one that pays itself, one with a claim of two lines at its payer; and what was done with them. */
async function desk(run: string) {
  const self = await household(t, false);
  const billed = await sentClaim(t, ['145.00', '42.00']);
  const households = [self.householdId, billed.householdId];
  const charges = [...billed.charges];
  const receipts: number[] = [];
  const remits: number[] = [];
  const strangers: number[] = [];
  const one = (of: readonly number[], b: number): number => of[b % of.length] ?? 0;

  /** Brings in and posts a remittance. @returns its id */
  async function remit(claims: Parameters<typeof remitText>[0]): Promise<number> {
    const { outcomes } = await intake(t.context, remitText(claims));
    const id = outcomes[0]!.remittanceId!;
    remits.push(id);
    await postRemittance(t.context, id);
    return id;
  }

  /** A decision of the first line; as often the taking back of one, with the signs turned (claim status 22). */
  function decision(a: number, b: number) {
    const sign = b % 3 === 0 ? -1 : 1;
    const paid = a % 14_501;
    const rest = 14_500 - paid;
    const reason = ['CO-45', 'PR-2', 'CO-97', 'OA-23', 'PI-97'][b % 5]!;
    const line = {
      control: billed.controls[0]!,
      charge: sign * 14_500,
      paid: sign * paid,
      reasons: rest === 0 ? [] : [`${reason}:${(sign * rest) / 100}`],
    };
    return decided(billed.claim.control_number, [line], sign < 0 ? '22' : '1');
  }

  /** One of the household's claims, in an order of its own for each number. */
  async function claims(b: number): Promise<{ id: number; control_number: string }> {
    const found = await t.db
      .selectFrom('claim')
      .select(['id', 'control_number'])
      .where('household_id', '=', billed.householdId)
      .orderBy(sql`md5(id || ${String(b)})`)
      .executeTakeFirstOrThrow();
    return found;
  }

  /** A 277CA about claims, as it comes from the clearinghouse. */
  function acknowledgment(numbers: string[], accepted: boolean): string {
    serial += 1;
    return write277CA(
      { ...SAMPLE_INTERCHANGE, controlNumber: String(serial).padStart(9, '0') },
      {
        batch: 'S1',
        date: TODAY,
        source: 'Tideline',
        whole: [],
        sourceId: 'TIDELINE',
        receiver: { name: 'Osprey', id: 'OSPREY' },
        provider: { name: 'Osprey', npi: '1234567893' },
        patients: new Map(),
        claims: numbers.map((controlNumber) => ({
          controlNumber,
          action: accepted ? 'WQ' : 'U',
          statuses: [{ category: accepted ? 'A2' : 'A7', status: '20', entity: 'PR', text: '' }],
          amount: cents(0),
          payerClaimNumber: '',
        })),
      },
    );
  }

  const work: Record<Step['do'], (step: Step, index: number) => Promise<unknown>> = {
    charge: async ({ a }) =>
      charges.push(await charge(t, t.context, self.patientId, toDecimal(cents(a + 1)))),
    void: ({ b }) => voidCharge(t.context, { chargeId: one(charges, b), why: 'test' }),
    pay: async ({ a, b }, index) => {
      const { receiptId } = await takeReceipt(t.context, {
        householdId: one(households, b),
        tenders: [{ tender: 'check', amount: toDecimal(cents(a + 1)), reference: '1' }],

        key: `sequence-${run}-${index}`,
      });
      receipts.push(receiptId);
    },
    credit: ({ b }, index) =>
      spendCredit(t.context, { householdId: one(households, b), key: `sequence-${run}-${index}` }),
    'undo-pay': ({ b }) => reverseReceipt(t.context, { receiptId: one(receipts, b), why: 'test' }),
    remit: ({ a, b }) => remit([decision(a, b)]),
    'undo-remit': ({ b }) => reverseRemittance(t.context, { remittanceId: one(remits, b), why: 'test' }),
    stranger: async ({ a }, index) => {
      const id = await remit([sampleRemitClaim(`ST${run}${index}`, 14_500, a % 14_500)]);
      const { rows } = await sql<{
        id: number;
      }>`select id from remittance_claim where remittance_id = ${id}`.execute(t.db);
      strangers.push(rows[0]!.id);
    },
    match: ({ b }) =>
      matchHeld(t.context, {
        remittanceClaimId: one(strangers, b),
        controlNumber: billed.claim.control_number,
      }),
    'write-off': () => settleWaiting(t.context, { chargeId: one(billed.charges, 0), to: 'off', why: 'test' }),
    bill: ({ a }) => charge(t, t.context, billed.patientId, toDecimal(cents(a + 1))),
    build: ({ b }) => buildClaims(t.context, b % 2 === 0 ? { householdId: billed.householdId } : {}),
    send: () => sendClaims(t.context, {}),
    hold: async ({ a, b }) => {
      const claimId = (await claims(b)).id;
      return a % 2 === 0
        ? holdClaim(t.context, { claimId, why: 'test' })
        : releaseClaim(t.context, { claimId });
    },
    withdraw: async ({ b }) => withdrawClaim(t.context, { claimId: (await claims(b)).id, why: 'test' }),
    answer: async ({ a, b }) => {
      const some = [await claims(a), await claims(b), await claims(a + b)];
      await intake(
        t.context,
        acknowledgment(
          some.map((claim) => claim.control_number),
          a % 2 === 0,
        ),
      );
    },
    statement: ({ b }, index) =>
      prepareStatement(t.context, { householdId: one(households, b), key: `sequence-${run}-${index}` }),
  };
  /** Does a step; one that the desk refuses, in words, changes nothing. */
  const step = async (item: Step, index: number): Promise<void> => {
    await work[item.do](item, index).catch((error: unknown) => {
      if (!(error instanceof Refused)) throw error;
    });
  };
  return { households, step };
}

/** The books hold, and what the households are shown to owe is what the journal says. */
async function prove(households: number[]): Promise<void> {
  expect(await brokenInvariants(t)).toEqual([]);
  const twice =
    await sql`select charge_id from claim_line where current group by charge_id, coverage_id having count(*) > 1`.execute(
      t.db,
    );
  expect(twice.rows).toEqual([]);
  const { rows } = await sql<{ shown: Cents; booked: Cents }>`select
    (
      select coalesce(sum(with_payer + with_patient - credit), 0)
      from household_balance
      where household_id = any(${households})
    ) as shown,
    (
      select coalesce(sum(amount), 0)
      from posting
      where household_id = any(${households}) and (account like 'receivable/%' or account = 'credit/patient')
    ) as booked`.execute(t.db);
  expect(rows[0]!.shown).toBe(rows[0]!.booked);
}

test('charges, decisions, receipts, matches, write-offs and reversals, one after the other', async () => {
  let run = 0;
  await fc.assert(
    fc.asyncProperty(steps, async (items) => {
      const { households, step } = await desk(`a${(run += 1)}`);
      for (const [index, item] of items.entries()) await step(item, index);
      await prove(households);
    }),
    { numRuns: runs(25), endOnFailure: true },
  );
});

test('the same, all at the same moment: nobody waits for ever, nothing is lost or twice', async () => {
  let run = 0;
  await fc.assert(
    fc.asyncProperty(steps, steps, async (before, items) => {
      const { households, step } = await desk(`b${(run += 1)}`);
      for (const [index, item] of before.entries()) await step(item, index);
      await Promise.all(items.map((item, index) => step(item, 100 + index)));
      await prove(households);
    }),
    { numRuns: runs(20), endOnFailure: true },
  );
});
