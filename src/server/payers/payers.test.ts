/** Payers: how their claims leave, what of ours they know, what is missing; one entered at the desk, one that is retired. */
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { writePayerList } from '../../core/payers/payer-list';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { enterCharge } from '../accounts/charges';
import { addCoverage } from '../accounts/coverage';
import { buildClaims } from '../claims/build';
import { refreshClaims } from '../claims/check';
import { releaseClaim } from '../claims/hold';
import { claimText, readClaim } from '../claims/read';
import { takeFile } from '../exchange/intake';
import { addNote, readPayerNotices, seeNotices } from '../notes/notes';
import { plansForForms } from '../setup/choices';
import { mergePayers } from '../setup/merge-payers';
import { readSetupRow } from '../setup/read';
import { saveSetup } from '../setup/save';
import { inTransaction } from '../use-case';
import { addDeskPayer } from './desk';
import { readPayer, readPayerParts } from './read';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `payer-test-${(serial += 1)}`;
const save = (table: string, values: Record<string, string | boolean>, row?: string) =>
  saveSetup(t.context, { table, values, ...(row ? { row } : {}) });

/** A payer of its own, over the clearinghouse, with a plan. */
async function madePayer(more: Record<string, string | boolean> = {}) {
  const n = (serial += 1);
  const { id: connection } = await t.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'clearinghouse')
    .orderBy('id')
    .executeTakeFirstOrThrow();
  const payerId = Number(
    await save('payers', {
      name: `Test Payer ${n}`,
      accepts: 'electronic',
      connection_id: String(connection),
      payer_id: `TP${n}`,
      filing_code: 'CI',
      new_claims: 'evening',
      bills_as: 'group',
      corrections: 'replaced',
      accepts_assignment: true,
      timely_filing_days: '365',
      ...more,
    }),
  );
  const planId = Number(
    await save('plans', {
      payer_id: String(payerId),
      name: `Plan ${n}`,
      contracted: false,
      coordination: 'standard',
      timed_units: 'total',
    }),
  );
  return { payerId, planId, code: `TP${n}`, connection, of: { payer_id: String(payerId) } };
}

/** A claim of today to a plan. */
async function claimTo(planId: number, more: object = {}) {
  const { householdId, patientId } = await household(t, false);
  const { coverageId } = await addCoverage(t.context, {
    patientId,
    insurancePlanId: planId,
    memberId: 'M1',
    key: key(),
    ...more,
  });
  await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  return { claimId: claimId!, householdId, patientId, coverageId };
}
const textOf = async (claimId: number) => claimText(t.context, await readClaim(t.context, claimId));
const stopsOf = async (claimId: number) =>
  (await readClaim(t.context, claimId)).findings
    .filter(({ severity }) => severity === 'stop')
    .map(({ rule }) => rule);
const again = (claimId: number) => inTransaction(t.context, (act) => refreshClaims(act.db, act, [claimId]));

/** Takes in a clearinghouse's list of payers. */
async function deliver(connection: number, payers: Parameters<typeof writePayerList>[0]) {
  const path = join(await mkdtemp(join(tmpdir(), 'payers-')), 'payers.csv');
  await writeFile(path, writePayerList(payers, key()));
  return takeFile(t.context, path, 'payers.csv', connection);
}

test('its name, address and numbers stand where the guide puts them', async () => {
  const { planId, of } = await madePayer({
    claim_name: 'TEST PAYER CLAIMS',
    line1: '9 Pine Road',
    city: 'Tacoma',
    state: 'WA',
    zip: '98401-0900',
  });
  await save('payer-references', { ...of, qualifier: 'FY', value: '0420', active: true });
  await save('payer-references', { ...of, qualifier: 'NF', value: '12345', active: true });
  await save('payer-providers', {
    ...of,
    provider_id: String(t.providers.family),
    valid_from: '2020-01-01',
    valid_to: '',
    bills_as: '',
    individual_qualifier: 'G2',
    individual_id: 'IND77',
    group_qualifier: 'LU',
    group_id: 'GRP1',
  });
  const { claimId } = await claimTo(planId);
  const text = await textOf(claimId);
  expect(text).toMatch(
    /NM1\*PR\*2\*TEST PAYER CLAIMS\*{5}PI\*TP\d+~?\s*N3\*9 Pine Road~?\s*N4\*Tacoma\*WA\*984010900~?\s*REF\*FY\*0420~?\s*REF\*NF\*12345~?\s*REF\*LU\*GRP1/,
  );
  expect(text).toMatch(/NM1\*82\*[^~]*~?\s*PRV\*PE\*PXC\*[^~]*~?\s*REF\*G2\*IND77/);
  expect(text).not.toMatch(/NM1\*85[^]*REF\*LU[^]*NM1\*IL/);
});

