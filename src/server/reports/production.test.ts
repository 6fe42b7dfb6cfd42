/**
 * The day sheet of a provider on the day of a visit and after the payer's answer, both ways. Worked by hand: a visit of 145.00, of which
 * the contract takes 47.00 off; the payer answers a week later.
 */
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, decided, household, intake, remitText } from '../../testing/desk';
import { enterCharge } from '../accounts/charges';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { settleWaiting } from '../follow-ups/work';
import { postRemittance } from '../remittances/post';
import { saveSetup } from '../setup/save';
import { reportOf } from './index';
import { reportPdf } from './write';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));
beforeAll(async () => {
  // Later than any visit of the tests.
  await t.db.updateTable('practice').set({ write_offs_count: 'answer' }).execute();
});

const SEEN = addDays(TODAY, -7);
const PAID = addDays(TODAY, -3);
let serial = 0;
const read = (name: string, address: Record<string, string>) => reportOf(name)!.read(t.context, address);
const sheet = async (provider: number, day: string) => {
  const { totals } = await read('production', { from: day, to: day, provider: String(provider) });
  const { charged, contract, reduced, answered, expected, net } = totals;
  return { charged, contract, reduced, answered, expected, net };
};

/** A visit a week ago with somebody who sees nobody else. */
async function seen(provider: number) {
  const desk = { ...t.context, today: SEEN };
  const made = await household(t);
  await enterCharge(desk, {
    patientId: made.patientId,
    providerId: provider,
    serviceDate: SEEN,
    code: '99213',
    diagnoses: ['I10'],
    key: `production-${(serial += 1)}`,
  });
  const [claimId] = await buildClaims(desk, { householdId: made.householdId });
  await sendClaims(desk, { claimIds: [claimId!] });
  const { controlNumber, content } = (await readClaim(t.context, claimId!))!;
  return async (paid: number, reasons: string[]) => {
    const { outcomes } = await intake(
      t.context,
      remitText(
        [decided(controlNumber, [{ control: content.lines[0]!.control, charge: 14500, paid, reasons }])],
        {
          trace: `PROD${(serial += 1)}`,
          // Paid three days before it is posted.
          date: PAID,
        },
      ),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
  };
}
/** A provider of one's own. */
const provider = async (): Promise<number> =>
  Number(
    await saveSetup(t.context, {
      table: 'providers',
      values: {
        last: `Sheet${(serial += 1)}`,
        first: 'Ana',
        suffix: 'MD',
        npi: npi(serial),
        taxonomy: '207Q00000X',
        location_id: String(
          (await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow()).id,
        ),
        active: true,
      },
    }),
  );
/** A number whose check digit is right (Luhn with the prefix 80840, as CMS publishes). */
function npi(n: number): string {
  const body = `199${String(100000 + n)}`;
  const digits = `80840${body}`.split('').reverse().map(Number);
  const sum = digits.reduce((all, digit, at) => {
    const twice = at % 2 === 0 ? digit * 2 : digit;
    return all + (twice > 9 ? twice - 9 : twice);
  }, 0);
  return `${body}${(10 - (sum % 10)) % 10}`;
}

test.each(['answer', 'service'] as const)(
  'counted %s: the day of the visit and the day of the answer, both ways',
  async (way) => {
    await t.db.updateTable('practice').set({ write_offs_count: way }).execute();
    const who = await provider();
    const answer = await seen(who);
    const visited = { charged: 14500, contract: 0, reduced: 0, answered: 14500, expected: 4700, net: 9800 };
    expect(await sheet(who, SEEN)).toEqual(visited);
    expect(
      (await read('production-lines', { from: SEEN, to: SEEN, provider: String(who) })).groups[0]!.rows,
    ).toMatchObject([
      { fee: 14500, off: 4700, expected: 4700, why: 'expected, and not answered in the period' },
    ]);
    // 65.00 came off, 18.00 more than was expected.
    await answer(8000, ['CO-45:65.00']);
    expect(await sheet(who, SEEN)).toEqual(visited);
    expect(await sheet(who, PAID)).toEqual({
      charged: 0,
      contract: 6500,
      reduced: 0,
      answered: -6500,
      expected: -4700,
      net: -1800,
    });
    // Over all of it both say the same: 145.00 less 65.00.
    const { totals } = await read('production', { from: SEEN, to: '2026-12-31', provider: String(who) });
    expect([totals.answered, totals.net, totals.payers]).toEqual([8000, 8000, 8000]);
    await t.db.updateTable('practice').set({ write_offs_count: 'answer' }).execute();
  },
);

test('what says nothing for what was chosen is left out, of the ways to group too', async () => {
  const page = await read('production', { by: 'day', group: 'location' });
  expect(page.columns.map(({ key }) => key).slice(0, 2)).toEqual(['on', 'services']);
  expect(page.parameters.map(({ key }) => key)).toEqual(['from', 'to', 'by']);
  expect(page.chart!.along).toBe('on');
});

test('the page says which way the practice counts', async () => {
  await t.db.updateTable('practice').set({ write_offs_count: 'service' }).execute();
  expect((await read('production', {})).about).toMatch(
    /counts write-offs of contracts on the day of service/,
  );
  await t.db.updateTable('practice').set({ write_offs_count: 'answer' }).execute();
});

test('pay: a share of what was earned or came in, by kind of service, by what held on the day, on a page for each', async () => {
  const who = await provider();
  const share = (values: Record<string, string>) =>
    saveSetup(t.context, {
      table: 'provider-shares',
      values: { provider_id: String(who), category: '', valid_from: '', active: true, ...values },
    });
  await share({ basis: 'service', share: '40 %' });
  const answer = await seen(who);
  const pay = async () =>
    (await read('provider-pay', { from: SEEN, to: '2026-12-31', provider: String(who) })).totals;
  // 40 % of 98.00.
  expect(await pay()).toMatchObject({ earned: 9800, pay: 3920 });
  await answer(8000, ['CO-45:65.00']);
  // 40 % of 80.00, which is 98.00 of the day and 18.00 less when answered.
  expect(await pay()).toMatchObject({ earned: 8000, pay: 3200 });
  const { category } = await t.db
    .selectFrom('service_code')
    .select('category')
    .where('code', '=', '99213')
    .executeTakeFirstOrThrow();
  await share({ category, basis: 'collected', share: '33.33 %' });
  // A third of what came in: 26.664.
  expect(await pay()).toMatchObject({ earned: 8000, pay: 2666 });
  await share({ category, basis: 'answer', share: '50 %', valid_from: TODAY });
  const groups = await read('provider-pay', { from: SEEN, to: '2026-12-31', group: 'provider' });
  expect(groups.pages).toBe(true);
  const bytes = await reportPdf(t.context, reportOf('provider-pay')!, {
    from: SEEN,
    to: '2026-12-31',
    group: 'provider',
  });
  expect(bytes.toString('latin1').match(/\/Type \/Page\b/g)!.length).toBeGreaterThanOrEqual(
    groups.groups.length,
  );
});

test('what is written off later is taken off the pay of the day on which it is, also where nothing else moved', async () => {
  const who = await provider();
  await saveSetup(t.context, {
    table: 'provider-shares',
    values: {
      provider_id: String(who),
      category: '',
      valid_from: '',
      active: true,
      basis: 'answer',
      share: '40 %',
    },
  });
  const answer = await seen(who);
  await answer(0, ['CO-50:145.00']);
  const { id: chargeId } = await t.db
    .selectFrom('charge')
    .select('id')
    .where('provider_id', '=', who)
    .executeTakeFirstOrThrow();
  await settleWaiting(t.context, { chargeId, to: 'off', why: 'not worth an appeal' });
  const pay = async (day: string) =>
    (await read('provider-pay', { from: day, to: day, provider: String(who) })).totals;
  // 40 % of 145.00, and as much less when all of it is written off.
  expect(await pay(SEEN)).toMatchObject({ earned: 14500, pay: 5800 });
  expect(await pay(TODAY)).toMatchObject({ earned: -14500, pay: -5800 });
});
