/** Stories of claims that go on: to a payer that takes paper, to a next payer, handed on by the payer before, and told anew. */
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type CalendarDate, addDays } from '../core/calendar';
import { type Cents, cents, sum } from '../core/money';
import { type RemitClaim, write835 } from '../core/x12/remittance835';
import type { Context } from '../server/access';
import { enterCharge } from '../server/accounts/charges';
import { addCoverage } from '../server/accounts/coverage';
import { registerHousehold } from '../server/accounts/register';
import { buildClaims } from '../server/claims/build';
import { readClaim } from '../server/claims/read';
import { printClaims } from '../server/claims/printing';
import { sendClaims } from '../server/claims/send';
import { takeFile } from '../server/exchange/intake';
import { postRemittance } from '../server/remittances/post';
import { reverseRemittance } from '../server/remittances/reverse';
import { add } from './setup';

type On = (day: CalendarDate, role?: 'front-desk' | 'biller' | 'manager') => Context;

const FEE = 14_500;

/** A payer that takes paper, and what it asks for. @returns its plan */
async function setUpClaims(context: Context): Promise<number> {
  const payer = await add(context, 'payers', {
    name: 'Heron Mutual',
    payer_id: 'HRN05',
    accepts: 'paper',
    filing_code: 'CI',
    timely_filing_days: '180',
    later_filing_days: '60',
    line1: '41 Marsh Lane',
    city: 'Tacoma',
    state: 'WA',
    zip: '984020041',
    phone: '555-0170',
  });
  await add(context, 'payer-needs', { payer_id: String(payer), need: 'group-number', severity: 'stop' });
  await add(context, 'payer-rules', { payer_id: String(payer), rule: 'patient-sex', severity: 'off' });
  return add(context, 'plans', { payer_id: String(payer), name: 'Heron Basic', contracted: false });
}

/** Somebody with one insurer or two, and a visit. @returns the first claim's id and who it is */
async function visitOf(
  on: On,
  day: CalendarDate,
  last: string,
  first: string,
  plans: readonly { id: number; memberId: string; group: string }[],
  providerId: number,
): Promise<{ householdId: number; claimId: number }> {
  const desk = on(day, 'front-desk');
  const [own, next] = plans;
  const made = await registerHousehold(desk, {
    last,
    first,
    birthDate: '1961-04-17',
    sex: 'F',
    line1: '8 Sedge Close',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98190-0188',
    phone: '206-555-0188',
    email: '',
    insurancePlanId: own!.id,
    memberId: own!.memberId,
    groupNumber: own!.group,
    key: `demo ${last} household`,
  });
  if (next)
    await addCoverage(desk, {
      patientId: made.patientId,
      insurancePlanId: next.id,
      memberId: next.memberId,
      groupNumber: next.group,
      position: 2,
      key: `demo ${last} second`,
    });
  await enterCharge(on(day), {
    patientId: made.patientId,
    providerId,
    serviceDate: day,
    code: '99213',
    diagnoses: ['I10'],
    fee: '145.00',
    key: `demo ${last} visit`,
  });
  const [claimId] = await buildClaims(on(day), { householdId: made.householdId });
  return { householdId: made.householdId, claimId: claimId! };
}