test('a group number 0B stands with who bills, who is known there by another name', async () => {
  const { planId, of } = await madePayer({
    own_name: 'Osprey Clinic West',
    own_npi: '1234567893',
    own_taxonomy: '261QP2000X',
    own_tax_id: '91-7654321',
    own_line1: '1 West Way',
    own_city: 'Aberdeen',
    own_state: 'WA',
    own_zip: '985200001',
  });
  await save('payer-providers', {
    ...of,
    provider_id: String(t.providers.family),
    bills_as: '',
    individual_qualifier: '',
    group_qualifier: '0B',
    group_id: 'LIC9',
  });
  const { claimId } = await claimTo(planId);
  expect(await textOf(claimId)).toMatch(
    /PRV\*BI\*PXC\*261QP2000X~?\s*NM1\*85\*2\*Osprey Clinic West\*{5}XX\*1234567893~?\s*N3\*1 West Way~?\s*N4\*Aberdeen\*WA\*985200001~?\s*REF\*EI\*917654321~?\s*REF\*0B\*LIC9/,
  );
});

test('billed as individual for one provider, as group for the others; claims of both are apart', async () => {
  const { planId, of } = await madePayer();
  await save('payer-providers', {
    ...of,
    provider_id: String(t.providers.family2),
    bills_as: 'individual',
    individual_qualifier: '',
    group_qualifier: '',
  });
  const { claimId } = await claimTo(planId);
  expect((await readClaim(t.context, claimId)).content.billing.organization).toBeDefined();
  const { householdId, patientId } = await household(t, false);
  await addCoverage(t.context, { patientId, insurancePlanId: planId, memberId: 'M2', key: key() });
  await enterCharge(t.context, {
    patientId,
    providerId: t.providers.family2!,
    serviceDate: TODAY,
    code: '99213',
    fee: '145.00',
    diagnoses: ['I10'],
    key: key(),
  });
  const [own] = await buildClaims(t.context, { householdId });
  const { content } = await readClaim(t.context, own!);
  expect([content.billing.organization, content.billing.npi]).toEqual([undefined, content.rendering!.npi]);
});

test('an agreement that the clearinghouse asks for and nobody has stops the claim; made for the one who is billed, it goes', async () => {
  const { payerId, planId, code, connection, of } = await madePayer({ bills_as: 'individual' });
  const list = [{ code, name: 'TEST', takes: ['837P', '835'] as const, needs: ['837P'] as const }];
  const taken = await deliver(
    connection,
    list.map((one) => ({ ...one, takes: [...one.takes], needs: [...one.needs] })),
  );
  expect(taken).toMatchObject({ status: 'read', kind: 'list of payers' });
  const { claimId } = await claimTo(planId);
  expect(await stopsOf(claimId)).toEqual(['payer-agreement']);
  // One of the practice is no agreement of the provider who is billed.
  await save('payer-agreements', {
    ...of,
    transaction: '837P',
    provider_id: '',
    since: '2020-01-01',
    active: true,
  });
  await again(claimId);
  expect(await stopsOf(claimId)).toEqual(['payer-agreement']);
  // Nor is one that begins after the service.
  await save('payer-agreements', {
    ...of,
    transaction: '837P',
    provider_id: String(t.providers.family),
    since: '2026-03-17',
    active: true,
  });
  await again(claimId);
  expect(await stopsOf(claimId)).toEqual(['payer-agreement']);
  const { id } = await t.db
    .selectFrom('payer_agreement')
    .select('id')
    .where('payer_id', '=', payerId)
    .where('provider_id', 'is not', null)
    .executeTakeFirstOrThrow();
  await save('payer-agreements', { since: '2026-03-01' }, String(id));
  await again(claimId);
  expect(await stopsOf(claimId)).toEqual([]);
  const page = await readPayer(t.context, payerId);
  expect(page.listed).toBe('TEST');
  expect(page.transactions.find(({ kind }) => kind === '837P')).toMatchObject({ taken: true, needs: true });
  expect(page.transactions.find(({ kind }) => kind === '276')).toMatchObject({ taken: false, needs: false });
  expect(page.claims.map(({ status, count }) => [status, count])).toEqual([['ready', 1]]);
  expect(page.waiting).toBe(14_500);
  expect((await readPayerParts(t.context, payerId)).map(({ list: { count } }) => count)).toEqual([
    0, 2, 0, 0, 0, 0, 0,
  ]);
});

