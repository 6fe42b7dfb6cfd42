/** Short ways to a state that tests begin from. */
import { parseMoney } from '../core/money';
import type { ChargeEstimate } from '../core/estimates/estimate';
import { estimateOpen } from '../server/estimates/read';
import { addCoverage } from '../server/accounts/coverage';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import pino from 'pino';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type CalendarDate, addDays } from '../core/calendar';
import { type Cents, ZERO, cents, sum } from '../core/money';
import type { RemitClaim, Remittance } from '../core/x12/remittance835';
import { write835 } from '../core/x12/remittance835';
import { SAMPLE_INTERCHANGE } from '../core/x12/samples';
import { enterCharge } from '../server/accounts/charges';
import { addMember, registerHousehold } from '../server/accounts/register';
import type { Context } from '../server/access';
import { checkBooks } from '../server/books/check';
import { buildClaims } from '../server/claims/build';
import { sendClaims } from '../server/claims/send';
import { takeFile } from '../server/exchange/intake';
import { runWork } from '../server/jobs/run';
import { startSendingBatch } from '../server/jobs/work';
import { approvePlacements, proposePlacements } from '../server/overdue/proposals';
import { readAccount } from '../server/account-page/read';
import { acceptPlan, proposePlan } from '../server/plans/agree';
import { postRemittance } from '../server/remittances/post';
import { draftStatements } from '../server/batches/drafts';
import { setDelivery } from '../server/statements/household';
import { prepareStatement } from '../server/statements/prepare';
import type { Intake } from '../server/outcome';
import { TODAY, type TestDatabase } from './database';

let serial = 0;

/** Registers a household with coverage of Cedar Sound's Harbor Copay plan, or without. */
export async function household(t: TestDatabase, insured = true, more: Record<string, unknown> = {}) {
  serial += 1;
  return registerHousehold(t.context, {
    last: 'Tester',
    first: `Nr${serial}`,
    birthDate: '1980-01-01',
    sex: 'F',
    line1: '1 Test Row',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
    phone: '555-0199',
    key: `test-household-${serial}`,
    ...(insured
      ? {
          insurancePlanId: t.insurancePlans['CS-350'],
          memberId: `CSH${String(1_000_000 + serial)}`,
          groupNumber: 'CS-350',
        }
      : {}),
    ...more,
  });
}

/** Somebody else of a household, without any insurer. */
export const anotherMember = (t: TestDatabase, householdId: number, more: Record<string, unknown> = {}) => {
  serial += 1;
  return addMember(t.context, {
    householdId,
    last: 'Tester',
    first: `Other${serial}`,
    birthDate: '1980-01-01',
    sex: 'F',
    sure: true,
    key: `test-member-${serial}`,
    ...more,
  });
};

/** Enters a charge of the family practice. */
export const charge = (
  t: TestDatabase,
  context: Context,
  patientId: number,
  fee: string,
  code = '99213',
  day: CalendarDate = TODAY,
): Promise<number> =>
  enterCharge(context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: day,
    code,
    fee,
    diagnoses: ['I10'],
    sure: true,
    key: `test-charge-${(serial += 1)}`,
  });

/** Enters a charge of the dental practice, at the second site. */
export const dentalCharge = (
  t: TestDatabase,
  patientId: number,
  more: Partial<Parameters<typeof enterCharge>[1]> = {},
): Promise<number> =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.dental,
    serviceDate: TODAY,
    code: 'D0120',
    diagnoses: [],
    sure: true,
    key: `test-dental-${(serial += 1)}`,
    ...more,
  });

/** Gives a patient a second coverage, of the plan of the first by default. @returns its id */
export async function secondCoverage(t: TestDatabase, patientId: number): Promise<number> {
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: t.insurancePlans['CS-350'],
    memberId: `NEXT${1000 + patientId}`,
    groupNumber: 'NEXT',
    position: 2,
    key: `test-second-${patientId}`,
  });
  const { id } = await t.db
    .selectFrom('coverage as o')
    .innerJoin('care_case as c', 'c.id', 'o.case_id')
    .select('o.id')
    .where('c.patient_id', '=', patientId)
    .where('o.position', '=', 2)
    .executeTakeFirstOrThrow();
  return id;
}

/** A service that is planned, of the family practice. */
export const plannedCharge = (t: TestDatabase, patientId: number, fee = '80.00'): Promise<number> =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: addDays(TODAY, 20),
    code: '99213',
    fee,
    planned: true,
    sure: true,
    key: `test-planned-${(serial += 1)}`,
  });

/** A visit billed and sent. */
export async function sentClaim(t: TestDatabase, fees: string[] = ['145.00']) {
  const made = await household(t);
  const charges: number[] = [];
  for (const fee of fees) charges.push(await charge(t, t.context, made.patientId, fee));
  const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const claim = await t.db
    .selectFrom('claim')
    .selectAll()
    .where('id', '=', claimId!)
    .executeTakeFirstOrThrow();
  const lines = await t.db
    .selectFrom('claim_line')
    .select(['id', 'charge_id'])
    .where('claim_id', '=', claimId!)
    .orderBy('number')
    .execute();
  return { ...made, charges, claim, controls: lines.map((line) => `L${line.id}`) };
}

