/** Coverage after registration: further ones, other plans, ends; and unbilled charges that follow. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { addDays, calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, postedRemittance, says, sentClaim } from '../../testing/desk';
import { Refused } from '../access';
import { buildClaims } from '../claims/build';
import { withdrawClaim } from '../claims/hold';
import { readClaim } from '../claims/read';
import { takeReceipt } from '../payments/take';
import { addCoverage, changeCoverage } from './coverage';
import { readChargeEntries } from './ledger';
import { readAccount } from '../account-page/read';
import { addMember, changePatient } from './register';
import { runs } from '../../testing/runs';

const t = fileDatabase();
afterEach(async () => {
  expect(await brokenInvariants(t)).toEqual([]);
});

let serial = 0;
const key = (): string => `coverage-test-${(serial += 1)}`;
const page = (householdId: number) => readAccount(t.context, householdId);
const coverages = async (householdId: number) => (await page(householdId)).members[0]!.cases[0].coverages;
const figures = async (householdId: number) => {
  const { withPayer, withPatient } = (await page(householdId)).figures;
  return { withPayer, withPatient };
};
/** A plan of another payer than the one that {@link household} gives. */
const other = (): number => Object.entries(t.insurancePlans).find(([group]) => !group.startsWith('CS'))![1];

describe('a further coverage', () => {
  test('given to a person without any, takes over what was entered before and billed to nobody', async () => {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '145.00');
    await charge(t, t.context, patientId, '42.00', '80053');
    expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 18700 });
    const added = await addCoverage(t.context, {
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH100',
      key: key(),
    });
    expect(added).toMatchObject({ followed: 2, left: 0 });
    expect(await figures(householdId)).toEqual({ withPayer: 18700, withPatient: 0 });
    const { charges } = await page(householdId);
    const under = await readChargeEntries(t.context, householdId, charges[0]!.id);
    expect(under.map((entry) => entry.kind)).toEqual(['charge', 'coverage-change']);
    expect(await buildClaims(t.context, { householdId })).toHaveLength(1);
  });

  test('leaves a charge on which money has moved, and says so', async () => {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '50.00');
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '20.00' }], key: key() });
    const added = await addCoverage(t.context, {
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH101',
      key: key(),
    });
    expect(added).toMatchObject({ followed: 0, left: 1 });
    expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 3000 });
  });

  test('tax on a service stays with the patient', async () => {
    const { householdId, patientId } = await household(t, false);
    const { enterCharge } = await import('./charges');
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      fee: '100.00',
      tax: '8.50',
      key: key(),
    });
    await addCoverage(t.context, {
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH102',
      key: key(),
    });
    expect(await figures(householdId)).toEqual({ withPayer: 10000, withPatient: 850 });
  });

  test('in the same order ends the one before on the day before, and charges go by their date', async () => {
    const { householdId, patientId } = await household(t);
    const before = await charge(t, t.context, patientId, '100.00', '99213', addDays(TODAY, -20));
    const after = await charge(t, t.context, patientId, '60.00', '99213', addDays(TODAY, -2));
    await addCoverage(t.context, {
      patientId,
      insurancePlanId: other(),
      memberId: 'NL200',
      validFrom: addDays(TODAY, -10),
      key: key(),
    });
    expect(
      (await coverages(householdId)).map(({ validFrom, validTo, now }) => [validFrom, validTo, now]),
    ).toEqual([
      [addDays(TODAY, -10), null, true],
      [null, addDays(TODAY, -11), false],
    ]);
    const payers = new Map(
      (await page(householdId)).charges.map((item) => [
        item.id,
        item.payers.find((p) => p.withPayer > 0)?.payer,
      ]),
    );
    expect(payers.get(before)).toBe('Cedar Sound Health');
    expect(payers.get(after)).not.toBe('Cedar Sound Health');
  });

  test('with a past date: claims of that time that another insurer has decided are named with the filing limit, and made work', async () => {
    const s = await sentClaim(t);
    const other_ = {
      patientId: s.patientId,
      insurancePlanId: other(),
      memberId: 'LATE1',
      validFrom: addDays(TODAY, -30),
    };
    await postedRemittance(t, [says(s, 6800)]);
    const { elsewhere } = await addCoverage(t.context, { ...other_, key: key() });
    const { name, days } = await t.db
      .selectFrom('insurance_plan as p')
      .innerJoin('payer as y', 'y.id', 'p.payer_id')
      .select(['y.name', 'y.timely_filing_days as days'])
      .where('p.id', '=', other())
      .executeTakeFirstOrThrow();
    const date = s.claim.service_date;
    expect(elsewhere).toEqual([
      {
        claimId: s.claim.id,
        number: s.claim.control_number,
        date,
        went: 'Cedar Sound Health',
        covers: name,
        until: addDays(date, days),
      },
    ]);
    const work = () =>
      t.db
        .selectFrom('follow_up')
        .select(['kind', 'words', 'outcome', 'closed_at', 'amount'])
        .where('household_id', '=', s.householdId)
        .where('kind', '=', 'other-insurer')
        .execute();
    expect(await work()).toMatchObject([
      {
        words: expect.stringMatching(
          /^Cedar Sound Health has decided the claim of .* covers that day: take it back/,
        ),
        closed_at: null,
        amount: 14_500,
      },
    ]);
    // What the payer decided stays until it takes it back; said again, it is one work.
    expect(await figures(s.householdId)).toEqual({ withPayer: 0, withPatient: 3000 });
    const { id: coverageId } = (await coverages(s.householdId)).find(({ memberId }) => memberId === 'LATE1')!;
    const again = await changeCoverage(t.context, {
      coverageId,
      memberId: 'LATE2',
      validFrom: addDays(TODAY, -30),
    });
    expect(again.elsewhere).toHaveLength(1);
    expect(await work()).toHaveLength(1);
    // It begins later after all: the claim went to the insurer of its day.
    await changeCoverage(t.context, { coverageId, memberId: 'LATE2', validFrom: addDays(TODAY, 5) });
    expect(await work()).toMatchObject([{ outcome: expect.stringMatching(/insurer of its day/) }]);
    // And earlier again: the same work goes on.
    await changeCoverage(t.context, { coverageId, memberId: 'LATE2', validFrom: addDays(TODAY, -30) });
    expect(await work()).toMatchObject([{ outcome: '', closed_at: null }]);
  });

  test('of earlier years takes nobody’s place: what is in force stays as it is', async () => {
    const { householdId, patientId } = await household(t);
    await charge(t, t.context, patientId, '60.00');
    const before = await coverages(householdId);
    const old = {
      patientId,
      insurancePlanId: other(),
      memberId: 'OLD1',
      validFrom: '2020-01-01',
      validTo: '2020-12-31',
    };
    await expect(addCoverage(t.context, { ...old, key: key() })).rejects.toThrow(
      /another first coverage in that time/,
    );
    expect(await coverages(householdId)).toEqual(before);
    expect(await figures(householdId)).toEqual({ withPayer: 6000, withPatient: 0 });
  });

  test.each([
    [{}, 'validFrom', /say from when/],
    [{ validFrom: '2019-01-01', validTo: '2018-01-01' }, 'validTo', /ends before it begins/],
    [{ insurancePlanId: 999999, position: 2 }, 'insurancePlanId', /not in Setup/],
    [{ memberId: '', position: 2 }, 'memberId', /missing/],
    [{ memberId: 'A B*C', position: 2 }, 'memberId', /letters, digits and hyphens/],
    [{ position: 4 }, 'position', /./],
    [{ relationship: 'child', position: 2 }, 'subscriberId', /whose policy/],
    [{ relationship: 'child', subscriberId: 999999, position: 2 }, 'subscriberId', /no member/],
  ])('%j is refused at %s and changes nothing', async (more, field, words) => {
    const { householdId, patientId } = await household(t);
    const before = await coverages(householdId);
    const input = {
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH1',
      key: key(),
      ...more,
    } as never;
    await expect(addCoverage(t.context, input)).rejects.toMatchObject({
      field,
      message: expect.stringMatching(words) as string,
    });
    expect(await coverages(householdId)).toEqual(before);
  });

  test('on the policy of another member carries that person, and follows when the name changes', async () => {
    const { householdId, patientId } = await household(t);
    const child = await addMember(t.context, {
      householdId,
      last: 'Tester',
      first: `Child${key()}`,
      birthDate: '2015-05-05',
      sex: 'M',
      key: key(),
    });
    await addCoverage(t.context, {
      patientId: child.patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH300',
      relationship: 'child',
      subscriberId: patientId,
      key: key(),
    });
    await charge(t, t.context, child.patientId, '145.00');
    const [claimId] = await buildClaims(t.context, { householdId });
    const { content } = await readClaim(t.context, claimId!);
    expect(content).toMatchObject({
      relationship: 'child',
      subscriber: { last: 'Tester', memberId: 'CSH300' },
    });
    const [parent] = (await page(householdId)).members;
    const { line1, city, state, zip } = (await page(householdId)).household;
    await changePatient(t.context, {
      patientId,
      last: 'Renamed',
      first: parent!.first,
      birthDate: parent!.birthDate,
      sex: parent!.sex,
      line1,
      city,
      state,
      zip,
    });
    const after = await page(householdId);
    expect(
      after.members.find((item) => item.id === child.patientId)!.cases[0].coverages[0]!.subscriber,
    ).toContain('Renamed');
    // The guarantor's new name is the account's.
    expect(after.household.last).toBe('Renamed');
  });

  test('of somebody else’s household is no subscriber here', async () => {
    const mine = await household(t);
    const stranger = await household(t);
    await expect(
      addCoverage(t.context, {
        patientId: mine.patientId,
        insurancePlanId: t.insurancePlans['CS-350'],
        memberId: 'CSH1',
        position: 2,
        relationship: 'spouse',
        subscriberId: stranger.patientId,
        key: key(),
      }),
    ).rejects.toThrow(/no member of this household/);
  });
});

