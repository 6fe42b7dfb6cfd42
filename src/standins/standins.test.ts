import { mkdtemp, readFile, readdir, rm, mkdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { addDays, calendarDate } from '../core/calendar';
import type { ClaimContent } from '../core/claims/content';
import { claimFaults, paymentFault } from '../core/remittances/balance';
import { cents, sum } from '../core/money';
import { read277CA, read999, readTa1 } from '../core/x12/acknowledgments';
import { write837 } from '../core/x12/claim837';
import { readSets } from '../core/x12/interchange';
import { readRemittances } from '../core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleClaim } from '../core/x12/samples';
import { clearinghouseRound } from './clearinghouse';

let root = '';
const today = calendarDate('2026-03-16');
beforeEach(async () => {
  root = await mkdtemp(join(tmpdir(), 'wergeld-standin-'));
  await mkdir(join(root, 'outbox'));
});
afterEach(() => rm(root, { recursive: true, force: true }));

const send = (name: string, text: string) => writeFile(join(root, 'outbox', `${name}.x12`), text);
const file = (claims: ClaimContent[]) =>
  write837({
    interchange: { ...SAMPLE_INTERCHANGE, sender: 'OSPREYLANDING', receiver: 'TIDELINE' },
    controlNumber: '7',
    date: '20260316',
    time: '1200',
    submitter: { name: 'O', contact: 'C', phone: '5550100' },
    receiverName: 'T',
    claims,
  });
const round = (on = today) => clearinghouseRound(root, join(root, 'state.json'), on);
const inbox = async (end: string) =>
  Promise.all(
    (await readdir(join(root, 'inbox')))
      .filter((name) => name.endsWith(end))
      .sort()
      .map((name) => readFile(join(root, 'inbox', name), 'utf8')),
  );
const claim = (more: Partial<ClaimContent> = {}, memberId = 'CSH1000011'): ClaimContent => ({
  ...sampleClaim(),
  subscriber: { ...sampleClaim().subscriber, memberId },
  ...more,
});

describe('the simulated clearinghouse and payers', () => {
  test('a next payer pays no more than the one before left to the patient, and says what came before it (OA-23)', async () => {
    const { lines, total } = sampleClaim();
    const left = 1000;
    const told = lines.map(({ number, code, charge }) => ({
      number,
      code,
      modifiers: [],
      paid: cents(charge - left),
      units: 1,
      adjustments: [{ group: 'PR' as const, reason: '2', amount: cents(left) }],
    }));
    const before = {
      coverageOrder: 1,
      filingCode: 'CI',
      payer: { name: 'Before', payerId: '90009' },
      subscriber: {
        last: 'A',
        first: 'B',
        middle: '',
        suffix: '',
        memberId: 'M1',
        groupNumber: 'G',
        planName: '',
      },
      relationship: 'self' as const,
      decided: {
        paid: cents(total - left * lines.length),
        date: today,
        payerClaimNumber: 'P9',
        adjustments: [],
        remarks: [],
        lines: told,
      },
    };
    await send('a', file([claim({ coverageOrder: 2, otherPayers: [before] })]));
    await round();
    await round();
    const [remit] = await readRemittances(await inbox('.835'));
    const [own] = remit!.claims;
    expect(own!.status).toBe('2');
    expect(claimFaults(own!)).toEqual([]);
    for (const line of own!.lines) {
      expect(line.paid).toBeLessThanOrEqual(left);
      expect(line.adjustments).toContainEqual({ group: 'OA', reason: '23', amount: line.charge - left });
    }
  });

  test('answers TA1, 999 and 277CA at once, and an 835 that balances in the next round', async () => {
    await send('a', file([claim(), claim({ controlNumber: 'OL100002B' }, 'WRONG1')]));
    await round();
    expect(readTa1((await readSets(await inbox('.ta1'))).ta1[0]!)).toMatchObject({ code: 'A' });
    expect(read999((await readSets(await inbox('.999'))).sets[0]!)).toMatchObject({
      code: 'A',
      controlNumber: '7',
    });
    const { claims } = read277CA((await readSets(await inbox('.277'))).sets[0]!);
    expect(
      claims.map((item) => [
        item.controlNumber,
        item.action,
        item.statuses[0]!.category,
        item.statuses[0]!.status,
      ]),
    ).toEqual([
      ['OL100001A', 'WQ', 'A2', '20'],
      ['OL100002B', 'U', 'A7', '164'],
    ]);
    expect(await inbox('.835')).toEqual([]);
    await round();
    const [remit] = await readRemittances(await inbox('.835'));
    expect(remit!.claims.flatMap(claimFaults)).toEqual([]);
    expect(
      paymentFault(
        remit!.trace,
        remit!.payment,
        sum(remit!.claims.map((item) => item.paid)),
        remit!.providerAdjustments,
      ),
    ).toBeNull();
    // Deductible of 500.00 a year takes the contracted 98.00 and 26.00 whole (the stand-in's CS-200 terms).
    expect(
      remit!.claims[0]!.lines.map((line) =>
        line.adjustments.map((item) => `${item.group}-${item.reason} ${item.amount}`),
      ),
    ).toEqual([
      ['CO-45 4700', 'PR-1 9800'],
      ['CO-45 1600', 'PR-1 2600'],
    ]);
  });

  test('the same claim twice is a duplicate, an ended coverage is denied, a bundled line is denied alone', async () => {
    const bundled = claim({ controlNumber: 'OL100003C' });
    bundled.lines = [{ ...bundled.lines[0]! }, { ...bundled.lines[1]!, code: '99051' }];
    await send('a', file([claim(), claim({ controlNumber: 'OL100009Z' }, 'CSH1000099'), bundled]));
    await round();
    await send('b', file([claim()]));
    await round();
    const answers = (await readSets(await inbox('.277'))).sets.map(read277CA);
    expect(answers[1]!.claims[0]).toMatchObject({
      action: 'U',
      statuses: [{ category: 'A3', status: '54' }],
    });
    const [remit] = await readRemittances(await inbox('.835'));
    expect(remit!.claims.map((item) => item.status)).toEqual(['1', '4', '1']);
    expect(remit!.claims[2]!.lines[1]!.adjustments).toEqual([{ group: 'CO', reason: '97', amount: 4200 }]);
  });

  test('a file that is no X12 gets a rejecting TA1; the same seed gives the same answers', async () => {
    await send('a', file([claim()]).replace('SE*', 'SE*9'));
    await round();
    expect(readTa1((await readSets(await inbox('.ta1'))).ta1[0]!)).toMatchObject({ code: 'R' });
  });

  test.each([
    ['CSH1000088', 42, 'more'],
    ['CSH1000077', 210, 'less'],
    ['CSH1000012', 300, 'nothing'],
  ])('%s: after %i days the payer takes its word back and pays %s', async (memberId, days, pays) => {
    const one = claim({}, memberId);
    one.subscriber = { ...one.subscriber, groupNumber: pays === 'less' ? 'CS-350' : 'CS-200' };
    if (pays === 'less') one.lines = one.lines.map((line) => ({ ...line, code: '99214' }));
    await send('a', file([one]));
    await round();
    await round();
    await round(addDays(today, days - 1));
    expect((await readRemittances(await inbox('.835'))).length).toBe(1);
    await round(addDays(today, days));
    await round(addDays(today, days + 1));
    const [first, second, third] = await readRemittances(await inbox('.835'));
    expect(third).toBeUndefined();
    if (pays === 'nothing') return expect(second).toBeUndefined();
    const [was] = first!.claims;
    const [taken, now] = second!.claims;
    expect([taken!.status, taken!.paid + was!.paid, now!.status]).toEqual(['22', 0, '1']);
    expect(Math.sign(now!.paid - was!.paid)).toBe(pays === 'more' ? 1 : -1);
    // What one says anew, all of it: less of one is more of the other.
    expect(now!.paid + now!.patientResponsibility).toBe(was!.paid + was!.patientResponsibility);
  });

  test('a correction takes the first decision back; a void is carried forward and withheld later', async () => {
    const paid = claim({}, 'CSH1000012');
    paid.subscriber = { ...paid.subscriber, groupNumber: 'CS-350' };
    await send('a', file([paid]));
    await round();
    await round();
    const [first] = await readRemittances(await inbox('.835'));
    const { payerClaimNumber } = first!.claims[0]!;
    const again = { ...paid, frequency: '7' as const, payerClaimNumber };
    await send('b', file([{ ...again, controlNumber: 'OL100022W' }]));
    await round();
    await round();
    const [, second] = await readRemittances(await inbox('.835'));
    expect(second!.claims.map(({ status, paid: amount }) => [status, amount])).toEqual([
      ['22', -first!.payment],
      ['1', first!.payment],
    ]);
    expect([second!.payment, second!.method]).toEqual([0, 'NON']);
    const theirs = second!.claims[1]!.payerClaimNumber;
    await send(
      'c',
      file([{ ...again, controlNumber: 'OL100023X', frequency: '8', payerClaimNumber: theirs }]),
    );
    await round();
    await round();
    await send('d', file([{ ...paid, controlNumber: 'OL100024Y' }]));
    await round();
    await round();
    const [, , third, fourth] = await readRemittances(await inbox('.835'));
    expect(third!.providerAdjustments.map(({ code, amount }) => [code, amount])).toEqual([
      ['FB', -first!.payment],
    ]);
    expect(fourth!.providerAdjustments.map(({ code, amount }) => [code, amount])).toEqual([
      ['WO', first!.payment],
    ]);
    for (const { trace, payment, claims, providerAdjustments } of [second!, third!, fourth!])
      expect(
        paymentFault(trace, payment, sum(claims.map((item) => item.paid)), providerAdjustments),
      ).toBeNull();
    // A number that the payer does not know is refused.
    await send('e', file([{ ...again, controlNumber: 'OL100025Z', payerClaimNumber: 'NOT1' }]));
    await round();
    const answers = (await readSets(await inbox('.277'))).sets.map(read277CA);
    expect(answers.at(-1)!.claims[0]).toMatchObject({ action: 'U', statuses: [{ status: '464' }] });
  });
});
