/** What claims take from the tables: who referred, by what the payer knows of ours; lost teeth, where a prosthesis is billed. */
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { changeCase } from '../accounts/cases';
import { enterCharge } from '../accounts/charges';
import { changePatient } from '../accounts/register';
import { buildClaims } from './build';
import { claimText, readClaim } from './read';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `content-test-${(serial += 1)}`;

test.each([
  ['G2', [{ qualifier: 'G2', id: 'OWN7' }]],
  // A number of a place is none of who refers (2310A REF01).
  ['LU', undefined],
])(
  'one of ours who referred is named with the number by which the payer knows them: %s',
  async (qualifier, references) => {
    const { householdId, patientId, caseId } = await household(t);
    const { npi } = await t.db
      .selectFrom('provider')
      .select('npi')
      .where('id', '=', t.providers.family2!)
      .executeTakeFirstOrThrow();
    const { payer_id } = await t.db
      .selectFrom('covered')
      .select('payer_id')
      .where('patient_id', '=', patientId)
      .executeTakeFirstOrThrow();
    const own = t.owner
      .updateTable('payer_provider')
      .where('payer_id', '=', payer_id)
      .where('provider_id', '=', t.providers.family2!);
    await own.set({ individual_qualifier: qualifier as 'G2', individual_id: 'OWN7' }).execute();
    await changeCase(t.context, {
      caseId,
      name: 'Standing case',
      kind: 'general',
      referringLast: 'Lindqvist',
      referringFirst: 'Per',
      referringNpi: npi,
    });
    await charge(t, t.context, patientId, '145.00');
    const [claimId] = await buildClaims(t.context, { householdId });
    const { content } = (await readClaim(t.context, claimId!))!;
    expect(content.referring).toEqual({
      last: 'Lindqvist',
      first: 'Per',
      npi,
      ...(references ? { references } : {}),
    });
    await own.set({ individual_qualifier: '', individual_id: '' }).execute();
  },
);

test('lost teeth are on the claim of a prosthesis alone, in their order; one twice, or lost tomorrow, is refused', async () => {
  const { householdId, patientId } = await household(t);
  const { household: h, members } = await readAccount(t.context, householdId);
  const put = (lostTeeth: { tooth: string; lostOn: string }[] | undefined) =>
    changePatient(t.context, {
      ...h,
      last: members[0]!.last,
      first: members[0]!.first,
      birthDate: members[0]!.birthDate,
      sex: members[0]!.sex,
      patientId,
      ...(lostTeeth ? { lostTeeth } : {}),
    });
  await put([
    { tooth: '19', lostOn: '2025-06-01' },
    { tooth: '3', lostOn: '' },
  ]);
  // What says nothing of them leaves them.
  await put(undefined);
  for (const [tooth, lostOn] of [
    ['3', ''],
    ['4', '2026-03-17'],
    ['4', '1979-01-01'],
    ['33', ''],
  ] as const)
    await expect(
      put([
        { tooth: '3', lostOn: '' },
        { tooth, lostOn },
      ]),
    ).rejects.toMatchObject({
      field: 'lostTeeth',
    });
  const dental = async (code: string, more: object = {}) => {
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.dental!,
      serviceDate: TODAY,
      code,
      ...more,
      key: key(),
    });
    const [claimId] = await buildClaims(t.context, { householdId });
    return (await readClaim(t.context, claimId!))!;
  };
  expect((await dental('D0120')).content.lostTeeth).toBeUndefined();
  const crown = await dental('D2740', { tooth: '5', prosthesis: 'I' });
  expect(crown.content.lostTeeth).toEqual(['3', '19']);
  expect(await claimText(t.context, crown)).toMatch(/DN2\*3\*M\*{4}JP[^]*DN2\*19\*M\*{4}JP/);
});
