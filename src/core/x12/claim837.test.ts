import fc from 'fast-check';
import { z } from 'zod';
import { claimSchema } from '../claims/content';
import { anyClaim } from '../../testing/arbitraries';
import {
  CLAIM_OF_A_DEPENDENT,
  CLAIM_TO_A_SECOND_PAYER,
  DENTAL_CLAIM,
} from '../../testing/published-examples';
import { AROUND, cut, foreign, transmission } from '../../testing/x12';
import { calendarDate } from '../calendar';
import { cents } from '../money';
import { claimSegments, read837, write837 } from './claim837';
import { readSets } from './interchange';
import { sampleClaim } from './samples';
import { SegmentReader } from './segments';
import { runs } from '../../testing/runs';

describe('837', () => {
  test.each(['professional', 'dental'] as const)(
    'a %s claim is read back as it was written, dependents too',
    async (form) => {
      const { sets } = await readSets([transmission(form)]);
      const [own, child] = read837(sets[0]!);
      const { position: _p, ...read } = own!;
      expect(read).toEqual(sampleClaim(form));
      expect(child).toMatchObject({
        relationship: 'child',
        patient: { first: 'Leo', birthDate: '2012-09-30', sex: 'M' },
      });
    },
  );

  test.each(['professional', 'dental'] as const)(
    'any %s claims are read back as they were written',
    async (form) => {
      await fc.assert(
        fc.asyncProperty(
          fc.array(anyClaim(form), { minLength: 1, maxLength: 4 }),
          fc.integer({ min: 1, max: 300 }),
          async (claims, size) => {
            const { sets } = await readSets(cut(transmission(form, claims), size));
            expect(read837(sets[0]!).map(({ position: _p, ...read }) => read)).toEqual(claims);
          },
        ),
        { numRuns: runs(150) },
      );
    },
  );

  test('whatever the schema of a claim has goes over the wire: the claims that are read back have every field of it', () => {
    const fields = (schema: z.ZodType, path: string): string[] =>
      schema instanceof z.ZodOptional || schema instanceof z.ZodNullable
        ? fields(schema.unwrap() as z.ZodType, path)
        : schema instanceof z.ZodArray
          ? fields(schema.element as z.ZodType, path)
          : schema instanceof z.ZodObject
            ? Object.entries(schema.shape as z.ZodRawShape).flatMap(([key, part]) =>
                fields(part as z.ZodType, `${path}.${key}`),
              )
            : [path];
    const said = (value: unknown, path: string): string[] =>
      Array.isArray(value)
        ? value.flatMap((item) => said(item, path))
        : typeof value === 'object' && value !== null
          ? Object.entries(value).flatMap(([key, part]) => said(part, `${path}.${key}`))
          : value === undefined || value === null || value === ''
            ? []
            : [path];
    const claims = (['professional', 'dental'] as const).flatMap((form) =>
      fc.sample(anyClaim(form), { numRuns: 60, seed: 1 }),
    );
    const known = new Set(claims.flatMap((claim) => said(claim, '')));
    expect(fields(claimSchema, '').filter((path) => !known.has(path))).toEqual([]);
  });

  test('the guide’s first professional example is read', async () => {
    const { sets } = await readSets([CLAIM_OF_A_DEPENDENT]);
    expect(read837(sets[0]!)).toEqual([
      expect.objectContaining({
        controlNumber: '26463774',
        total: 10000,
        relationship: 'child',
        filingCode: 'CI',
        diagnoses: ['034.0', 'V73.89'],
        payer: {
          name: 'KEY INSURANCE COMPANY',
          payerId: '999996666',
          references: [{ qualifier: 'G2', id: 'KA6663' }],
        },
        position: 27,
      }),
    ]);
    const [claim] = read837(sets[0]!);
    expect(claim!.subscriber).toMatchObject({
      last: 'SMITH',
      first: 'JANE',
      memberId: 'JS00111223333',
      groupNumber: '2222-SJ',
      planName: '',
    });
    expect(claim!.patient).toMatchObject({
      first: 'TED',
      birthDate: '1973-05-01',
      address: { city: 'MIAMI' },
    });
    expect(claim!.billing).toMatchObject({
      organization: 'BEN KILDARE SERVICE',
      taxId: '587654321',
      address: { line1: '234 SEAWAY ST' },
    });
    expect(claim!.lines.map((line) => [line.code, line.charge, line.pointers, line.date])).toEqual([
      ['99213', 4000, [1], '2006-10-03'],
      ['87070', 1500, [1], '2006-10-03'],
      ['99214', 3500, [2], '2006-10-10'],
      ['86663', 1000, [2], '2006-10-10'],
    ]);
  });

  test.each([
    ['of a dependent', 'professional', CLAIM_OF_A_DEPENDENT],
    ['to a second payer, with amounts at the lines', 'professional', CLAIM_TO_A_SECOND_PAYER],
    ['of a dentist', 'dental', DENTAL_CLAIM],
  ] as const)(
    'the guides’ example %s is written as it was read, element by element',
    async (_what, form, example) => {
      const { sets } = await readSets([example]);
      const claims = read837(sets[0]!).map(({ position: _p, ...claim }) => claim);
      const body = (text: string): string[] => {
        const all = text.split('~').map((segment) => segment.trim());
        return all.slice(
          all.findIndex((segment) => segment.startsWith('HL*1*')),
          all.findIndex((segment) => segment.startsWith('SE*')),
        );
      };
      const amounts = (segment: string): string =>
        segment.replace(/\.00(?=\*|$)/g, '').replace(/(\.\d)0(?=\*|$)/g, '$1');
      const ours = body(transmission(form, claims)).map(amounts);
      const theirs = body(example).map(amounts);
      // What we say beside: our number of each line, what is left to the patient, the day of each dental line, whom to ask at the insurer.
      const beside = /^(REF\*6R|AMT\*EAF|DTP\*472|PER\*)/;
      // The guide's own data that ours are not equal to: codes of an older diagnosis list, who signed, a nearer kind of place.
      const apart = /^(HI|N3|N4|DMG|CLM|REF\*(G2|D9)|PAT)/;
      const kept = (list: readonly string[]): string[] =>
        list.filter(
          (segment) =>
            !beside.test(segment) &&
            !(form === 'professional' && example === CLAIM_OF_A_DEPENDENT && apart.test(segment)),
        );
      expect(kept(ours)).toEqual(kept(theirs));
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

  test('a next payer is told what the first one decided, as it was received, in the guide’s order', async () => {
    // Loops 2320, 2330A, 2330B and 2430 of 005010X222A1, from memory. 145.00 = 68.00 paid + 47.00 + 30.00, of two lines.
    const claim = sampleClaim();
    const [one, two] = claim.lines;
    const sent = {
      ...claim,
      coverageOrder: 2,
      attachments: [{ type: 'EB', by: 'EL', control: 'A77' }],
      otherPayers: [
        {
          coverageOrder: 1,
          filingCode: 'CI',
          payer: { name: 'Cedar Sound Health', payerId: '90001' },
          subscriber: {
            last: 'Quill',
            first: 'Ana',
            middle: '',
            suffix: '',
            memberId: 'CS1',
            groupNumber: 'G7',
            planName: '',
          },
          relationship: 'spouse' as const,
          decided: {
            paid: cents(6800),
            date: calendarDate('2026-03-20'),
            payerClaimNumber: 'P123',
            adjustments: [],
            remarks: ['MA01'],
            lines: [
              {
                number: one!.number,
                code: one!.code,
                modifiers: ['25'],
                paid: cents(6800),
                units: 1,
                adjustments: [
                  { group: 'PR' as const, reason: '3', amount: cents(3000) },
                  { group: 'CO' as const, reason: '45', amount: cents(4700), quantity: 1 },
                ],
              },
            ],
          },
        },
        {
          coverageOrder: 3,
          filingCode: 'BL',
          payer: { name: 'Tern', payerId: '90003' },
          subscriber: {
            last: 'Quill',
            first: 'Leo',
            middle: '',
            suffix: '',
            memberId: 'T3',
            groupNumber: '',
            planName: 'Family',
          },
          relationship: 'self' as const,
        },
      ],
    };
    const text = transmission('professional', [sent]);
    const segments = text.split('~').map((segment) => segment.trim());
    const from = segments.findIndex((segment) => segment.startsWith('SBR*P*01'));
    expect(segments.slice(from, from + 12)).toEqual([
      'SBR*P*01*G7******CI',
      'AMT*D*68.00',
      'OI***Y***Y',
      'MOA***MA01',
      'NM1*IL*1*Quill*Ana****MI*CS1',
      'NM1*PR*2*Cedar Sound Health*****PI*90001',
      'REF*F8*P123',
      'SBR*T*18**Family*****BL',
      'OI***Y***Y',
      'NM1*IL*1*Quill*Leo****MI*T3',
      'NM1*PR*2*Tern*****PI*90003',
      'LX*1',
    ]);
    const decided = segments.findIndex((segment) => segment.startsWith('SVD'));
    expect(segments.slice(decided - 1, decided + 6)).toEqual([
      `REF*6R*${one!.control}`,
      `SVD*90001*68.00*HC:${one!.code}:25**1`,
      'CAS*CO*45*47.00*1',
      'CAS*PR*3*30.00',
      'DTP*573*D8*20260320',
      'AMT*EAF*30.00',
      'LX*2',
    ]);
    expect(segments).toContain('PWK*EB*EL***AC*A77');
    const [read] = read837((await readSets([text])).sets[0]!);
    expect(read!.payer).toEqual(claim.payer);
    expect(read!.subscriber).toEqual(claim.subscriber);
    expect(read!.lines).toEqual([one, two]);
    expect(read!.otherPayers![0]!.decided!.lines[0]!.adjustments.map(({ group }) => group)).toEqual([
      'CO',
      'PR',
    ]);
    expect(read!.otherPayers![1]).toEqual(sent.otherPayers[1]);
  });

  test('a line that was split has a decision each, one that was bundled says with which; whom the payer knows by what numbers', () => {
    // SVD06 and AMT*EAF of 2430 and 2320, loops 2330C, D and G (837P) or F (837D), from memory.
    const claim = sampleClaim();
    const adjusted = (reason: string, amount: number) => [
      { group: 'PR' as const, reason, amount: cents(amount) },
    ];
    const line = { modifiers: [], units: 1 };
    const before = (adjustments: ReturnType<typeof adjusted>) => ({
      ...claim,
      coverageOrder: 2,
      otherPayers: [
        {
          coverageOrder: 1,
          filingCode: 'CI',
          payer: { name: 'Cedar', payerId: '90001' },
          subscriber: { ...claim.subscriber },
          relationship: 'self' as const,
          numbers: {
            rendering: { qualifier: 'G2', id: 'R1' },
            billing: { qualifier: 'LU', id: 'B1' },
          },
          decided: {
            paid: cents(100),
            date: calendarDate('2026-03-20'),
            payerClaimNumber: '',
            adjustments,
            remarks: [],
            lines: [
              { ...line, number: 1, code: '99212', paid: cents(60), adjustments: adjusted('1', 500) },
              { ...line, number: 1, code: '99211', paid: cents(40), adjustments: [] },
              { ...line, number: 2, code: '99212', paid: cents(0), bundledInto: 1, adjustments: [] },
            ],
          },
        },
      ],
    });
    const of = (sent: ReturnType<typeof before>): string[] =>
      transmission('professional', [sent])
        .split('~')
        .map((segment) => segment.trim());
    const byLine = of(before([]));
    expect(byLine.filter((segment) => segment.startsWith('SVD'))).toEqual([
      'SVD*90001*0.60*HC:99212**1',
      'SVD*90001*0.40*HC:99211**1',
      'SVD*90001*0.00*HC:99212**1*1',
    ]);
    expect(byLine.filter((segment) => segment.startsWith('AMT*EAF'))).toEqual([
      'AMT*EAF*5.00',
      'AMT*EAF*0.00',
      'AMT*EAF*0.00',
    ]);
    const payer = byLine.indexOf('NM1*PR*2*Cedar*****PI*90001');
    expect(byLine.slice(payer + 1, payer + 5)).toEqual(['NM1*82*1', 'REF*G2*R1', 'NM1*85*2', 'REF*LU*B1']);
    // Said of the claim too, it is said once, of the whole.
    const ofClaim = of(before(adjusted('2', 700)));
    expect(ofClaim.filter((segment) => segment.startsWith('AMT*EAF'))).toEqual(['AMT*EAF*12.00']);
    expect(ofClaim.indexOf('AMT*EAF*12.00')).toBeLessThan(ofClaim.indexOf('LX*1'));
  });

  test.each([
    ['a decision before any line', 'SVD*90001*1*HC:99213**1', /expected LX/],
    ['of a payer that the claim does not name', 'LX*1~SVD*1*1*HC:99213**1', /other payers/],
    ['a group that there is not', 'SBR*P*18*******CI~CAS*ZZ*1*1', /group code/],
  ])('what another payer is said to have decided is read strictly: %s', async (_what, segments, words) => {
    const broken = transmission('professional', [{ ...sampleClaim(), lines: [] }]).replace(
      'SE*',
      `${segments}~SE*`,
    );
    const count = broken.split('~').length;
    const whole = broken.replace(/SE\*\d+\*/, `SE*${count - 5}*`);
    await expect(readSets([whole]).then(({ sets }) => read837(sets[0]!))).rejects.toThrow(words);
  });

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
    const text = transmission('professional', [odd]);
    const [read] = read837((await readSets([text])).sets[0]!);
    expect(read!.subscriber.last).toBe('Mar che tti');
    expect(read!.lines).toHaveLength(2);
  });

  test('mixed forms and no claims are refused', () => {
    expect(() => write837({ ...AROUND, claims: [] })).toThrow(RangeError);
    expect(() => write837({ ...AROUND, claims: [sampleClaim(), sampleClaim('dental')] })).toThrow(RangeError);
  });
});

