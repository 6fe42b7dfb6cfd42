/** Files of payers, posted through the database, against a second opinion that knows only statuses and group codes. */
import fc from 'fast-check';
import { cents } from '../../core/money';
import type { ProviderAdjustment } from '../../core/x12/remittance835';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, intake, remitText, sentClaim } from '../../testing/desk';
import { CHARGES, anyPayerEvent, claimOfEvent, opinionOf } from '../../testing/payer-oracle';
import { payerCredit } from '../books/balances';
import { postRemittance } from './post';
import { runs } from '../../testing/runs';

const t = fileDatabase();

/** A visit of the two charges that the opinion speaks of, billed and sent. */
async function visit() {
  const s = await sentClaim(t, ['145.00', '42.00']);
  const rows = await t.db
    .selectFrom('charge_balance')
    .select(['charge_id', 'fee'])
    .where('charge_id', 'in', s.charges)
    .orderBy('charge_id')
    .execute();
  expect(rows.map((row) => row.fee)).toEqual([...CHARGES]);
  return {
    ...s,
    ours: { controlNumber: s.claim.control_number, controls: s.controls, codes: ['99213', '99213'] },
  };
}

/** Provider adjustments beside the claims: interest is income, anything else waits in the credit. */
const adjustments = fc.array(
  fc.record({ code: fc.constantFrom('L6', 'WO', '72'), amount: fc.integer({ min: -300, max: 300 }) }),
  { maxLength: 2 },
);

const parts = fc.array(fc.tuple(fc.array(anyPayerEvent, { minLength: 1, maxLength: 6 }), adjustments), {
  minLength: 1,
  maxLength: 3,
});

test('property: what payers send ends in the books as the second opinion says, cent for cent', async () => {
  await fc.assert(
    fc.asyncProperty(parts, async (visits) => {
      const before = await payerCredit(t.db);
      let expected = 0;
      for (const [events, plb] of visits) {
        const s = await visit();
        expected += opinionOf(events).credit;
        for (const [at, adjusted] of events.map((_, index) => [index, index === 0 ? plb : []] as const)) {
          const claim = claimOfEvent(events, at, s.ours);
          if (!claim) continue;
          const kept: ProviderAdjustment[] = adjusted
            .filter(({ amount }) => amount !== 0)
            .map(({ code, amount }) => ({ code, reference: '', amount: cents(amount) }));
          for (const { code, amount } of kept) {
            if (code !== 'L6') expected -= amount;
          }
          let payment = claim.paid - kept.reduce((all, item) => all + item.amount, 0);
          // A payer does not pay less than nothing: it keeps the rest back from another payment.
          if (payment < 0) {
            kept.push({ code: 'WO', reference: 'PCN', amount: cents(payment) });
            expected -= payment;
            payment = 0;
          }
          const { outcomes } = await intake(
            t.context,
            remitText([claim], { payment: cents(payment), providerAdjustments: kept }),
          );
          await postRemittance(t.context, outcomes[0]!.remittanceId!);
        }
        const rows = await t.db
          .selectFrom('charge_balance')
          .select(['payer_paid', 'reduced', 'with_patient', 'with_payer'])
          .where('charge_id', 'in', s.charges)
          .orderBy('charge_id')
          .execute();
        expect(
          rows.map((row) => ({
            paid: row.payer_paid,
            reduced: row.reduced,
            patient: row.with_patient,
            payer: row.with_payer,
          })),
        ).toEqual(opinionOf(events).charges);
      }
      expect((await payerCredit(t.db)) - before).toBe(expected);
    }),
    { numRuns: runs(40) },
  );
  expect(await brokenInvariants(t)).toEqual([]);
});