test('a list replaces the one before, only through the inbox of a clearinghouse, and whole', async () => {
  const { connection, code } = await madePayer();
  await deliver(connection, [{ code, name: 'A', takes: [], needs: [] }]);
  await deliver(connection, [{ code: 'ZZ99', name: 'B', takes: ['835'], needs: [] }]);
  const rows = await t.db
    .selectFrom('clearinghouse_payer')
    .select('code')
    .where('connection_id', '=', connection)
    .execute();
  expect(rows).toEqual([{ code: 'ZZ99' }]);
  const path = join(await mkdtemp(join(tmpdir(), 'payers-')), 'payers.csv');
  await writeFile(path, writePayerList([], key()));
  expect(await takeFile(t.context, path, 'payers.csv', null)).toMatchObject({ status: 'set aside' });
  await writeFile(path, `payer_id,name,837P,837D,835,270,276\nAB1,A,yes,,,,\n`);
  expect(await takeFile(t.context, path, 'payers.csv', connection)).toMatchObject({ status: 'set aside' });
  expect(
    await t.db
      .selectFrom('clearinghouse_payer')
      .select('code')
      .where('connection_id', '=', connection)
      .execute(),
  ).toEqual([{ code: 'ZZ99' }]);
});

test('entered at the desk it is marked, its claims say what is missing, and the same press enters it once', async () => {
  const desk = t.as('front-desk');
  const input = {
    name: `Desk Mutual ${(serial += 1)}`,
    city: 'Tacoma',
    state: 'wa',
    zip: '98401',
    key: key(),
  };
  const { insurancePlanId } = await addDeskPayer(desk, input);
  expect(await addDeskPayer(desk, input)).toEqual({ insurancePlanId });
  await expect(addDeskPayer(desk, { ...input, key: key() })).rejects.toMatchObject({ field: 'name' });
  await expect(addDeskPayer(desk, { ...input, name: 'Other', zip: '9', key: key() })).rejects.toMatchObject({
    field: 'zip',
  });
  const { claimId } = await claimTo(insurancePlanId);
  expect(await stopsOf(claimId)).toEqual(expect.arrayContaining(['payer-unfinished', 'payer-hold']));
  const { payerId } = await readClaim(t.context, claimId);
  const { connection } = await madePayer();
  await save(
    'payers',
    {
      accepts: 'electronic',
      connection_id: String(connection),
      payer_id: 'DM01',
      unfinished: false,
    },
    String(payerId),
  );
  await again(claimId);
  expect(await stopsOf(claimId)).toEqual([]);
  expect((await readClaim(t.context, claimId)).content.payer.address).toBeUndefined();
});

test('a coverage of a payer that nobody has entered enters it with what the card says, whole or not at all', async () => {
  const { patientId } = await household(t, false);
  const name = `Card Mutual ${(serial += 1)}`;
  const input = {
    patientId,
    payerName: name,
    payerPlan: 'Gold',
    payerCity: 'Tacoma',
    payerState: 'WA',
    payerZip: '98401',
    memberId: 'CARD1',
    key: key(),
  };
  const payers = () => t.db.selectFrom('payer').select('unfinished').where('name', '=', name).execute();
  await expect(addCoverage(t.context, { ...input, payerZip: '9' })).rejects.toMatchObject({
    field: 'payerZip',
  });
  await expect(addCoverage(t.context, { ...input, memberId: '' })).rejects.toMatchObject({
    field: 'memberId',
  });
  await expect(
    addCoverage(t.context, { ...input, validFrom: '2026-03-02', validTo: '2026-03-01' }),
  ).rejects.toMatchObject({ field: 'validTo' });
  expect(await payers()).toEqual([]);
  const { coverageId } = await addCoverage(t.as('front-desk'), input);
  expect(await payers()).toEqual([{ unfinished: true }]);
  expect((await addCoverage(t.as('front-desk'), input)).coverageId).toBe(coverageId);
  await expect(addCoverage(t.context, { ...input, key: key() })).rejects.toMatchObject({
    field: 'payerName',
  });
  await expect(addCoverage(t.context, { patientId, memberId: 'X1', key: key() })).rejects.toMatchObject({
    field: 'insurancePlanId',
  });
});

