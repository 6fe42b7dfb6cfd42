import { Readable } from 'node:stream';
import fc from 'fast-check';
import { X12parser } from 'x12-parser';
import { addDays, calendarDate } from '../calendar';
import { type Cents, cents } from '../money';
import { claimFaults, paymentFault } from '../remittances/balance';
import { read277CA, read999, readTa1, write277CA, write999, writeTa1 } from './acknowledgments';
import { read837, write837 } from './claim837';
import { X12Writer, readSets } from './envelope';
import {
  type Adjustment,
  type RemitClaim,
  type Remittance,
  readRemittances,
  write835,
} from './remittance835';
import { SAMPLE_INTERCHANGE, sampleClaim, sampleRemitClaim } from './samples';
import { SegmentReader, X12Error, readSegments } from './segments';

const remittance = (claims: RemitClaim[], payment: number): Remittance => ({
  payment: cents(payment),
  method: 'ACH',
  date: calendarDate('2026-03-12'),
  trace: 'T1',
  originator: '1910000011',
  payer: { name: 'Cedar Sound Health', id: 'CSH01' },
  payee: { name: 'Osprey Landing Health', npi: '1234567893' },
  claims,
  providerAdjustments: [],
});
const transmission = (form: 'professional' | 'dental') =>
  write837({
    interchange: SAMPLE_INTERCHANGE,
    controlNumber: '7',
    date: '20260316',
    time: '0600',
    submitter: { name: 'Osprey Landing Health', contact: 'Desk', phone: '555-0100' },
    receiverName: 'Tideline',
    claims: [
      sampleClaim(form),
      {
        ...sampleClaim(form),
        controlNumber: 'OL100002B',
        relationship: 'child',
        patient: { ...sampleClaim().patient, first: 'Leo', birthDate: calendarDate('2012-09-30'), sex: 'M' },
      },
    ],
  });
const cut = (text: string, size: number): string[] =>
  text.match(new RegExp(`[\\s\\S]{1,${size}}`, 'g')) ?? [];

/** Reads with a general X12 package from the registry. */
const foreign = (text: string): Promise<Record<string, string>[]> =>
  new Promise((resolve, reject) => {
    const found: Record<string, string>[] = [];
    const parser = new X12parser();
    parser
      .on('data', (segment: Record<string, string>) => found.push(segment))
      .on('end', () => resolve(found))
      .on('error', reject);
    Readable.from([text]).pipe(parser);
  });

/**
 * The first example of the 835 guide (005010X221A1, “dollars and data sent separately”), from memory: two claims with
 * adjustments at both levels, 945.00 in all.
 */
const GUIDE_EXAMPLE = `ISA*00*          *00*          *ZZ*SENDER         *ZZ*RECEIVER       *190827*0212*^*00501*191511902*0*P*:~GS*HP*SENDER*RECEIVER*20190827*12345678*12345678*X*005010X221A1~
ST*835*112233~BPR*I*945*C*ACH*CCP*01*888999777*DA*24681012*1935665544**01*111333555*DA*144444*20190316~TRN*1*71700666555*1935665544~DTM*405*20190314~N1*PR*RUSHMORE LIFE~N3*10 SOUTH AVENUET~N4*RAPID CITY*SD*55111~PER*BL*JOHN WAYNE*TE*8005551212*EX*123~N1*PE*ACME MEDICAL CENTER*XX*5544667733~REF*TJ*777667755~LX*1~
CLP*5554555444*1*800*450*300*12*94060555410000~CAS*CO*A2*50~NM1*QC*1*BUDD*WILLIAM****MI*33344555510~SVC*HC:99211*800*500~DTM*150*20190301~DTM*151*20190304~CAS*PR*1*300~
CLP*8765432112*1*1200*495*600*12*9407779923000~CAS*CO*A2*55~NM1*QC*1*SETTLE*SUSAN****MI*44455666610~SVC*HC:93555*1200*550~DTM*150*20190310~DTM*151*20190312~CAS*PR*1*600~CAS*CO*45*50~SE*27*112233~GE*1*12345678~IEA*1*191511902~`;

