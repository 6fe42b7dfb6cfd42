/** Drafts made one and taken apart: every charge stays on one current claim, and the money is the same. */
import fc from 'fast-check';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, sentClaim } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { buildClaims } from './build';
import { mergeClaims, splitClaim } from './drafts';
import { readClaim } from './read';
import { sendClaims } from './send';

const t = fileDatabase();
const DAYS = ['2026-03-10', '2026-03-11', '2026-03-12'];

/** A person with visits on several days, a draft each. */
async function drafts(days = DAYS) {
  const made = await household(t, true);
  const charges: number[] = [];
  for (const [at, day] of days.entries())
    charges.push(await charge(t, t.context, made.patientId, `${90 + at}.00`, '99213', day as never));
  return { ...made, charges, claims: await buildClaims(t.context, { householdId: made.householdId }) };
}
const linesOf = async (claimId: number) =>
  (await readClaim(t.context, claimId)).content.lines.map(({ number, date, charge: fee }) => [
    number,
    date,
    fee,
  ]);
const currentOf = (charges: readonly number[]) =>
  t.db
    .selectFrom('claim_line')
    .select(['charge_id', 'claim_id'])
    .where('charge_id', 'in', charges)
    .where('current', '=', true)
    .orderBy('charge_id')
    .execute();

test('several days are made one claim, by day, and taken apart again; each charge is on one', async () => {
  const { claims, charges } = await drafts();
  const [first, second, third] = claims as [number, number, number];
  expect(await mergeClaims(t.context, { claimIds: [third, first] })).toBe(first);
  expect(await linesOf(first)).toEqual([
    [1, '2026-03-10', 9000],
    [2, '2026-03-12', 9200],
  ]);
  expect((await readClaim(t.context, third)).status).toBe('withdrawn');
  const { total, events } = await readClaim(t.context, first);
  expect([total, events.at(-1)!.words]).toEqual([18_200, expect.stringMatching(/^Put together with OL/)]);
  await mergeClaims(t.context, { claimIds: [first, second] });
  expect((await linesOf(first)).map(([, date]) => date)).toEqual(DAYS);
  const split = await splitClaim(t.context, { claimId: first, lines: [1, 3] });
  expect([await linesOf(first), await linesOf(split)]).toEqual([
    [[1, '2026-03-11', 9100]],
    [
      [1, '2026-03-10', 9000],
      [2, '2026-03-12', 9200],
    ],
  ]);
  expect(await currentOf(charges)).toEqual([
    { charge_id: charges[0], claim_id: split },
    { charge_id: charges[1], claim_id: first },
    { charge_id: charges[2], claim_id: split },
  ]);
  await sendClaims(t.context, { claimIds: [first, split] });
  await expect(splitClaim(t.context, { claimId: split, lines: [1] })).rejects.toThrow('was sent');
  await expect(mergeClaims(t.context, { claimIds: [first, split] })).rejects.toThrow('was sent');
  expect(await brokenInvariants(t)).toEqual([]);
});

test('what is not of one person, and what is too much for the form, stays apart', async () => {
  const [one, other] = [await drafts(['2026-03-10']), await drafts(['2026-03-10'])];
  await expect(mergeClaims(t.context, { claimIds: [one.claims[0]!, other.claims[0]!] })).rejects.toThrow(
    'of different people',
  );
  await expect(mergeClaims(t.context, { claimIds: [one.claims[0]!, one.claims[0]!] })).rejects.toThrow(
    'Choose two',
  );
  await expect(mergeClaims(t.context, { claimIds: [one.claims[0]!, 99_999_999] })).rejects.toThrow(
    'no such claim',
  );
  await expect(splitClaim(t.context, { claimId: one.claims[0]!, lines: [1] })).rejects.toThrow(
    'One line stays',
  );
  await expect(splitClaim(t.context, { claimId: one.claims[0]!, lines: [2] })).rejects.toThrow(
    'no such line',
  );
  const sent = await sentClaim(t);
  await expect(splitClaim(t.context, { claimId: sent.claim.id, lines: [1] })).rejects.toThrow('was sent');
});

test('property: whatever is put together and taken apart, each charge is on one current claim and none is lost', async () => {
  const act = fc.record({
    merge: fc.boolean(),
    at: fc.nat(5),
    other: fc.nat(5),
    line: fc.integer({ min: 1, max: 3 }),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(act, { minLength: 1, maxLength: 6 }), async (acts) => {
      const { charges, claims } = await drafts();
      let open = claims;
      for (const { merge, at, other, line } of acts) {
        const [one, two] = [open[at % open.length]!, open[other % open.length]!];
        await (
          merge
            ? mergeClaims(t.context, { claimIds: [one, two] })
            : splitClaim(t.context, { claimId: one, lines: [line] })
        ).catch((fault: unknown) => {
          if (!/Choose two|One line stays|no such line/.test(String(fault))) throw fault;
        });
        open = [...new Set((await currentOf(charges)).map(({ claim_id }) => claim_id))];
      }
      const stand = await currentOf(charges);
      expect(stand.map(({ charge_id }) => charge_id)).toEqual(charges);
      const said = await Promise.all(open.map((id) => readClaim(t.context, id)));
      expect(said.reduce((all, { total }) => all + total, 0)).toBe(9000 + 9100 + 9200);
      for (const { content, status } of said) {
        expect(content.lines.map(({ number }) => number)).toEqual(content.lines.map((_, index) => index + 1));
        expect(status).toBe('ready');
      }
    }),
    { numRuns: runs(12) },
  );
});