describe('ending one', () => {
  test('gives back to the patient what was served after it, and nothing else', async () => {
    const { householdId, patientId } = await household(t);
    await charge(t, t.context, patientId, '100.00', '99213', addDays(TODAY, -20));
    await charge(t, t.context, patientId, '60.00', '99213', TODAY);
    const [coverage] = await coverages(householdId);
    const change = { coverageId: coverage!.id, memberId: coverage!.memberId };
    expect(await changeCoverage(t.context, { ...change, validTo: addDays(TODAY, -10) })).toMatchObject({
      followed: 1,
      left: 0,
    });
    expect(await figures(householdId)).toEqual({ withPayer: 10000, withPatient: 6000 });
    // Again changes nothing; taken back, everything is where it was.
    expect(await changeCoverage(t.context, { ...change, validTo: addDays(TODAY, -10) })).toMatchObject({
      followed: 0,
      left: 0,
    });
    await changeCoverage(t.context, { ...change, validTo: '' });
    expect(await figures(householdId)).toEqual({ withPayer: 16000, withPatient: 0 });
  });

  test('what is on a claim stays there; withdrawn, it follows', async () => {
    const { householdId, patientId } = await household(t);
    await charge(t, t.context, patientId, '60.00');
    const [claimId] = await buildClaims(t.context, { householdId });
    const [coverage] = await coverages(householdId);
    const { id: coverageId, memberId } = coverage!;
    expect(
      await changeCoverage(t.context, { coverageId, memberId, validTo: addDays(TODAY, -1) }),
    ).toMatchObject({
      followed: 0,
      left: 0,
    });
    expect(await figures(householdId)).toEqual({ withPayer: 6000, withPatient: 0 });
    await withdrawClaim(t.context, { claimId: claimId!, why: 'coverage ended' });
    expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 6000 });
  });
});