describe('segments and envelopes', () => {
  test('any delimiters, line breaks or none, pieces of any size: the same segments', async () => {
    const text = transmission('professional');
    const plain = [...new SegmentReader().push(text)].map((segment) => segment.elements);
    for (const [element, component, end] of [
      ['|', '>', '\n'],
      ['\x1d', '\x1f', '\x1c'],
      ['+', ';', "'"],
    ] as const) {
      const other = [...text]
        .map((c) => (c === '*' ? element : c === ':' ? component : c === '~' ? end : c))
        .join('');
      const broken = end === '\n' ? other : other.replaceAll(end, `${end}\r\n`);
      for (const size of [1, 7, 4096]) {
        const found: string[][] = [];
        for await (const batch of readSegments(cut(broken, size)))
          found.push(...batch.map((segment) => segment.elements));
        expect(found.slice(1).map((e) => e.map((part) => part.replaceAll(component, ':')))).toEqual(
          plain.slice(1),
        );
      }
    }
  });

  test('several interchanges, groups and sets in one file', async () => {
    const x = new X12Writer({ ...SAMPLE_INTERCHANGE, controlNumber: '000000009' });
    for (const group of ['1', '2']) {
      x.beginGroup('FA', '005010X231A1', group, '20260316');
      for (const set of ['0001', '0002'])
        x.beginSet('999', set).segment('AK1', 'HC', group).segment('AK9', 'A', '1', '1', '1').endSet();
      x.endGroup();
    }
    const { sets, interchanges } = await readSets([x.finish(), '\n\n', GUIDE_EXAMPLE]);
    expect(interchanges.map((item) => item.controlNumber)).toEqual(['000000009', '191511902']);
    expect(sets.map((set) => `${set.setId} ${set.group.controlNumber} ${set.controlNumber}`)).toEqual([
      '999 1 0001',
      '999 1 0002',
      '999 2 0001',
      '999 2 0002',
      '835 12345678 112233',
    ]);
  });

  test.each([
    [
      'a wrong count in SE',
      (t: string) => t.replace('SE*27*', 'SE*24*'),
      /\(SE01\): expected 27 segments, the count says 24/,
    ],
    [
      'a wrong control number in SE',
      (t: string) => t.replace('SE*27*112233', 'SE*27*112234'),
      /\(SE02\): expected control number 112233/,
    ],
    ['a wrong count in GE', (t: string) => t.replace('GE*1*', 'GE*2*'), /\(GE01\): expected 1 sets/],
    ['a wrong count in IEA', (t: string) => t.replace('IEA*1*', 'IEA*3*'), /\(IEA01\): expected 1 groups/],
    [
      'a wrong control number in IEA',
      (t: string) => t.replace('IEA*1*191511902', 'IEA*1*191511903'),
      /\(IEA02\)/,
    ],
    [
      'a truncated file',
      (t: string) => t.slice(0, 700),
      /breaks off here, in the middle of a segment: expected IEA/,
    ],
    ['a file without IEA', (t: string) => t.slice(0, t.indexOf('IEA')), /breaks off here: expected IEA/],
    ['an empty file', () => '', /the file is empty/],
    ['a PDF', () => `%PDF-1.7\n${'x'.repeat(300)}`, /expected ISA, this is not an X12 interchange/],
    ['a short text', () => 'hello', /not an X12 file/],
    [
      'letters where money is expected',
      (t: string) => t.replace('CLP*5554555444*1*800', 'CLP*5554555444*1*8OO'),
      /segment 14 \(CLP03\): expected an amount of money.*8OO/,
    ],
    ['three decimals', (t: string) => t.replace('*495*600', '*495.001*600'), /\(CLP04\): expected an amount/],
    [
      'an absurd amount',
      (t: string) => t.replace('BPR*I*945', 'BPR*I*94500000000000000000'),
      /\(BPR02\): expected an amount/,
    ],
    [
      'an unknown group code',
      (t: string) => t.replace('CAS*CO*A2*50', 'CAS*XX*A2*50'),
      /\(CAS01\): expected a group code/,
    ],
    ['no payer', (t: string) => t.replace('N1*PR*RUSHMORE LIFE~', 'N1*QQ*RUSHMORE LIFE~'), /expected N1\*PR/],
    ['a letter as delimiter', (t: string) => t.replaceAll('*', 'Q'), /ISA must have 16 elements/],
    [
      'a date that does not exist',
      (t: string) => t.replace('*144444*20190316', '*144444*20190231'),
      /\(BPR16\): expected a date/,
    ],
  ])('%s is named with its place', async (_name, spoil, message) => {
    await expect(readRemittances([spoil(GUIDE_EXAMPLE)])).rejects.toThrow(message);
  });

  test('mutated input ends with a result or an X12 error, never otherwise', async () => {
    const mutation = fc.record({
      at: fc.nat(GUIDE_EXAMPLE.length),
      drop: fc.nat(30),
      put: fc.string({ maxLength: 6 }),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(mutation, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 500 }),
        async (mutations, size) => {
          let text = GUIDE_EXAMPLE;
          for (const m of mutations) text = text.slice(0, m.at) + m.put + text.slice(m.at + m.drop);
          try {
            await readRemittances(cut(text, size));
          } catch (error) {
            expect(error).toBeInstanceOf(X12Error);
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('835', () => {
  test('the guide’s first example is read and balances at all three levels', async () => {
    const [remit] = await readRemittances([GUIDE_EXAMPLE]);
    expect(remit).toMatchObject({
      payment: 94500,
      trace: '71700666555',
      payer: { name: 'RUSHMORE LIFE' },
      date: '2019-03-16',
    });
    expect(remit!.claims.map((claim) => [claim.controlNumber, claim.paid, claim.lines[0]!.paid])).toEqual([
      ['5554555444', 45000, 50000],
      ['8765432112', 49500, 55000],
    ]);
    expect(remit!.claims.flatMap(claimFaults)).toEqual([]);
    expect(paymentFault(remit!.trace, remit!.payment, cents(94500), [])).toBeNull();
  });

  test('one cent off is found at its level', async () => {
    const off = async (from: string, to: string) =>
      (await readRemittances([GUIDE_EXAMPLE.replace(from, to)]))[0]!;
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

  test('what is written is read back the same, and another X12 package sees the same segments', async () => {
    const money = fc.integer({ min: 0, max: 500_000 }).map((n) => cents(n));
    const adjustment: fc.Arbitrary<Adjustment> = fc.record({
      group: fc.constantFrom('CO', 'PR', 'OA', 'PI', 'CR') as fc.Arbitrary<'CO'>,
      reason: fc.constantFrom('1', '2', '3', '45', '97', 'A2'),
      amount: fc
        .integer({ min: -9000, max: 9000 })
        .filter((n) => n !== 0)
        .map((n) => cents(n)),
    });
    // The writer puts group codes in one order; so does the expectation.
    const ordered = fc
      .array(adjustment, { maxLength: 9 })
      .map((list) =>
        ['CO', 'PR', 'OA', 'PI', 'CR'].flatMap((group) => list.filter((item) => item.group === group)),
      );
    const name = fc.constantFrom(
      'Marchetti',
      'O’Rourke',
      "O'Neil",
      'Zsófia',
      'A'.repeat(60),
      'Mbeki-Larsson',
    );
    const claim: fc.Arbitrary<RemitClaim> = fc.record({
      controlNumber: fc.stringMatching(/^OL\d{6}[A-Z]$/),
      status: fc.constantFrom('1', '2', '4', '22'),
      charge: money,
      paid: money,
      patientResponsibility: money,
      payerClaimNumber: fc.stringMatching(/^[A-Z]\d{0,12}$/),
      adjustments: ordered,
      patient: fc.record({ last: name, first: name, memberId: fc.constantFrom('', 'CSH1') }),
      date: fc.constantFrom(null, addDays(calendarDate('2026-03-01'), 3)),
      remarks: fc.constantFrom([], ['N30'], ['N30', 'M15']),
      lines: fc.array(
        fc.record({
          code: fc.constantFrom('99213', 'D0120'),
          modifiers: fc.constantFrom([], ['25'], ['25', 'GP']),
          charge: money,
          paid: money,
          units: fc.integer({ min: 1, max: 99 }),
          date: fc.constantFrom(null, calendarDate('2026-03-09')),
          adjustments: ordered,
          lineControl: fc.constantFrom('', 'L77'),
          allowed: fc.option(money),
          remarks: fc.constantFrom([], ['N130']),
        }),
        { maxLength: 4 },
      ),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(claim, { maxLength: 5 }),
        fc.integer({ min: 1, max: 300 }),
        async (claims, size) => {
          const remit = {
            ...remittance(claims, 12_345),
            providerAdjustments: [{ code: 'L6', reference: 'R1', amount: cents(-5) as Cents }],
          };
          const text = write835(SAMPLE_INTERCHANGE, [remit, { ...remit, trace: 'T2' }], '20260316');
          expect(await readRemittances(cut(text, size))).toEqual([remit, { ...remit, trace: 'T2' }]);
        },
      ),
      { numRuns: 120 },
    );
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

describe('837', () => {
  test.each(['professional', 'dental'] as const)(
    'a %s claim is read back as it was written, dependents too',
    async (form) => {
      const { sets } = await readSets([transmission(form)]);
      const [own, child] = read837(sets[0]!);
      const { position: _p, ...read } = own!;
      expect(read).toEqual({ ...sampleClaim(form), billing: { ...sampleClaim(form).billing, taxId: '' } });
      expect(child).toMatchObject({
        relationship: 'child',
        patient: { first: 'Leo', birthDate: '2012-09-30', sex: 'M' },
      });
    },
  );

  test.each(['professional', 'dental'] as const)(
    'a general X12 package reads our %s claims; loops stand in the guide’s order',
    async (form) => {
      const text = transmission(form);
      const theirs = await foreign(text);
      expect(theirs.map((segment) => segment.name)).toEqual(
        new SegmentReader().push(text).map((segment) => segment.id),
      );
      expect(theirs.find((segment) => segment.name === 'GS')).toMatchObject({
        '8': form === 'dental' ? '005010X224A2' : '005010X222A1',
      });
      // 1000A, 1000B, 2000A, 2010AA, 2000B, 2010BA, 2010BB, 2300 (005010X222A1 and X224A2, section 1.4).
      const roles = theirs.filter((segment) => segment.name === 'NM1').map((segment) => segment['1']);
      expect(roles.slice(0, 6)).toEqual(['41', '40', '85', 'IL', 'PR', '82']);
      const service = theirs.find((segment) => segment.name === (form === 'dental' ? 'SV3' : 'SV1'))!;
      expect(service['1']).toBe(form === 'dental' ? 'AD' : 'HC');
      expect(service['2']).toBe(form === 'dental' ? '265.00' : '145.00');
    },
  );

  test('delimiters inside names do not break the file', async () => {
    const claim = sampleClaim();
    const odd = {
      ...claim,
      subscriber: {
        ...claim.subscriber,
        last: 'Mar*che~tti:^',
        address: { ...claim.subscriber.address, line1: '3 Gull*Walk\n' },
      },
    };
    const text = write837({
      interchange: SAMPLE_INTERCHANGE,
      controlNumber: '7',
      date: '20260316',
      time: '0600',
      submitter: { name: 'X', contact: 'Y', phone: '1' },
      receiverName: 'T',
      claims: [odd],
    });
    const [read] = read837((await readSets([text])).sets[0]!);
    expect(read!.subscriber.last).toBe('Mar che tti');
    expect(read!.lines).toHaveLength(2);
  });

  test('mixed forms and no claims are refused', () => {
    const parts = {
      interchange: SAMPLE_INTERCHANGE,
      controlNumber: '7',
      date: '20260316',
      time: '0600',
      submitter: { name: 'X', contact: 'Y', phone: '1' },
      receiverName: 'T',
    };
    expect(() => write837({ ...parts, claims: [] })).toThrow(RangeError);
    expect(() => write837({ ...parts, claims: [sampleClaim(), sampleClaim('dental')] })).toThrow(RangeError);
  });
});

describe('acknowledgments', () => {
  test('TA1, 999 and 277CA are read back as they were written', async () => {
    const about = { ...SAMPLE_INTERCHANGE, controlNumber: '000000003' };
    expect(readTa1((await readSets([writeTa1(SAMPLE_INTERCHANGE, about, 'R', '022')])).ta1[0]!)).toEqual({
      controlNumber: '000000003',
      code: 'R',
      note: '022',
    });

    const fault = {
      segment: 'CLM',
      position: 22,
      code: '8',
      element: { number: '2', code: '6', value: 'X' },
    };
    const group = {
      functionalId: 'HC',
      sender: 'A',
      receiver: 'B',
      controlNumber: '3',
      version: '005010X222A1',
    };
    const answer = read999(
      (
        await readSets([
          write999(
            SAMPLE_INTERCHANGE,
            group,
            [{ setId: '837', controlNumber: '0003', code: 'R', faults: [fault] }],
            '20260316',
          ),
        ])
      ).sets[0]!,
    );
    expect(answer).toEqual({
      functionalId: 'HC',
      controlNumber: '3',
      version: '005010X222A1',
      code: 'R',
      sets: [{ setId: '837', controlNumber: '0003', code: 'R', faults: [fault] }],
    });

    const claims = [
      {
        controlNumber: 'OL1',
        accepted: true,
        statuses: [{ category: 'A2', status: '20', entity: 'PR', text: '' }],
        amount: cents(14500),
        payerClaimNumber: 'P1',
      },
      {
        controlNumber: 'OL2',
        accepted: false,
        statuses: [
          { category: 'A7', status: '164', entity: 'IL', text: '' },
          { category: 'A7', status: '562', entity: '85', text: '' },
        ],
        amount: cents(100),
        payerClaimNumber: '',
      },
    ];
    const text = write277CA(SAMPLE_INTERCHANGE, {
      batch: '3',
      date: calendarDate('2026-03-16'),
      source: 'Tideline',
      claims,
      receiver: { name: 'O', id: 'O' },
      sourceId: 'T',
      provider: { name: 'O', npi: '1234567893' },
      patients: new Map(),
    });
    expect(read277CA((await readSets([text])).sets[0]!)).toEqual({
      batch: '3',
      date: '2026-03-16',
      source: 'Tideline',
      claims,
    });
    expect((await foreign(text)).map((segment) => segment.name)).toEqual(
      new SegmentReader().push(text).map((segment) => segment.id),
    );
  });
});