test('of the other insurer a claim says its own name, and that it pays the patient (2320 OI03, OI06)', async () => {
  const [first, second] = [await madePayer(), await madePayer({ claim_name: 'SECOND ON CLAIMS' })];
  const { householdId, patientId } = await household(t, false);
  const cover = (planId: number, position: number, more: object = {}) =>
    addCoverage(t.context, {
      patientId,
      insurancePlanId: planId,
      position,
      memberId: `O${position}`,
      key: key(),
      ...more,
    });
  await cover(first.planId, 1);
  await cover(second.planId, 2, { assigned: false, signed: false });
  await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  const text = await textOf(claimId!);
  expect(text).toMatch(/OI\*\*\*N\*\*\*I[^]*NM1\*PR\*2\*SECOND ON CLAIMS\*/);
  // Its own assignment is another one.
  expect(text).toMatch(/CLM\*[^~\n]*\*Y\*A\*Y\*Y/);
});

test('a number and an agreement that were wrong are taken out of use', async () => {
  const { planId, of } = await madePayer();
  const row = await save('payer-references', { ...of, qualifier: 'FY', value: '77', active: true });
  const { claimId } = await claimTo(planId);
  expect(await textOf(claimId)).toContain('REF*FY*77');
  await save('payer-references', { active: false }, row);
  await again(claimId);
  expect(await textOf(claimId)).not.toContain('REF*FY*77');
});

test('new claims that wait for somebody are held once, and go when they are released', async () => {
  const { planId } = await madePayer({ new_claims: 'held' });
  const { claimId } = await claimTo(planId);
  expect((await readClaim(t.context, claimId)).status).toBe('held');
  await releaseClaim(t.context, { claimId });
  await again(claimId);
  expect((await readClaim(t.context, claimId)).status).toBe('ready');
});

test('what the clearinghouse prints needs an address; who does not take part is said; a setting leaves an element out', async () => {
  const { payerId, planId, of } = await madePayer({ clearinghouse_mails: true });
  await save('payer-providers', {
    ...of,
    provider_id: String(t.providers.family),
    valid_from: '2020-01-01',
    valid_to: '2025-12-31',
    bills_as: '',
    individual_qualifier: '',
    group_qualifier: '',
  });
  const { claimId } = await claimTo(planId);
  const { findings } = await readClaim(t.context, claimId);
  expect(findings.map(({ rule }) => rule)).toEqual(
    expect.arrayContaining(['payer-address', 'payer-takes-part']),
  );
  expect(await textOf(claimId)).toContain('PRV*BI');
  await save('payer-settings', { ...of, setting: 'no-billing-taxonomy', active: true });
  await again(claimId);
  expect(await textOf(claimId)).not.toContain('PRV*BI');
  await save('payer-settings', { active: false }, `${payerId}/no-billing-taxonomy`);
  await again(claimId);
  expect(await textOf(claimId)).toContain('PRV*BI');
});

test('not assigned and not signed go on the claim, and so does an injury of an employer', async () => {
  const { planId } = await madePayer({ filing_code: 'WC', accepts_assignment: false });
  const { claimId } = await claimTo(planId, {
    relationship: 'other',
    holderOrganization: 'Gull Cannery',
    claimNumber: 'WC-77',
    adjuster: 'Dana',
    assigned: false,
    signed: false,
  });
  const text = await textOf(claimId);
  expect(text).toMatch(/CLM\*[^*]*\*145\.?0*\*\*\*11:B:1\*Y\*C\*N\*I/);
  expect(text).toMatch(/NM1\*IL\*2\*Gull Cannery\*{5}MI\*M1/);
  expect(text).toMatch(/PAT\*20/);
  expect(text).toMatch(/NM1\*QC[^]*REF\*Y4\*WC-77[^]*CLM/);
  // Its case says no accident at work, and nothing else is amiss.
  expect(await stopsOf(claimId)).toEqual(['accident-work']);
});