describe('the segments of one claim out of a file', () => {
  const FILE = transmission('professional');

  test.each(['professional', 'dental'] as const)(
    'of %s claims: any of them, taken out, is read back as it was sent',
    async (form) => {
      await fc.assert(
        fc.asyncProperty(fc.array(anyClaim(form), { minLength: 1, maxLength: 4 }), async (claims) => {
          const named = claims.map((claim, index) => ({ ...claim, controlNumber: `OL${index}` }));
          const file = transmission(form, named);
          for (const claim of named) {
            const lines = claimSegments(file, claim.controlNumber)!.split('\n');
            // Each is a segment of the file, in its order, and only this claim's.
            let at = 0;
            for (const line of lines) {
              const found = file.indexOf(line, at);
              expect(found).toBeGreaterThanOrEqual(0);
              at = found;
            }
            expect(lines.filter((line) => line.startsWith('CLM*'))).toEqual([
              expect.stringContaining(`CLM*${claim.controlNumber}*`),
            ]);
            // Closed as a file would be, the reader takes it for the very claim.
            const whole = `${lines.join('')}SE*${lines.length - 1}*${lines[2]!.split('*')[2]!.replace('~', '')}~GE*1*${lines[1]!.split('*')[6]}~IEA*1*${lines[0]!.split('*')[13]}~`;
            const [read] = read837((await readSets([whole])).sets[0]!);
            const { position: _p, ...content } = read!;
            expect(content).toEqual(claim);
          }
        }),
        { numRuns: runs(60) },
      );
    },
  );

  test('begins with the envelope that it really went in', () => {
    const [first] = FILE.split('~');
    const number = /CLM\*([^*]+)\*/.exec(FILE)![1]!;
    expect(claimSegments(FILE, number)!.split('\n')[0]).toBe(`${first}~`);
  });

  test.each([
    ['another file’s', 'NOT-HERE'],
    ['an empty number', ''],
    ['part of a number', 'OL'],
  ])('%s is not there', (_what, number) => expect(claimSegments(FILE, number)).toBeNull());

  test('a text that is no file of ours holds nothing', () => {
    for (const text of ['', '~', 'ISA~', 'CLM', 'HL*1**20*1~SE*1*1~'])
      expect(claimSegments(text, 'X')).toBeNull();
  });
});