/** What a payer says about a claim: each line's charge, payment and adjustments `CO-45:12.00`. */
export function decided(
  controlNumber: string,
  lines: { control: string; code?: string; charge: number; paid: number; reasons: string[] }[],
  status = '1',
): RemitClaim {
  const made = lines.map((line) => ({
    code: line.code ?? '99213',
    billed: '',
    modifiers: [],
    charge: cents(line.charge),
    paid: cents(line.paid),
    units: 1,
    date: TODAY,
    lineControl: line.control,
    allowed: null,
    remarks: [],
    adjustments: line.reasons.map((text) => ({
      group: text.slice(0, 2) as 'CO',
      reason: text.slice(3, text.indexOf(':')),
      amount: cents(Math.round(Number(text.slice(text.indexOf(':') + 1)) * 100)),
    })),
  }));
  return {
    controlNumber,
    status,
    charge: sum(made.map((line) => line.charge)),
    paid: sum(made.map((line) => line.paid)),
    patientResponsibility: cents(0),
    payerClaimNumber: 'PCN1',
    adjustments: [],
    patient: { last: 'Tester', first: 'T', memberId: '' },
    date: null,
    remarks: [],
    lines: made,
  };
}

/** A charge of 145.00 as the contract has it, beside 68.00 paid: 47.00 over the contract, 30.00 the patient's. */
export const CONTRACTED = ['CO-45:47.00', 'PR-3:30.00'];

/** What a payer says of a claim with one charge of 145.00: paid in cents, and adjustments; of a reversal (22) all below zero. */
export const says = (
  { claim, controls }: Awaited<ReturnType<typeof sentClaim>>,
  paid: number,
  reasons: string[] = CONTRACTED,
  status = '1',
): RemitClaim =>
  decided(
    claim.control_number,
    [{ control: controls[0]!, charge: status === '22' ? -14_500 : 14_500, paid, reasons }],
    status,
  );

/** The practice of the tests, as a payer names it. */
export const PAYEE = { name: 'Osprey', npi: '1234567018', taxId: '' };

/** A remittance file of Cedar Sound. */
export function remitText(claims: RemitClaim[], more: Partial<Remittance> = {}): string {
  serial += 1;
  const payment = more.payment ?? (sum(claims.map((claim) => claim.paid)) as Cents);
  return write835(
    { ...SAMPLE_INTERCHANGE, controlNumber: String(serial).padStart(9, '0') },
    [
      {
        handling: payment === 0 ? 'H' : 'I',
        creditDebit: 'C',
        method: 'ACH',
        date: TODAY,
        trace: `TR${serial}`,
        originator: '1910000011',
        payer: { name: 'Cedar Sound Health', id: 'CSH01' },
        payee: PAYEE,
        providerAdjustments: [],
        claims,
        ...more,
        payment,
      },
    ],
    '20260316',
  );
}

/** The invariants of the books that do not hold; none, as it should be. */
export const brokenInvariants = async ({ db }: Pick<TestDatabase, 'db'>) =>
  (await checkBooks(db)).filter(({ faults }) => faults.length > 0);

/**
 * Brings in and posts a remittance of Cedar Sound; where its claims sum to less than zero the payer keeps it back from others
 * (PLB WO). @returns its id
 */
export async function postedRemittance(
  t: TestDatabase,
  claims: RemitClaim[],
  more: Partial<Remittance> = {},
  context: Context = t.context,
): Promise<number> {
  const total = sum(claims.map(({ paid }) => paid));
  const keptBack: Partial<Remittance> =
    total < 0
      ? {
          payment: ZERO,
          providerAdjustments: [{ code: 'WO', reference: 'PCN1', amount: total }],
        }
      : {};
  const { outcomes } = await intake(context, remitText(claims, { ...keptBack, ...more }));
  const id = outcomes[0]!.remittanceId!;
  await postRemittance(context, id);
  return id;
}