test('the database lets no two coverages stand in one order on one day, whoever writes', async () => {
  const { caseId, patientId } = await household(t);
  // Another policy, which was in force long ago.
  const { coverageId } = await addCoverage(t.context, {
    patientId,
    insurancePlanId: other(),
    memberId: 'LONGAGO1',
    position: 3,
    validTo: '2019-12-31',
    key: key(),
  });
  const { policy_id } = await t.db
    .selectFrom('coverage')
    .select('policy_id')
    .where('id', '=', coverageId)
    .executeTakeFirstOrThrow();
  const insert = (from: string | null, to: string | null, position: number) =>
    t.db
      .insertInto('coverage')
      .columns(['case_id', 'position', 'policy_id', 'valid_from', 'valid_to'])
      .values({
        case_id: caseId,
        position,
        policy_id,
        valid_from: from === null ? null : calendarDate(from),
        valid_to: to === null ? null : calendarDate(to),
      })
      .execute();
  await expect(insert('2026-01-01', null, 1)).rejects.toThrow(/one_coverage_in_order/);
  await expect(insert(null, null, 2)).rejects.toThrow(/one_place_of_a_policy/);
  await insert('2026-01-01', '2026-01-31', 2);
  await expect(insert('2026-01-31', null, 2)).rejects.toThrow(/one_coverage_in_order/);
  await insert('2026-02-01', null, 2);
  await expect(insert('2026-03-01', '2026-02-01', 3)).rejects.toThrow(/check|range/);
});