test('its form is read by itself, with the version that stands there', async () => {
  const { payerId, code } = await madePayer();
  await save('payers', { phone: '555-0199' }, String(payerId));
  const { row, fields } = await readSetupRow(t.context, 'payers', String(payerId));
  expect([row.key, row.version, row.values['payer_id'], row.values['phone']]).toEqual([
    String(payerId),
    2,
    code,
    '555-0199',
  ]);
  expect(fields.find(({ name }) => name === 'accepts')!.under).toBe('How its claims leave');
  await expect(readSetupRow(t.context, 'payers', '999999')).rejects.toThrow(/no such row/);
  await expect(readSetupRow(t.as('front-desk'), 'payers', String(payerId))).rejects.toThrow(/may not/);
});

test('retired, nothing new is of it; what it has lives on', async () => {
  const { payerId, planId } = await madePayer();
  const { claimId } = await claimTo(planId);
  await save('payers', { retired_on: TODAY }, String(payerId));
  expect((await plansForForms(t.context)).some(({ value }) => value === planId)).toBe(false);
  await expect(claimTo(planId)).rejects.toMatchObject({ field: 'insurancePlanId' });
  await again(claimId);
  expect(await stopsOf(claimId)).toEqual([]);
});

test('of a provider there is one word at a time, here and in the database', async () => {
  const { payerId, of } = await madePayer();
  const row = {
    ...of,
    provider_id: String(t.providers.family),
    bills_as: '',
    individual_qualifier: '',
    group_qualifier: '',
  };
  await save('payer-providers', { ...row, valid_from: '2024-01-01', valid_to: '2024-12-31' });
  await save('payer-providers', { ...row, valid_from: '2025-01-01', valid_to: '' });
  await expect(save('payer-providers', { ...row, valid_from: '2024-12-31', valid_to: '' })).rejects.toThrow(
    /in that time already/,
  );
  await expect(
    t.owner
      .insertInto('payer_provider')
      .values({ payer_id: payerId, provider_id: t.providers.family! })
      .execute(),
  ).rejects.toThrow(/one_word_of_a_provider/);
  await expect(
    save('payer-providers', { ...row, valid_from: '2020-01-01', valid_to: '2020-02-01', individual_id: 'X' }),
  ).rejects.toMatchObject({ field: 'individual_id' });
  await expect(
    t.owner
      .insertInto('note')
      .values({ about: 'payer', words: 'x', user_name: 'x', business_date: TODAY })
      .execute(),
  ).rejects.toThrow(/note_check/);
});

test('its notices are met with it, also once it is another; read on opening once a day by each user', async () => {
  const { payerId, planId } = await madePayer();
  const { payerId: intoId } = await madePayer();
  const noteId = await addNote(t.context, {
    payerId,
    words: 'Send records first',
    pinned: true,
    onOpening: true,
    key: key(),
  });
  const { claimId } = await claimTo(planId);
  expect((await readClaim(t.context, claimId)).notices).toMatchObject([
    { words: 'Send records first', opens: true },
  ]);
  expect((await plansForForms(t.context)).find(({ value }) => value === planId)!.notice).toBe(
    'Send records first',
  );
  await seeNotices(t.context, { noteIds: [noteId] });
  await seeNotices(t.context, { noteIds: [noteId] });
  expect((await readPayerNotices(t.context, payerId))[0]!.opens).toBe(false);
  expect((await readPayerNotices(t.as('biller'), payerId))[0]!.opens).toBe(true);
  expect((await readPayerNotices({ ...t.context, today: '2026-03-17' as never }, payerId))[0]!.opens).toBe(
    true,
  );
  await mergePayers(t.context, { payerId, intoId, why: 'one insurer' });
  expect((await readPayerNotices(t.context, intoId)).map(({ words }) => words)).toEqual([
    'Send records first',
  ]);
  expect((await readPayer(t.context, payerId)).mergedInto).toMatchObject({ id: intoId });
  expect((await readClaim(t.context, claimId)).notices).toHaveLength(1);
  await expect(
    addNote(t.context, { payerId, householdId: 1, words: 'x', key: key() } as never),
  ).rejects.toThrow();
  await expect(
    addNote(t.context, { payerId, words: 'x', audience: 'patient', times: 1, key: key() }),
  ).rejects.toThrow();
});