/** Takes in a text as a file. */
export async function intake(context: Context, text: string, name = 'file.835'): Promise<Intake> {
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-file-'));
  try {
    const path = join(folder, 'file');
    writeFileSync(path, text);
    return await takeFile(context, path, name, null);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Does all background work that waits, as a job process would. */
export async function doWork(t: TestDatabase): Promise<void> {
  const waiting = await t.db
    .selectFrom('work')
    .select('id')
    .where('status', '=', 'waiting')
    .orderBy('id')
    .execute();
  for (const { id } of waiting) await runWork(t.db, id, pino({ level: 'silent' }));
}

/** A household that owes, with a draft of its statement in a batch of its own; `email` where it goes by e-mail. */
export async function draftOf(t: TestDatabase, email = '') {
  const made = await household(t, false, { email });
  const chargeId = await charge(t, t.context, made.patientId, '80.00');
  const category = `Own ${made.householdId}`;
  await t.db.insertInto('account_category').values({ name: category }).execute();
  const delivery = email === '' ? 'mail' : 'email';
  await setDelivery(t.context, { householdId: made.householdId, delivery, category });
  const { batchId } = await draftStatements(t.context, {
    rows: [{ side: 'take', what: 'category', choices: [category] }],
    title: '',
    key: `draft-of-${made.householdId}`,
  });
  const { id: pieceId } = await t.db
    .selectFrom('mail_piece')
    .select('id')
    .where('batch_id', '=', batchId)
    .executeTakeFirstOrThrow();
  return { ...made, chargeId, batchId, pieceId };
}

/** A piece whose paper is made: one that is printed here waits, one by e-mail is out. */
export async function madeOf(t: TestDatabase, email = '') {
  const draft = await draftOf(t, email);
  const workId = await startSendingBatch(t.context, { batchId: draft.batchId });
  await runWork(t.db, workId, pino({ level: 'silent' }));
  return draft;
}

/** A household whose debt is proposed as a plan; accepted where that is asked for. */
export async function planOf(t: TestDatabase, accepted = true) {
  const made = await household(t, false);
  const chargeId = await charge(t, t.context, made.patientId, '300.00');
  const planId = await proposePlan(t.context, {
    householdId: made.householdId,
    installments: 3,
    first: addDays(TODAY, 30),
    key: `plan-of-${made.householdId}`,
  });
  if (accepted) await acceptPlan(t.context, { planId, signedBy: 'Nr Tester' });
  return { ...made, chargeId, planId };
}

/** A household that is past due by a statement of long ago, where the policy has late charges. */
export async function lateOf(t: TestDatabase) {
  await t.db
    .updateTable('statement_policy')
    .set({ late_kind: 'flat', late_flat: cents(500) })
    .execute();
  const long = { ...t.context, today: addDays(TODAY, -60) };
  const made = await household(t, false);
  await charge(t, long, made.patientId, '90.00', '99213', addDays(TODAY, -70));
  await prepareStatement(long, { householdId: made.householdId, key: `late-of-${made.householdId}` });
  return made;
}

/** A household that is past due: a visit of ten weeks ago, shown on a statement of so many days ago. */
export async function overdueOf(
  t: TestDatabase,
  {
    fee = '240.00',
    ago = 60,
    more = {},
  }: { fee?: string; ago?: number; more?: Record<string, unknown> } = {},
) {
  const long = { ...t.context, today: addDays(TODAY, -ago) };
  const made = await household(t, false, more);
  const chargeId = await charge(t, long, made.patientId, fee, '99213', addDays(TODAY, -ago - 10));
  await prepareStatement(long, { householdId: made.householdId, key: `overdue-of-${made.householdId}` });
  return { ...made, chargeId };
}

/** A household that is past due, proposed for the agency; handed over where that is asked for. */
export async function placementOf(t: TestDatabase, handedOver = true, fee = '240.00') {
  const made = await overdueOf(t, { fee });
  const { id: connectionId } = await t.db
    .selectFrom('connection')
    .select('id')
    .where('kind', '=', 'agency')
    .executeTakeFirstOrThrow();
  await proposePlacements(t.context, {
    householdIds: [made.householdId],
    connectionId,
    why: 'every letter was sent',
  });
  const { id: placementId, number } = await t.db
    .selectFrom('placement')
    .select(['id', 'number'])
    .where('household_id', '=', made.householdId)
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  if (handedOver) await approvePlacements(t.context, { placementIds: [placementId] });
  return { ...made, connectionId, placementId, number };
}

/** A deductible of 1,000.00 a year by the policy of a person. @returns the coverage, and the word of the rule */
export async function deductibleOf(
  t: TestDatabase,
  patientId: number,
): Promise<{ coverageId: number; rule: string }> {
  const { policy_id, id, household_id } = await t.db
    .selectFrom('covered as o')
    .innerJoin('patient as p', 'p.id', 'o.patient_id')
    .select(['o.policy_id', 'o.id', 'p.household_id'])
    .where('o.patient_id', '=', patientId)
    .executeTakeFirstOrThrow();
  await t.db
    .insertInto('benefit_rule')
    .values({ kind: 'deductible', amount: cents(100_000), policy_id })
    .execute();
  const { members } = await readAccount(t.context, household_id);
  const { counts } = members.find((one) => one.id === patientId)!.cases[0];
  return { coverageId: id, rule: counts.find(({ words }) => words === 'deductible')!.rule };
}

/** Estimates a service as it is typed, beside what is open of its case. `fee` as text. */
export async function estimateTyped(
  context: Context,
  { caseId, fee, ...typed }: { caseId: number; code: string; units: number; fee: string; date: CalendarDate },
): Promise<ChargeEstimate | undefined> {
  const found = await estimateOpen(context, caseId, [{ ...typed, fee: parseMoney(fee)! }]);
  return found.find(({ id }) => id === 0);
}