test('two people give one person another coverage at the same moment: one stands in an order on a day, the other is told', async () => {
  for (let round = 0; round < 4; round += 1) {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '145.00');
    const give = (memberId: string) =>
      addCoverage(t.context, {
        patientId,
        insurancePlanId: t.insurancePlans['CS-350'],
        memberId,
        key: key(),
      });
    const given = await Promise.allSettled([give('CSH901'), give('CSH902'), give('CSH903')]);
    for (const one of given) if (one.status === 'rejected') expect(one.reason).toBeInstanceOf(Refused);
    expect(given.filter((one) => one.status === 'fulfilled').length).toBeGreaterThan(0);
    expect((await coverages(householdId)).filter(({ now }) => now)).toHaveLength(1);
    expect(await figures(householdId)).toEqual({ withPayer: 14500, withPatient: 0 });
  }
});

test('a change of coverage that breaks off while charges follow leaves everything as it was', async () => {
  const { householdId, patientId } = await household(t, false);
  for (const fee of ['145.00', '42.00', '20.00']) await charge(t, t.context, patientId, fee);
  const before = await page(householdId);
  // The connection is ended by another one as soon as the first charge has followed.
  await sql`
    create function cut_off() returns trigger language plpgsql as $$ begin perform
      pg_terminate_backend(pg_backend_pid());
    return new;
    end $$`.execute(t.owner);
  await sql`
    create trigger cut_off after insert on entry
    for each row when (new.kind = 'coverage-change') execute function cut_off()`.execute(t.owner);
  const give = (once: string) =>
    addCoverage(t.context, {
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH904',
      key: once,
    });
  const once = key();
  try {
    await expect(give(once)).rejects.toThrow();
  } finally {
    await sql`drop function cut_off cascade`.execute(t.owner);
  }
  expect(await page(householdId)).toEqual(before);
  // The same press again finishes it.
  expect(await give(once)).toMatchObject({ followed: 3, left: 0 });
  expect(await figures(householdId)).toEqual({ withPayer: 20700, withPatient: 0 });
});

test('property: whatever coverages come and end, every unbilled charge is owed by who covers its day', async () => {
  const day = fc.integer({ min: -40, max: 0 }).map((days) => addDays(TODAY, days));
  await fc.assert(
    fc.asyncProperty(
      fc.array(day, { minLength: 1, maxLength: 4 }),
      fc.array(fc.record({ kind: fc.constantFrom('add', 'end', 'reopen'), at: day, which: fc.nat(3) }), {
        minLength: 1,
        maxLength: 6,
      }),
      async (visits, steps) => {
        const { householdId, patientId } = await household(t, false);
        for (const visit of visits) await charge(t, t.context, patientId, '10.00', '99213', visit);
        for (const step of steps) {
          const known = await coverages(householdId);
          const one = known[step.which % Math.max(1, known.length)];
          const act =
            step.kind === 'add' || !one
              ? addCoverage(t.context, {
                  patientId,
                  insurancePlanId: step.which % 2 === 0 ? t.insurancePlans['CS-350'] : other(),
                  memberId: 'P1',
                  validFrom: step.at,
                  key: key(),
                })
              : changeCoverage(t.context, {
                  coverageId: one.id,
                  memberId: 'P1',
                  validFrom: one.validFrom,
                  validTo: step.kind === 'end' ? step.at : '',
                });
          await act.catch((error: unknown) => {
            if ((error as Error).name !== 'Refused') throw error;
          });
        }
        const { charges, members } = await page(householdId);
        for (const item of charges) {
          const covers = members[0]!.cases[0].coverages.find(
            (c) => (c.validFrom ?? '0000') <= item.date && item.date <= (c.validTo ?? '9999'),
          );
          expect(item.withPatient).toBe(covers ? 0 : 1000);
          expect(
            item.payers.filter((payer) => payer.withPayer !== 0).map((payer) => payer.coverageId),
          ).toEqual(covers ? [covers.id] : []);
        }
      },
    ),
    { numRuns: runs(25) },
  );
});