/** What Cedar Sound says of a claim of one visit: what it paid, and what it left to the patient, in cents. */
async function decide(
  context: Context,
  claimId: number,
  said: { paid: number; left: number; status: string },
  trace: string,
): Promise<number> {
  const { content } = await readClaim(context, claimId);
  const paid = cents(said.paid);
  const claim: RemitClaim = {
    controlNumber: content.controlNumber,
    status: said.status,
    charge: content.total,
    paid,
    patientResponsibility: cents(said.left),
    payerClaimNumber: `CS${trace}`,
    adjustments: [],
    patient: {
      last: content.patient.last,
      first: content.patient.first,
      memberId: content.subscriber.memberId,
    },
    date: content.lines[0]!.date,
    remarks: [],
    lines: content.lines.map((line) => ({
      code: line.code,
      billed: '',
      modifiers: line.modifiers,
      charge: line.charge,
      paid,
      units: line.units,
      date: line.date,
      adjustments: [
        { group: 'CO' as const, reason: '45', amount: cents(FEE - said.paid - said.left) },
        { group: 'PR' as const, reason: '2', amount: cents(said.left) },
      ],
      lineControl: line.control,
      allowed: null,
      remarks: [],
    })),
  };
  const practice = await context.db
    .selectFrom('practice')
    .select(['name', 'npi', 'tax_id'])
    .executeTakeFirstOrThrow();
  const text = write835(
    {
      senderQualifier: 'ZZ',
      sender: 'TIDELINE',
      receiverQualifier: 'ZZ',
      receiver: 'OSPREYLANDING',
      controlNumber: trace.padStart(9, '0'),
      date: context.today.slice(2).replaceAll('-', ''),
      time: '0600',
      usage: 'T',
    },
    [
      {
        handling: 'I',
        payment: sum([claim].map((one): Cents => one.paid)),
        creditDebit: 'C',
        method: 'ACH',
        date: context.today,
        trace: `CSH${trace}`,
        originator: '1910000011',
        payer: { name: 'Cedar Sound Health', id: 'CSH01' },
        payee: { name: practice.name, npi: practice.npi, taxId: '' },
        claims: [claim],
        providerAdjustments: [],
      },
    ],
    context.today.replaceAll('-', ''),
  );
  const folder = await mkdtemp(join(tmpdir(), 'wergeld-demo-'));
  try {
    const path = join(folder, 'told.835');
    await writeFile(path, text);
    const { outcomes } = await takeFile(context, path, `told-${trace}.835`, null);
    const { remittanceId } = outcomes[0]!;
    await postRemittance(context, remittanceId!);
    return remittanceId!;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** The stories, on the last days of the year. */
export async function claimsGoOn(
  on: On,
  today: CalendarDate,
  insurancePlans: Readonly<Record<string, number>>,
  provider: number,
): Promise<void> {
  const heron = await setUpClaims(on(addDays(today, -30), 'manager'));
  const day = addDays(today, -12);
  const cedar = { id: insurancePlans['CS-200']!, group: 'CS-200' };
  const next = {
    id: insurancePlans['NL-A10']!,
    memberId: 'NL20088001',
    group: 'NL-A10',
  };
  // On paper, ready to be printed.
  await visitOf(
    on,
    addDays(today, -4),
    'Quist',
    'Birgit',
    [{ id: heron, memberId: 'HM4410', group: 'HM-1' }],
    provider,
  );
  // On paper, printed and mailed: what comes back is on paper too.
  const mailed = addDays(today, -24);
  const printed = [];
  for (const [last, first] of [
    ['Haldane', 'Inga'],
    ['Oster', 'Signe'],
  ] as const) {
    const plans = [{ id: heron, memberId: `HM55${last.length}0`, group: 'HM-1' }];
    printed.push((await visitOf(on, mailed, last, first, plans, provider)).claimId);
  }
  await printClaims(on(mailed), { claimIds: printed });
  // The first payer handed it on itself: it is followed.
  const handed = await visitOf(
    on,
    day,
    'Okonjo',
    'Ada',
    [{ ...cedar, memberId: 'CSH1990701' }, next],
    provider,
  );
  // The second payer has it, and the first one decided anew.
  const old = await visitOf(
    on,
    day,
    'Varga',
    'Ilona',
    [
      { ...cedar, memberId: 'CSH1990702' },
      { ...next, memberId: 'NL20088002' },
    ],
    provider,
  );
  await sendClaims(on(day), { claimIds: [handed.claimId, old.claimId] });
  const answered = on(addDays(today, -8));
  await decide(answered, handed.claimId, { paid: 6800, left: 3000, status: '19' }, '9701');
  const first = await decide(answered, old.claimId, { paid: 6800, left: 3000, status: '1' }, '9702');
  await buildClaims(answered, { householdId: handed.householdId, which: 'next' });
  const [later] = await buildClaims(answered, { householdId: old.householdId, which: 'next' });
  await sendClaims(answered, { claimIds: [later!] });
  const anew = on(addDays(today, -2), 'manager');
  await reverseRemittance(anew, { remittanceId: first, why: 'Cedar Sound sends it anew' });
  await decide(anew, old.claimId, { paid: 5800, left: 4000, status: '1' }, '9703');
}
