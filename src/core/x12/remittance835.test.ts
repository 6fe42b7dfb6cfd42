import { calendarDate } from '../calendar';
import fc from 'fast-check';
import { anyRemitClaim } from '../../testing/arbitraries';
import {
  ADVICE_OF_A_HOSPITAL,
  ADVICE_OF_A_PRACTICE,
  ADVICE_OF_A_SECOND_PAYER,
  PUBLISHED_ADVICES,
} from '../../testing/published-examples';
import { cut, foreign, remittance } from '../../testing/x12';
import { cents, sum } from '../money';
import { claimFaults, paymentFault } from '../remittances/balance';
import { readRemittances, write835 } from './remittance835';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from './samples';
import { SegmentReader } from './segments';
import { runs } from '../../testing/runs';

describe('835', () => {
  // 005010X221A1, section 1.10.2: line, claim and payment balance; in every example the guide prints, each does.
  test.each(PUBLISHED_ADVICES.map((text) => [text]))(
    'a published example balances at all three levels',
    async (text) => {
      const [remit] = await readRemittances([text]);
      expect(remit!.claims.flatMap(claimFaults)).toEqual([]);
      expect(
        paymentFault(
          remit!.trace,
          remit!.payment,
          sum(remit!.claims.map((claim) => claim.paid)),
          remit!.providerAdjustments,
        ),
      ).toBeNull();
      expect((await foreign(text)).map((segment) => segment.name)).toEqual(
        new SegmentReader().push(text).map((segment) => segment.id),
      );
    },
  );

  test('the published examples say what they are known to say', async () => {
    const [hospital] = await readRemittances([ADVICE_OF_A_HOSPITAL]);
    expect(hospital).toMatchObject({
      payment: 15000000,
      date: '2002-09-13',
      payer: { name: 'INSURANCE COMPANY OF TIMBUCKTU', id: '999' },
      payee: { npi: '6543210903' },
      providerAdjustments: [{ code: 'CV', reference: '1.27', amount: -127 }],
      claims: [
        { controlNumber: '666123', charge: 21136697, paid: 13801840, date: '2002-08-16', lines: [] },
        { controlNumber: '777777', paid: 1198033, remarks: ['MA02'], patient: { last: 'BORDER' } },
      ],
    });
    const [practice] = await readRemittances([ADVICE_OF_A_PRACTICE]);
    expect(practice).toMatchObject({
      payment: 94500,
      trace: '71700666555',
      payer: { name: 'RUSHMORE LIFE' },
      date: '2019-03-16',
    });
    expect(practice!.claims.map((claim) => [claim.controlNumber, claim.paid, claim.lines[0]!.paid])).toEqual([
      ['5554555444', 45000, 50000],
      ['8765432112', 49500, 55000],
    ]);
    const [second] = await readRemittances([ADVICE_OF_A_SECOND_PAYER]);
    expect(second).toMatchObject({ method: 'CHK', payment: 122200, payee: { npi: '' } });
    expect(second!.claims[1]).toMatchObject({
      status: '2',
      patientResponsibility: 22000,
      lines: [
        { code: '12345', modifiers: ['26'], paid: 15000, allowed: 15000 },
        {
          adjustments: [
            { group: 'PR', reason: '1', amount: 15000 },
            { group: 'PR', reason: '2', amount: 7000 },
            { group: 'CO', reason: '42', amount: 20500 },
          ],
        },
      ],
    });
  });

  test('one cent off is found at its level', async () => {
    const off = async (from: string, to: string) =>
      (await readRemittances([ADVICE_OF_A_PRACTICE.replace(from, to)]))[0]!;
    expect(
      (await off('SVC*HC:99211*800*500', 'SVC*HC:99211*800*500.01')).claims.flatMap(claimFaults),
    ).toMatchObject([{ level: 'line', difference: 1 }]);
    expect((await off('*1200*495*600*', '*1200*494.99*600*')).claims.flatMap(claimFaults)).toMatchObject([
      { level: 'claim', difference: -1 },
    ]);
    expect(paymentFault('T', cents(94501), cents(94500), [])).toMatchObject({
      level: 'payment',
      difference: 1,
    });
    expect(
      paymentFault('T', cents(94637), cents(94500), [{ code: 'L6', reference: '', amount: cents(-137) }]),
    ).toBeNull();
  });

  test('what is written is read back the same, in pieces of any size', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(anyRemitClaim, { maxLength: 5 }),
        fc.integer({ min: 1, max: 300 }),
        async (claims, size) => {
          const remit = {
            ...remittance(claims, 12_345),
            providerAdjustments: [
              {
                code: 'L6',
                reference: 'R1',
                amount: cents(-5),
                provider: '1234567893',
                period: calendarDate('2025-12-31'),
              },
            ],
          };
          const text = write835(SAMPLE_INTERCHANGE, [remit, { ...remit, trace: 'T2' }], '20260316');
          expect(await readRemittances(cut(text, size))).toEqual([remit, { ...remit, trace: 'T2' }]);
        },
      ),
      { numRuns: runs(120) },
    );
  });

  test('another X12 package sees the same segments', async () => {
    const text = write835(
      SAMPLE_INTERCHANGE,
      [remittance([sampleRemitClaim('OL100001A')], 9800)],
      '20260316',
    );
    const theirs = await foreign(text);
    expect(theirs.map((segment) => segment.name)).toEqual(
      new SegmentReader().push(text).map((segment) => segment.id),
    );
    expect(theirs.find((segment) => segment.name === 'CLP')).toMatchObject({
      '1': 'OL100001A',
      '3': '145.00',
      '4': '98.00',
    });
  });
});
