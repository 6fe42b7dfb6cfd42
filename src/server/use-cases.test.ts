/** Every use case, pressed twice at the same moment: what one press does is done, and nothing more. */
import { sql } from 'kysely';
import { text } from 'node:stream/consumers';
import type pg from 'pg';
import { openDb, openPool } from '../db/connect';
import { listSheet } from './lists/sheet';
import { TODAY, fileDatabase } from '../testing/database';
import {
  charge,
  decided,
  doWork,
  draftOf,
  deductibleOf,
  household,
  intake,
  lateOf,
  madeOf,
  overdueOf,
  placementOf,
  planOf,
  plannedCharge,
  postedRemittance,
  remitText,
  says,
  secondCoverage,
  sentClaim,
} from '../testing/desk';
import { addDays } from '../core/calendar';
import { cents, type Cents } from '../core/money';
import { OBJECTIONS } from '../core/overdue/hand-over';
import { sampleRemitClaim } from '../core/x12/samples';
import { Conflict, type Context, Refused } from './access';
import { takeOffForbidden } from './accounts/bill-patient';
import { chargeAccount, completeCharge, enterCharge, voidCharge } from './accounts/charges';
import { mergeHouseholds, mergePeople } from './accounts/merge';
import {
  addOption,
  chooseOption,
  giveEstimate,
  keepNotice,
  placePlanned,
  signEstimate,
} from './accounts/treatment';
import { enterVisit, undoVisit } from './accounts/visits';
import { addDiagnosis, addServiceCode, lookedAtCode } from './setup/added';
import { makeChargeSet } from './setup/charge-sets';
import { seeAbove } from './accounts/above';
import { addAuthorization, changeAuthorization } from './accounts/authorizations';
import { exhaustCoverage, notExhausted } from './accounts/exhausted';
import { tellBenefit } from './accounts/told';
import { dropOwnRule, sayOwnRule } from './estimates/terms';
import { addDeskPayer } from './payers/desk';
import { changeCase, dischargeCase, openCase, reopenCase } from './accounts/cases';
import { moveCharge } from './accounts/move';
import { addCoverage, changeCoverage, keepFromPayers, orderCoverages } from './accounts/coverage';
import { readAccount } from './account-page/read';
import { addMember, changePatient, registerHousehold } from './accounts/register';
import { checkBooks } from './books/check';
import { buildClaims } from './claims/build';
import { NAMING } from './closed';
import { changeFees, undoFees } from './fees/change';
import { checkOnceMore, checkOnly } from './claims/check-only';
import { addLines, correctProvider, leaveOutLine, putBackLine, toldByHand } from './claims/correct';
import { mergeClaims, notOnFile, sayDelay, splitClaim } from './claims/drafts';
import { changeCharge } from './claims/fix';
import { printClaims } from './claims/printing';
import { payerTold } from './claims/stale';
import { holdClaim, noteOnClaim, releaseClaim, withdrawClaim } from './claims/hold';
import { bringLimits } from './claims/limits';
import { freeVoided, replaceClaim } from './claims/replace';
import { sendClaims } from './claims/send';
import { changeFollowUp, closeFollowUp, settleWaiting } from './follow-ups/work';
import {
  resumeWork,
  startChecking,
  startPosting,
  startSending,
  startSendingBatch,
  stopWork,
} from './jobs/work';
import { LISTS, LIST_NAMES } from './lists';
import { chooseColumns, forgetView, keepView } from './lists/choose';
import { payAgencyFees, postAgencyPayment, recoverBadDebt, writeOffBadDebt } from './overdue/agency-money';
import { reverseAgencyPayment } from './overdue/reverse';
import { assignOverdue, endPromise, logContact, voidContact } from './overdue/contacts';
import { askHardship, decideHardship } from './overdue/hardship';
import { startLetters } from './overdue/due-letters';
import { readLetters, saveLetter } from './overdue/letters';
import { recallPlacement } from './overdue/placements';
import { releasePlacement } from './overdue/hand-over';
import { approvePlacements, proposePlacements, withdrawPlacement } from './overdue/proposals';
import { undoWriteOff } from './follow-ups/undo';
import { writeOffSmall } from './overdue/small';
import {
  letContractLinesBe,
  lookAgainAtContractLines,
  writeContractLetter,
} from './remittances/contract-letters';
import { bringCombinations } from './remittances/combinations';
import { spendCredit } from './payments/credit';
import { decideRefund, refundCredit } from './payments/refund';
import { emailReceipt } from './payments/receipt-mail';
import { answerCreditLetter, bringDormancy, handOverCredit, writeCreditLetters } from './payments/unclaimed';
import { makeDeposit, undoDeposit } from './payments/deposit';
import { reverseAllocation, reverseReceipt } from './payments/receipts';
import { closeDrawer, dropFromDrawer, openDrawer } from './payments/drawers';
import {
  askForVoid,
  correctTender,
  moveReceipt,
  returnTender,
  takeAgain,
  transferCredit,
} from './payments/put-right';
import { takeReceipt } from './payments/take';
import { applyCredits } from './payments/credits';
import { takePayment } from './payments/terminal';
import { cancelVisit, expectVisit, freeReserved, importVisits, matchVisit } from './payments/visits';
import { fileTerminal } from '../testing/terminal';
import { acceptPlan, cancelPlan, proposePlan } from './plans/agree';
import { collectInstallments } from './payments/collect';
import {
  addKeyedClaim,
  changeKeyed,
  closeAndPost,
  closeKeyed,
  dropKeyed,
  dropKeyedClaim,
  reopenKeyed,
  saveKeyedClaim,
  sayKeyedAdjustments,
  startKeyed,
} from './remittances/keyed';
import { checkRemittance, decideHeld, matchHeld, sayReason, takeUpAgain } from './remittances/held';
import { settleCredit, undoCredit } from './remittances/credit';
import { postRemittance } from './remittances/post';
import { reverseRemittance } from './remittances/reverse';
import { mergePayers } from './setup/merge-payers';
import { addSetupRows, saveSetup } from './setup/save';
import { confirmPrinted, printAnew, sendAgain, voidPieces } from './batches/again';
import {
  addHousehold,
  startDrafting,
  editPieces,
  putBackPieces,
  refreshPieces,
  takeOutPieces,
} from './batches/drafts';
import { endConfidential, setConfidential } from './accounts/confidential';
import { liftStop, setStop } from './accounts/stops';
import { addNote, endNote, seeNotices } from './notes/notes';
import { readMail, setDelivery } from './statements/household';
import { prepareStatement } from './statements/prepare';
import { postLate } from './statements/late';
import { saveSet } from './statements/sets';
import {
  ableUser,
  addUser,
  changePassword,
  changeUser,
  inviteUser,
  resetUser,
  takeFactorOff,
} from './users/manage';
import { endSession } from './users/sessions';
import { allUseCases } from '../testing/all-use-cases';

const t = fileDatabase();
const terminal = fileTerminal(t);

let serial = 0;
let chosen = -1;
const key = (): string => `press-${(serial += 1)}-of-many`;
const person = {
  last: 'Twice',
  birthDate: '1990-01-01',
  sex: 'F' as const,
  line1: '1 Row',
  city: 'Osprey Landing',
  state: 'WA',
  zip: '98199',
};

/** The coverage of a household's only member. */
const coverageOf = async (householdId: number): Promise<number> =>
  (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages[0]!.id;
/** A case beside the standing one. */
/** Somebody for whom something is planned, with a way of treating. */
const optionOf = async () => {
  const { patientId, caseId } = await household(t);
  const chargeId = await plannedCharge(t, patientId);
  return { caseId, chargeId, optionId: await addOption(t.context, { caseId, name: 'A crown' }) };
};
/** A fee schedule of its own. */
const scheduleOf = async (): Promise<number> => {
  const name = `Schedule ${key()}`;
  await saveSetup(t.context, { table: 'schedules', values: { name, kind: 'contract', standard: false } });
  return (
    await t.db.selectFrom('fee_schedule').select('id').where('name', '=', name).executeTakeFirstOrThrow()
  ).id;
};
/** A category of services. */
const categoryOf = async (): Promise<string> =>
  (await t.db.selectFrom('service_category').select('name').executeTakeFirstOrThrow()).name;
/** What a payer allows somebody. */
const allowanceOf = async () => {
  const { householdId, caseId } = await household(t);
  const [coverage] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
  return {
    caseId,
    coverageId: coverage!.id,
    kind: 'referral' as const,
    state: 'approved' as const,
    number: 'R1',
    visits: '1',
    units: '',
    answeredOn: '2026-03-16',
  };
};
const openedCase = async (): Promise<number> =>
  openCase(t.context, {
    patientId: (await household(t)).patientId,
    name: 'Shoulder',
    kind: 'therapy',
    key: key(),
  });
/** A household that promised to pay. */
const promised = async () => {
  const { householdId } = await overdueOf(t);
  const contactId = await logContact(t.context, {
    householdId,
    kind: 'visit',
    outcome: 'promise',
    amount: '5.00',
    by: TODAY,
    key: key(),
  });
  const { id: promiseId } = await t.db
    .selectFrom('promise')
    .select('id')
    .where('contact_id', '=', contactId)
    .executeTakeFirstOrThrow();
  return { householdId, contactId, promiseId };
};
/** A household whose whole balance is small and old. */
const smallDebt = async () => {
  const made = await household(t, false);
  const long = { ...t.context, today: addDays(TODAY, -100) };
  await charge(t, long, made.patientId, '8.00', '99213', addDays(TODAY, -100));
  return made;
};
/** The follow-up of a posted remittance, with the version that a form would be filled from. */
const followUp = async () => {
  const { householdId } = await posted();
  return t.db
    .selectFrom('follow_up')
    .select(['id', 'version'])
    .where('household_id', '=', householdId)
    .executeTakeFirstOrThrow();
};
const confidential = {
  name: 'Bea',
  line1: '9 Quiet Lane',
  city: 'Osprey Landing',
  state: 'WA',
  zip: '98199',
};
const selfPayer = async () => {
  const made = await household(t, false);
  return { ...made, chargeId: await charge(t, t.context, made.patientId, '80.00') };
};
const claimOf = async () => {
  const made = await household(t);
  const chargeId = await charge(t, t.context, made.patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
  return { ...made, chargeId, claimId: claimId! };
};
beforeEach(() => t.db.updateTable('payer').set({ corrections: 'replaced', accepts: 'electronic' }).execute());

/** Two drafts of one person, of two days. */
const twoDrafts = async () => {
  const made = await household(t);
  for (const day of ['2026-03-10', '2026-03-11'])
    await charge(t, t.context, made.patientId, '145.00', '99213', day as never);
  return { ...made, claims: await buildClaims(t.context, { householdId: made.householdId }) };
};
/** A draft that corrects a claim which its payer has decided. */
const correction = async (fees = ['145.00']): Promise<number> => {
  await t.db.updateTable('payer').set({ corrections: 'replaced' }).execute();
  const s = await sentClaim(t, fees);
  const lines = s.controls.map((control) => ({ control, charge: 14500, paid: 0, reasons: ['CO-97:145.00'] }));
  const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, lines)]));
  await postRemittance(t.context, outcomes[0]!.remittanceId!);
  return replaceClaim(t.context, { claimId: s.claim.id, as: '7', why: 'test', payerClaimNumber: 'P1' });
};
/** Cash that lies where it is not yet deposited, to be taken to the bank. */
const deposited = async () => {
  const { receiptId } = await paid();
  const { rows } = await sql<{ tender: number; from: number; to: number }>`
    select t.id as tender, t.place_id as from, b.id as to
    from tender t
      cross join place b
    where t.receipt_id = ${receiptId} and b.kind = 'bank'`.execute(t.db);
  const { tender, from, to } = rows[0]!;
  return {
    fromPlaceId: from,
    toPlaceId: to,
    date: '2026-03-16',
    number: '',
    tenderIds: [tender],
    key: key(),
  };
};
/** A remittance on paper of 68.00 that is open, and the claim that it speaks of. */
async function paperOf() {
  const { claim } = await sentClaim(t);
  serial += 1;
  const head = {
    payerId: claim.payer_id,
    amount: '68.00',
    method: 'CHK' as const,
    trace: `PAPER${serial}`,
    paymentDate: TODAY,
    source: 'mail' as const,
  };
  const keyedId = await startKeyed(t.context, { ...head, key: key() });
  return { keyedId, controlNumber: claim.control_number, head: { ...head, trace: `${head.trace}B` } };
}
const KEYED_LINE = {
  number: 1,
  allowed: 9800,
  deductible: 0,
  coinsurance: 0,
  copay: 3000,
  paid: 6800,
  reasons: [],
  remarks: [],
};
const seenOf = async (table: 'keyed_remittance', id: number): Promise<number> =>
  (await t.db.selectFrom(table).select('version').where('id', '=', id).executeTakeFirstOrThrow()).version;

/** A remittance that is ready: one line denied, one paid, and a claim that is not ours. */
const remit = async () => {
  const s = await sentClaim(t, ['145.00', '42.00']);
  const text = remitText([
    decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
      { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
    ]),
    sampleRemitClaim(`TW${(serial += 1)}`, 14500, 9800),
  ]);
  const { outcomes } = await intake(t.context, text);
  return { ...s, remittanceId: outcomes[0]!.remittanceId! };
};
const posted = async () => {
  const r = await remit();
  await postRemittance(t.context, r.remittanceId);
  return r;
};
/** A provider adjustment of 10.00 that is held for the payer. */
const adjustment = async (): Promise<number> => {
  const text = remitText([], {
    payment: 1000 as Cents,
    providerAdjustments: [{ code: 'CS', reference: '', amount: -1000 as Cents }],
  });
  const { outcomes } = await intake(t.context, text);
  const remittanceId = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, remittanceId);
  const { id } = await t.db
    .selectFrom('provider_adjustment')
    .select('id')
    .where('remittance_id', '=', remittanceId)
    .executeTakeFirstOrThrow();
  return id;
};
const paid = async () => {
  const made = await selfPayer();
  const { receiptId } = await takeReceipt(t.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'cash', amount: '100.00' }],

    key: key(),
  });
  return { ...made, receiptId };
};
/** Credit of an owner who was not heard of for two years, where a year is enough. @returns the household */
const unheard = async (): Promise<number> => {
  await bringDormancy(t.context, { text: 'WA,12,0,0' });
  const { householdId } = await household(t, false);
  await takeReceipt(
    { ...t.context, today: addDays(TODAY, -730) },
    { householdId, tenders: [{ tender: 'cash', amount: '20.00' }], key: key() },
  );
  return householdId;
};
/** A line that its payer allowed below its contract. */
const shortOf = async () => {
  const made = await sentClaim(t);
  await postedRemittance(t, [says(made, 5500, ['CO-45:60.00', 'PR-3:30.00'])]);
  return {
    payerId: made.claim.payer_id,
    lines: [{ chargeId: made.charges[0]!, coverageId: made.claim.coverage_id }],
  };
};
/** A check that was taken. @returns the tender */
const checked = async () => {
  const { householdId } = await selfPayer();
  const { receiptId } = await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'check', amount: '20.00', reference: '1044' }],
    key: key(),
  });
  return tenderOf(receiptId);
};
const tenderOf = async (receiptId: number) =>
  (await t.db.selectFrom('tender').select('id').where('receipt_id', '=', receiptId).executeTakeFirstOrThrow())
    .id;
/** A card that the terminal has charged. @returns the tender */
const carded = async () => {
  const { householdId } = await selfPayer();
  const { receiptId } = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '20.00', reading: await terminal.card('2003') }],
    key: key(),
  });
  return tenderOf(receiptId);
};
const freshSite = async () => {
  const { rows } = await sql<{ id: number }>`
    insert into location (name, place_of_service, line1, city, state, zip, phone)
    values ('Site ' || nextval('control_number'), '11', '1 Elm', 'Tacoma', 'WA', '98401', '') returning id`.execute(
    t.owner,
  );
  return rows[0]!.id;
};
const drawer = async () =>
  openDrawer(t.context, { locationId: await freshSite(), opening: '50.00', key: key() });
const visitToCome = async () =>
  expectVisit(t.context, { patientId: (await selfPayer()).patientId, day: TODAY, key: key() });
const waitingWork = async () => {
  await claimOf();
  return { workId: (await startChecking(t.context, {}))! };
};

const PASSWORD = 'a quiet otter counts beans';
const user = async () => {
  serial += 1;
  return {
    userId: await addUser(t.context, {
      email: `pressed${serial}@example.com`,
      name: `Pressed ${serial}`,
      role: 'biller',
      password: PASSWORD,
    }),
  };
};

/** Makes a state of its own and says what is pressed in it. */
type Press = () => Promise<(context: Context) => Promise<unknown>>;
const press =
  (useCase: (context: Context, input: never) => Promise<unknown>, make: () => Promise<unknown>): Press =>
  async () => {
    const input = (await make()) as never;
    return (context) => useCase(context, input);
  };

const PRESSES: Record<string, Press> = {
  [registerHousehold.title]: press(registerHousehold, async () => ({
    ...person,
    first: `Once${(serial += 1)}`,
    key: key(),
  })),
  [addMember.title]: press(addMember, async () => ({
    householdId: (await household(t)).householdId,
    ...person,
    first: `Member${(serial += 1)}`,
    key: key(),
  })),
  [changePatient.title]: press(changePatient, async () => ({
    patientId: (await household(t)).patientId,
    ...person,
    first: 'Changed',
  })),
  [addCoverage.title]: press(addCoverage, async () => {
    const made = await selfPayer();
    return {
      patientId: made.patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH1',
      key: key(),
    };
  }),
  [orderCoverages.title]: press(orderCoverages, async () => {
    const made = await household(t);
    const first = await secondCoverage(t, made.patientId);
    return { patientId: made.patientId, first, from: '2026-03-16' };
  }),
  [changeCoverage.title]: press(changeCoverage, async () => ({
    coverageId: await coverageOf((await household(t)).householdId),
    memberId: 'CSH2',
    validTo: '2026-01-31',
  })),
  [enterCharge.title]: press(enterCharge, async () => ({
    patientId: (await household(t)).patientId,
    providerId: t.providers.family,
    serviceDate: '2026-03-16',
    code: '99213',
    diagnoses: ['I10'],
    key: key(),
  })),
  [chargeAccount.title]: press(chargeAccount, async () => ({
    householdId: (await household(t)).householdId,
    kind: 'late',
    amount: '1.97',
    date: '2026-03-16',
    key: key(),
  })),
  [addDeskPayer.title]: press(addDeskPayer, async () => ({
    name: `Desk Mutual ${key()}`,
    city: 'Tacoma',
    state: 'WA',
    zip: '98401',
    key: key(),
  })),
  [seeNotices.title]: press(seeNotices, async () => {
    const { householdId } = await household(t);
    const about = { householdId, words: 'Read me', pinned: true, onOpening: true };
    return { noteIds: [await addNote(t.context, { ...about, key: key() })] };
  }),
  [sayOwnRule.title]: press(sayOwnRule, async () => ({
    coverageId: await coverageOf((await household(t)).householdId),
    table: 'copays' as const,
    values: { amount: '9.00', counted_for: 'visit', copay_order: 'between' },
  })),
  [dropOwnRule.title]: press(dropOwnRule, async () => {
    const coverageId = await coverageOf((await household(t)).householdId);
    const values = { amount: '9.00', counted_for: 'visit', copay_order: 'between' };
    return { coverageId, ruleId: await sayOwnRule(t.context, { coverageId, table: 'copays', values }) };
  }),
  [tellBenefit.title]: press(tellBenefit, async () => ({
    ...(await deductibleOf(t, (await household(t)).patientId)),
    asOf: '2026-03-16',
    quantity: '1.00',
    source: 'call' as const,
  })),
  [enterVisit.title]: press(enterVisit, async () => ({
    patientId: (await household(t)).patientId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    lines: [{ code: '99213' }, { code: '80053', fee: '42.00' }],
    key: key(),
  })),
  [undoVisit.title]: press(undoVisit, async () => ({
    chargeId: (await selfPayer()).chargeId,
    why: 'entered for the wrong person',
  })),
  [addServiceCode.title]: press(addServiceCode, async () => ({
    code: `N${(serial += 1)}`,
    description: 'New',
    category: await categoryOf(),
    form: 'professional',
    fee: '12.00',
  })),
  [addDiagnosis.title]: press(addDiagnosis, async () => ({
    code: `Q${String((serial += 1))
      .padStart(2, '0')
      .slice(-2)}.${serial}`,
    description: 'New',
  })),
  [lookedAtCode.title]: press(lookedAtCode, async () => {
    const code = `N${(serial += 1)}`;
    const facts = { description: 'New', category: await categoryOf(), form: 'professional' as const };
    await addServiceCode(t.context, { code, ...facts });
    return { kind: 'service', code };
  }),
  [makeChargeSet.title]: press(makeChargeSet, async () => ({
    name: `Set ${(serial += 1)}`,
    chargeIds: [(await selfPayer()).chargeId],
  })),
  [addOption.title]: press(addOption, async () => ({
    caseId: (await household(t)).caseId,
    name: 'A bridge',
  })),
  [chooseOption.title]: press(chooseOption, async () => ({
    optionId: (await optionOf()).optionId,
    chosen: false,
  })),
  [placePlanned.title]: press(placePlanned, async () => {
    const { optionId, chargeId } = await optionOf();
    return { chargeIds: [chargeId], optionId, phase: 2 };
  }),
  [giveEstimate.title]: press(giveEstimate, async () => ({
    caseId: (await optionOf()).caseId,
    optionId: null,
    validUntil: '2026-06-30',
    key: key(),
  })),
  [signEstimate.title]: press(signEstimate, async () => ({
    estimateId: await giveEstimate(t.context, {
      caseId: (await optionOf()).caseId,
      validUntil: '2026-06-30',
      key: key(),
    }),
    by: 'Nr Tester',
    on: TODAY,
  })),
  [seeAbove.title]: press(seeAbove, async () => {
    const { patientId, caseId } = await household(t, false);
    const chargeId = await plannedCharge(t, patientId, '80.00');
    const estimateId = await giveEstimate(t.context, { caseId, validUntil: '2026-06-30', key: key() });
    await completeCharge(t.context, { chargeId, serviceDate: TODAY, sure: true });
    await changeCharge(t.context, { chargeId, fee: '900.00', sure: true });
    return { estimateId, why: 'more was needed' };
  }),
  [changeFees.title]: press(changeFees, async () => ({
    scheduleId: await scheduleOf(),
    from: '2026-04-01',
    lines: [{ code: '99213', amount: '120.00' }],
    words: 'agreed',
    key: key(),
  })),
  [undoFees.title]: press(undoFees, async () => ({
    changeId: await changeFees(t.context, {
      scheduleId: await scheduleOf(),
      from: '',
      lines: [{ code: '99213', amount: '110.00' }],
      key: key(),
    }),
  })),
  [keepNotice.title]: press(keepNotice, async () => ({
    caseId: (await household(t)).caseId,
    code: '99213',
    why: 'once a year is covered',
    price: '145.00',
    modifier: 'GA',
    signedOn: TODAY,
    key: key(),
  })),
  [exhaustCoverage.title]: press(exhaustCoverage, async () => ({
    coverageId: await coverageOf((await household(t)).householdId),
    from: '2026-03-16',
    letter: new TextEncoder().encode(`%PDF-1.4 letter ${(serial += 1)}`),
  })),
  [notExhausted.title]: press(notExhausted, async () => {
    const coverageId = await coverageOf((await household(t)).householdId);
    const letter = new TextEncoder().encode('%PDF-1.4 a letter');
    await exhaustCoverage(t.context, { coverageId, from: TODAY, letter });
    return { coverageId };
  }),
  [addAuthorization.title]: press(addAuthorization, async () => ({ ...(await allowanceOf()), key: key() })),
  [changeAuthorization.title]: press(changeAuthorization, async () => {
    const { caseId, ...allowed } = await allowanceOf();
    const authorizationId = await addAuthorization(t.context, { caseId, ...allowed, key: key() });
    return { ...allowed, authorizationId, number: 'R2' };
  }),
  [openCase.title]: press(openCase, async () => ({
    patientId: (await household(t)).patientId,
    name: 'Left knee',
    kind: 'car',
    key: key(),
  })),
  [changeCase.title]: press(changeCase, async () => ({
    caseId: (await household(t)).caseId,
    name: 'Standing case',
    kind: 'general',
    limits: 'cannot kneel',
  })),
  [dischargeCase.title]: press(dischargeCase, async () => ({
    caseId: await openedCase(),
    on: '2026-03-16',
    why: 'x',
  })),
  [reopenCase.title]: press(reopenCase, async () => {
    const caseId = await openedCase();
    await dischargeCase(t.context, { caseId, on: '2026-03-16', why: 'x' });
    return { caseId };
  }),
  [moveCharge.title]: press(moveCharge, async () => ({
    chargeId: await charge(t, t.context, (await household(t)).patientId, '80.00'),
    patientId: (await household(t)).patientId,
    why: 'x',
  })),
  [mergeHouseholds.title]: press(mergeHouseholds, async () => ({
    householdId: (await household(t)).householdId,
    intoHouseholdId: (await household(t)).householdId,
    why: 'entered twice',
  })),
  [mergePeople.title]: press(mergePeople, async () => {
    const { householdId, patientId } = await household(t);
    const twin = await addMember(t.context, {
      householdId,
      last: 'Tester',
      first: 'Twin',
      birthDate: '1980-01-01',
      sex: 'F',
      key: key(),
    });
    await doWork(t);
    return { patientId: twin.patientId, intoPatientId: patientId, why: 'entered twice' };
  }),
  [voidCharge.title]: press(voidCharge, async () => ({
    chargeId: (await selfPayer()).chargeId,
    why: 'test',
  })),
  [changeCharge.title]: press(changeCharge, async () => ({
    chargeId: (await claimOf()).chargeId,
    diagnoses: ['J06.9'],
  })),
  [buildClaims.title]: press(buildClaims, async () => {
    const made = await household(t);
    await charge(t, t.context, made.patientId, '145.00');
    return { householdId: made.householdId };
  }),
  [sendClaims.title]: press(sendClaims, async () => ({ claimIds: [(await claimOf()).claimId] })),
  [holdClaim.title]: press(holdClaim, async () => ({
    claimId: (await claimOf()).claimId,
    why: 'test',
  })),
  [releaseClaim.title]: press(releaseClaim, async () => {
    const { claimId } = await claimOf();
    await holdClaim(t.context, { claimId, why: 'test' });
    return { claimId };
  }),
  [withdrawClaim.title]: press(withdrawClaim, async () => ({
    claimId: (await claimOf()).claimId,
    why: 'test',
  })),
  [replaceClaim.title]: press(replaceClaim, async () => ({
    claimId: (await posted()).claim.id,
    as: '7',
    why: 'test',
  })),
  [mergeClaims.title]: press(mergeClaims, async () => ({ claimIds: (await twoDrafts()).claims })),
  [splitClaim.title]: press(splitClaim, async () => {
    const { claims } = await twoDrafts();
    return { claimId: await mergeClaims(t.context, { claimIds: claims }), lines: [2] };
  }),
  [noteOnClaim.title]: press(noteOnClaim, async () => ({
    claimId: (await sentClaim(t)).claim.id,
    words: 'test',
    key: key(),
  })),
  [bringLimits.title]: press(bringLimits, async () => {
    // Checking that waits already is not started a second time.
    await doWork(t);
    return { which: 'units', text: `T${String((serial += 1)).padStart(4, '0')},4` };
  }),
  [sayDelay.title]: press(sayDelay, async () => ({ claimId: (await claimOf()).claimId, reason: '7' })),
  [notOnFile.title]: press(notOnFile, async () => ({ claimId: (await sentClaim(t)).claim.id, why: 'test' })),
  [payerTold.title]: press(payerTold, async () => {
    const { claim } = await sentClaim(t);
    await t.db.updateTable('claim').set({ stale_since: TODAY }).where('id', '=', claim.id).execute();
    return { claimId: claim.id, why: 'test' };
  }),
  [checkOnly.title]: press(checkOnly, async () => ({ claimIds: [(await claimOf()).claimId] })),
  [checkOnceMore.title]: press(checkOnceMore, async () => ({
    checkId: await checkOnly(t.context, { claimIds: [(await claimOf()).claimId] }),
  })),
  [correctProvider.title]: press(correctProvider, async () => ({
    claimId: await correction(),
    providerId: t.providers.family2!,
  })),
  [leaveOutLine.title]: press(leaveOutLine, async () => ({
    claimId: await correction(['145.00', '145.00']),
    line: 2,
  })),
  [putBackLine.title]: press(putBackLine, async () => {
    const claimId = await correction(['145.00', '145.00']);
    await leaveOutLine(t.context, { claimId, line: 2 });
    return { claimId, line: 901 };
  }),
  [addLines.title]: press(addLines, async () => {
    const claimId = await correction();
    const { patient_id: patientId } = await t.db
      .selectFrom('claim')
      .select('patient_id')
      .where('id', '=', claimId)
      .executeTakeFirstOrThrow();
    return { claimId, chargeIds: [await charge(t, t.context, patientId, '42.00')] };
  }),
  [toldByHand.title]: press(toldByHand, async () => {
    const claimId = await correction();
    await t.db
      .updateTable('payer')
      .set({ corrections: 'reopened' })
      .where('name', '=', 'Cedar Sound Health')
      .execute();
    return { claimId, why: 'test' };
  }),
  [printClaims.title]: press(printClaims, async () => {
    const { claimId } = await claimOf();
    await t.db
      .updateTable('payer')
      .set({ accepts: 'paper', line1: '7 Elm Row', city: 'Tacoma', state: 'WA', zip: '98401' })
      .where('name', '=', 'Cedar Sound Health')
      .execute();
    return { claimIds: [claimId] };
  }),
  [freeVoided.title]: press(freeVoided, async () => {
    const s = await sentClaim(t);
    const line = { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['CO-16:145.00'] };
    const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, [line])]));
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const claimId = await replaceClaim(t.context, { claimId: s.claim.id, as: '8', why: 'test' });
    await sendClaims(t.context, { claimIds: [claimId] });
    return { claimId, why: 'test' };
  }),
  [takeReceipt.title]: press(takeReceipt, async () => ({
    householdId: (await selfPayer()).householdId,
    tenders: [{ tender: 'check', amount: '30.00', reference: '1' }],

    key: key(),
  })),
  [spendCredit.title]: press(spendCredit, async () => {
    const made = await paid();
    await charge(t, t.context, made.patientId, '15.00');
    return { householdId: made.householdId, key: key() };
  }),
  [refundCredit.title]: press(refundCredit, async () => ({
    receiptId: (await paid()).receiptId,
    amount: '1.00',
    tender: 'check',
    reference: '1',
    why: 'test',
    key: key(),
  })),
  [decideRefund.title]: press(decideRefund, async () => {
    const { receiptId } = await paid();
    const { id } = await t.db
      .insertInto('refund_request')
      .values({
        receipt_id: receiptId,
        amount: cents(100),
        kind: 'check',
        reference: '1',
        why: 'test',
        asked_on: TODAY,
        asked_by: 'Tester',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    return { refundRequestId: id, approve: true, why: '', reference: '' };
  }),
  [bringCombinations.title]: press(bringCombinations, async () => {
    // In the place of one that is there.
    await bringCombinations(t.context, { text: '2,16,M76,CO' });
    return { text: '2,16,M76,CO PI' };
  }),
  [bringDormancy.title]: press(bringDormancy, async () => {
    // In the place of one that is there.
    await bringDormancy(t.context, { text: 'WA,12,0,0' });
    return { text: 'WA,24,0,0' };
  }),
  [writeContractLetter.title]: press(writeContractLetter, async () => ({ ...(await shortOf()), key: key() })),
  [letContractLinesBe.title]: press(letContractLinesBe, async () => {
    const { lines } = await shortOf();
    return { lines, why: 'test' };
  }),
  [lookAgainAtContractLines.title]: press(lookAgainAtContractLines, async () => {
    const { lines } = await shortOf();
    await letContractLinesBe(t.context, { lines, why: 'test' });
    return { lines };
  }),
  [writeCreditLetters.title]: press(writeCreditLetters, async () => ({
    owners: [{ householdId: await unheard() }],
    key: key(),
  })),
  [answerCreditLetter.title]: press(answerCreditLetter, async () => {
    const householdId = await unheard();
    const [creditLetterId] = await writeCreditLetters(t.context, { owners: [{ householdId }], key: key() });
    return { creditLetterId: creditLetterId!, words: 'keep it' };
  }),
  [handOverCredit.title]: press(handOverCredit, async () => {
    const householdId = await unheard();
    await writeCreditLetters(t.context, { owners: [{ householdId }], key: key() });
    return { owners: [{ householdId }], number: '1', key: key() };
  }),
  [emailReceipt.title]: press(emailReceipt, async () => {
    const { householdId, receiptId } = await paid();
    await t.db
      .updateTable('household')
      .set({ email: 'asked@example.com' })
      .where('id', '=', householdId)
      .execute();
    return { receiptId, key: key() };
  }),
  [mergePayers.title]: press(mergePayers, async () => {
    const { rows } = await sql<{ id: number }>`
      insert into payer (name) values ('Twin ' || nextval('control_number')) returning id`.execute(t.owner);
    // Checking that waits already is not started a second time.
    await doWork(t);
    return { payerId: rows[0]!.id, intoId: 1, why: 'one' };
  }),
  [openDrawer.title]: press(openDrawer, async () => ({ locationId: await freshSite(), key: key() })),
  [dropFromDrawer.title]: press(dropFromDrawer, async () => ({
    drawerId: await drawer(),
    amount: '5.00',
    key: key(),
  })),
  [closeDrawer.title]: press(closeDrawer, async () => ({
    drawerId: await drawer(),
    counted: '50.00',
    checks: 0,
    why: '',
    key: key(),
  })),
  [returnTender.title]: press(returnTender, async () => ({
    tenderId: await checked(),
    why: 'not covered',
    fee: true,
    noChecks: true,
    key: key(),
  })),
  [takeAgain.title]: press(takeAgain, async () => {
    const tenderId = await checked();
    await returnTender(t.context, { tenderId, why: 'not covered', key: key() });
    return { tenderId, why: 'handed in again', key: key() };
  }),
  [correctTender.title]: press(correctTender, async () => ({
    tenderId: await checked(),
    tender: 'check',
    reference: '1045',
    why: 'read wrongly',
    key: key(),
  })),
  [moveReceipt.title]: press(moveReceipt, async () => ({
    receiptId: (await paid()).receiptId,
    toHouseholdId: (await selfPayer()).householdId,
    why: 'theirs',
    key: key(),
  })),
  [transferCredit.title]: press(transferCredit, async () => {
    const made = await paid();
    return {
      receiptId: made.receiptId,
      fromHouseholdId: made.householdId,
      toHouseholdId: (await selfPayer()).householdId,
      amount: '1.00',
      why: 'theirs',
      key: key(),
    };
  }),
  [askForVoid.title]: press(askForVoid, async () => ({
    tenderId: await carded(),
    why: 'wrong card',
    key: key(),
  })),
  [applyCredits.title]: press(applyCredits, async () => {
    const made = await paid();
    await charge(t, t.context, made.patientId, '15.00');
    return { householdIds: [made.householdId], key: key() };
  }),
  [expectVisit.title]: press(expectVisit, async () => ({
    patientId: (await selfPayer()).patientId,
    day: TODAY,
    key: key(),
  })),
  [importVisits.title]: press(importVisits, async () => ({
    name: 'visits.csv',
    text: `key,last,first,day\nV${(serial += 1)},Nobody,Known,${TODAY}`,
  })),
  [matchVisit.title]: press(matchVisit, async () => ({
    expectedVisitId: await visitToCome(),
    patientId: (await selfPayer()).patientId,
  })),
  [cancelVisit.title]: press(cancelVisit, async () => ({ expectedVisitId: await visitToCome(), why: 'ill' })),
  [freeReserved.title]: press(freeReserved, async () => ({
    expectedVisitId: await visitToCome(),
    why: 'another day',
  })),
  [makeDeposit.title]: press(makeDeposit, async () => deposited()),
  [undoDeposit.title]: press(undoDeposit, async () => ({
    depositId: (await makeDeposit(t.context, await deposited())).depositId,
    why: 'not taken along',
  })),
  [reverseAllocation.title]: press(reverseAllocation, async () => {
    const { receiptId } = await paid();
    const { rows } = await sql<{ id: number }>`
      select e.id from entry e join posting p on p.entry_id = e.id
      where e.kind = 'allocation' and p.receipt_id = ${receiptId} limit 1`.execute(t.db);
    return { entryId: rows[0]!.id, why: 'test' };
  }),
  [reverseReceipt.title]: press(reverseReceipt, async () => ({
    receiptId: (await paid()).receiptId,
    why: 'test',
  })),
  [matchHeld.title]: press(matchHeld, async () => {
    const { remittanceId } = await posted();
    const { claim } = await sentClaim(t);
    const { id } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', remittanceId)
      .where('status', '=', 'unmatched')
      .executeTakeFirstOrThrow();
    return { remittanceClaimId: id, controlNumber: claim.control_number };
  }),
  [decideHeld.title]: press(decideHeld, async () => {
    const { remittanceId } = await posted();
    const { id } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', remittanceId)
      .where('status', '=', 'unmatched')
      .executeTakeFirstOrThrow();
    return { remittanceClaimId: id, as: 'returned', why: 'test' };
  }),
  [sayReason.title]: press(sayReason, async () => {
    const s = await sentClaim(t);
    serial += 1;
    const code = `Y${serial}`;
    const line = { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: [`CO-${code}:47.00`] };
    const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, [line])]));
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const { id } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', outcomes[0]!.remittanceId!)
      .executeTakeFirstOrThrow();
    return { remittanceClaimId: id, group: 'CO', code, denial: false, words: 'test' };
  }),
  [startKeyed.title]: press(startKeyed, async () => ({ ...(await paperOf()).head, key: key() })),
  [changeKeyed.title]: press(changeKeyed, async () => {
    const { keyedId, head } = await paperOf();
    return { keyedId, ...head, source: 'portal' as const, seen: await seenOf('keyed_remittance', keyedId) };
  }),
  [addKeyedClaim.title]: press(addKeyedClaim, async () => {
    const { keyedId, controlNumber } = await paperOf();
    return { keyedId, controlNumber, key: key() };
  }),
  [saveKeyedClaim.title]: press(saveKeyedClaim, async () => {
    const keyedClaimId = await addKeyedClaim(t.context, { ...(await paperOf()), key: key() });
    return { keyedClaimId, status: '1', payerClaimNumber: '', lines: [KEYED_LINE], seen: 1 };
  }),
  [dropKeyedClaim.title]: press(dropKeyedClaim, async () => ({
    keyedClaimId: await addKeyedClaim(t.context, { ...(await paperOf()), key: key() }),
  })),
  [sayKeyedAdjustments.title]: press(sayKeyedAdjustments, async () => ({
    keyedId: (await paperOf()).keyedId,
    adjustments: [{ code: 'L6', reference: '', amount: '-1.00' }],
    seen: 1,
  })),
  [closeKeyed.title]: press(closeKeyed, async () => ({ keyedId: (await paperOf()).keyedId, rest: true })),
  [reopenKeyed.title]: press(reopenKeyed, async () => {
    const { keyedId } = await paperOf();
    await closeAndPost(t.context, { keyedId, rest: true });
    return { keyedId, why: 'test' };
  }),
  [dropKeyed.title]: press(dropKeyed, async () => ({ keyedId: (await paperOf()).keyedId, why: 'test' })),
  [checkRemittance.title]: press(checkRemittance, async () => {
    const s = await sentClaim(t);
    const line = { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] };
    serial += 1;
    const number = `NEW${serial}`;
    const { outcomes } = await intake(
      t.context,
      remitText([decided(s.claim.control_number, [line])], {
        payer: { name: 'Somebody new', id: number },
        originator: '',
      }),
    );
    await t.db.insertInto('payer_identifier').values({ value: number, payer_id: s.claim.payer_id }).execute();
    return { remittanceId: outcomes[0]!.remittanceId! };
  }),
  [takeUpAgain.title]: press(takeUpAgain, async () => {
    const { remittanceId } = await posted();
    await reverseRemittance(t.context, { remittanceId, why: 'test' });
    return { remittanceId };
  }),
  [settleCredit.title]: press(settleCredit, async () => ({
    adjustmentId: await adjustment(),
    as: 'return',
    amount: '5.00',
    open: 1000,
    why: 'test',
    key: key(),
  })),
  [undoCredit.title]: press(undoCredit, async () => {
    const adjustmentId = await adjustment();
    await settleCredit(t.context, { adjustmentId, as: 'give-up', open: 1000, why: 'test', key: key() });
    const { entry_id: entryId } = await t.db
      .selectFrom('posting')
      .select('entry_id')
      .where('provider_adjustment_id', '=', adjustmentId)
      .orderBy('id', 'desc')
      .executeTakeFirstOrThrow();
    return { entryId, why: 'test' };
  }),
  [reverseRemittance.title]: press(reverseRemittance, async () => ({
    remittanceId: (await posted()).remittanceId,
    why: 'test',
  })),
  [closeFollowUp.title]: press(closeFollowUp, async () => {
    // Less than the contract, and nothing that waits: somebody has looked at it.
    const s = await sentClaim(t);
    const line = { control: s.controls[0]!, charge: 14500, paid: 2000, reasons: ['CO-45:125.00'] };
    const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, [line])]));
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const { id } = await t.db
      .selectFrom('follow_up')
      .select('id')
      .where('household_id', '=', s.householdId)
      .executeTakeFirstOrThrow();
    return { followUpId: id, outcome: 'test' };
  }),
  [changeFollowUp.title]: press(changeFollowUp, async () => {
    const { id, version } = await followUp();
    return { followUpId: id, dueDate: '2026-04-01', owner: 'biller', note: 'Called', version };
  }),
  [settleWaiting.title]: press(settleWaiting, async () => ({
    chargeId: (await posted()).charges[1],
    to: 'off',
    why: 'test',
  })),
  [startPosting.title]: press(startPosting, async () => ({
    remittanceIds: [(await remit()).remittanceId],
  })),
  [startChecking.title]: press(startChecking, async () => {
    await doWork(t);
    const { householdId } = await claimOf();
    return { householdId };
  }),
  [startSending.title]: press(startSending, async () => {
    await doWork(t);
    await claimOf();
    return {};
  }),
  [stopWork.title]: press(stopWork, waitingWork),
  [resumeWork.title]: press(resumeWork, async () => {
    const { workId } = await waitingWork();
    await stopWork(t.context, { workId });
    return { workId };
  }),
  [chooseColumns.title]: press(chooseColumns, async () => {
    // A list that nobody has chosen columns of yet.
    const list = LIST_NAMES[(chosen += 1)]!;
    return { list, columns: [LISTS[list].columns[0]!.key] };
  }),
  [keepView.title]: press(keepView, async () => ({
    list: 'overdue',
    name: `View ${(serial += 1)}`,
    view: 'calls',
    order: '-days',
  })),
  [forgetView.title]: press(forgetView, async () => {
    const name = `View ${(serial += 1)}`;
    await keepView(t.context, { list: 'overdue', name, view: 'calls' });
    return { list: 'overdue', name };
  }),
  [addSetupRows.title]: press(addSetupRows, async () => ({
    table: 'diagnoses',
    rows: [
      { code: `Z${(serial += 1)}`, description: 'One' },
      { code: `Z${(serial += 1)}`, description: 'Another' },
    ],
    key: key(),
  })),
  [saveSetup.title]: press(saveSetup, async () => ({
    table: 'diagnoses',
    values: { code: `Z${(serial += 1)}`, description: 'New' },
  })),
  [inviteUser.title]: press(inviteUser, async () => {
    serial += 1;
    return { email: `twice${serial}@example.com`, name: `Twice ${serial}`, role: 'biller' };
  }),
  [changeUser.title]: press(changeUser, async () => {
    const { userId } = await user();
    return { userId, name: `Changed ${(serial += 1)}`, role: 'collector' };
  }),
  [ableUser.title]: press(ableUser, async () => ({ ...(await user()), able: false })),
  [resetUser.title]: press(resetUser, user),
  [takeFactorOff.title]: press(takeFactorOff, async () => {
    const made = await user();
    await sql`update "user" set "twoFactorEnabled" = true where id = ${made.userId}`.execute(t.db);
    return { ...made, reason: 'lost' };
  }),
  [changePassword.title]: async () => {
    const { userId } = await user();
    return (context) =>
      changePassword(
        { ...context, user: { ...context.user, id: userId } },
        { current: PASSWORD, password: 'seven lanterns over cold water' },
      );
  },
  [endSession.title]: async () => {
    const { userId } = await user();
    const sessionId = `twice-${(serial += 1)}`;
    await t.db
      .insertInto('session')
      .values({ id: sessionId, token: sessionId, userId, expiresAt: new Date(Date.now() + 3_600_000) })
      .execute();
    return (context) => endSession({ ...context, user: { ...context.user, id: userId } }, { sessionId });
  },
  [startDrafting.title]: press(startDrafting, async () => {
    const { householdId, batchId, pieceId } = await draftOf(t);
    await takeOutPieces(t.context, { pieceIds: [pieceId], why: `not with ${batchId}` });
    const choices = [`Own ${householdId}`];
    return { rows: [{ side: 'take', what: 'category', choices }], title: '', key: key() };
  }),
  [editPieces.title]: press(editPieces, async () => ({
    pieceIds: [(await draftOf(t)).pieceId],
    note: 'Hello',
  })),
  [refreshPieces.title]: press(refreshPieces, async () => ({ pieceIds: [(await draftOf(t)).pieceId] })),
  [takeOutPieces.title]: press(takeOutPieces, async () => ({
    pieceIds: [(await draftOf(t)).pieceId],
    why: 'x',
  })),
  [putBackPieces.title]: press(putBackPieces, async () => {
    const { pieceId } = await draftOf(t);
    await takeOutPieces(t.context, { pieceIds: [pieceId], why: 'x' });
    return { pieceIds: [pieceId] };
  }),
  [addHousehold.title]: press(addHousehold, async () => ({
    batchId: (await draftOf(t)).batchId,
    householdId: (await selfPayer()).householdId,
  })),
  [startSendingBatch.title]: press(startSendingBatch, async () => ({ batchId: (await draftOf(t)).batchId })),
  [confirmPrinted.title]: press(confirmPrinted, async () => ({ batchId: (await madeOf(t)).batchId })),
  [sendAgain.title]: press(sendAgain, async () => ({
    batchId: (await madeOf(t, 'again@example.com')).batchId,
  })),
  [printAnew.title]: press(printAnew, async () => {
    const { batchId, pieceId } = await madeOf(t);
    await confirmPrinted(t.context, { batchId });
    await t.pool.query(`update mail_piece set status = 'failed', why = 'came back' where id = ${pieceId}`);
    return { batchId };
  }),
  [voidPieces.title]: press(voidPieces, async () => {
    const { batchId, pieceId } = await madeOf(t);
    await confirmPrinted(t.context, { batchId });
    return { pieceIds: [pieceId], why: 'x' };
  }),
  [setDelivery.title]: press(setDelivery, async () => ({
    householdId: (await household(t)).householdId,
    delivery: 'print-shop',
  })),
  [logContact.title]: press(logContact, async () => ({
    householdId: (await overdueOf(t)).householdId,
    kind: 'visit',
    outcome: 'spoke',
    said: 'x',
    key: key(),
  })),
  [voidContact.title]: press(voidContact, async () => ({
    contactId: (await promised()).contactId,
    why: 'x',
  })),
  [endPromise.title]: press(endPromise, async () => ({ promiseId: (await promised()).promiseId, why: 'x' })),
  [assignOverdue.title]: press(assignOverdue, async () => ({
    householdIds: [(await overdueOf(t)).householdId],
    userId: (await user()).userId,
  })),
  [startLetters.title]: press(startLetters, async () => ({
    householdIds: [(await overdueOf(t)).householdId],
    key: key(),
  })),
  [saveLetter.title]: press(saveLetter, async () => ({
    templateId: null,
    name: `Letter ${(serial += 1)}`,
    subject: 'x',
    blocks: [{ kind: 'paragraph', text: 'x' }],
  })),
  [writeOffSmall.title]: press(writeOffSmall, async () => ({
    householdIds: [(await smallDebt()).householdId],
    key: key(),
  })),
  [undoWriteOff.title]: press(undoWriteOff, async () => {
    const { householdId } = await smallDebt();
    await writeOffSmall(t.context, { householdIds: [householdId], key: key() });
    const { entry_id: entryId } = await t.db
      .selectFrom('posting')
      .select('entry_id')
      .where('household_id', '=', householdId)
      .where('account', '=', 'reduction/small-balance')
      .executeTakeFirstOrThrow();
    return { entryId, why: 'x' };
  }),
  [askHardship.title]: press(askHardship, async () => ({
    householdId: (await overdueOf(t)).householdId,
    size: 1,
    income: '1.00',
    evidence: 'x',
    key: key(),
  })),
  [decideHardship.title]: press(decideHardship, async () => ({
    hardshipId: await askHardship(t.context, {
      householdId: (await overdueOf(t)).householdId,
      size: 1,
      income: '1.00',
      evidence: 'x',
      key: key(),
    }),
    approve: true,
  })),
  [proposePlacements.title]: press(proposePlacements, async () => ({
    householdIds: [(await overdueOf(t)).householdId],
    connectionId: (await placementOf(t, false)).connectionId,
    why: 'x',
  })),
  [approvePlacements.title]: press(approvePlacements, async () => ({
    placementIds: [(await placementOf(t, false)).placementId],
  })),
  [releasePlacement.title]: press(releasePlacement, async () => {
    const { placementId } = await placementOf(t);
    await t.owner
      .updateTable('placement')
      .set({ objections: OBJECTIONS.write([{ code: 'suspended' }]) })
      .where('id', '=', placementId)
      .execute();
    return { placementId };
  }),
  [withdrawPlacement.title]: press(withdrawPlacement, async () => ({
    placementId: (await placementOf(t, false)).placementId,
    why: 'x',
  })),
  [recallPlacement.title]: press(recallPlacement, async () => ({
    placementId: (await placementOf(t)).placementId,
    why: 'x',
  })),
  [postAgencyPayment.title]: press(postAgencyPayment, async () => ({
    placementId: (await placementOf(t)).placementId,
    reference: 'A1',
    paidOn: TODAY,
    gross: '10.00',
    key: key(),
  })),
  [reverseAgencyPayment.title]: press(reverseAgencyPayment, async () => {
    const { placementId } = await placementOf(t);
    const money = { placementId, reference: 'A1', paidOn: TODAY, gross: '10.00', key: key() };
    await postAgencyPayment(t.context, money);
    const { id } = await t.db
      .selectFrom('agency_payment')
      .select('id')
      .where('placement_id', '=', placementId)
      .executeTakeFirstOrThrow();
    return { paymentId: id, why: 'x' };
  }),
  [payAgencyFees.title]: press(payAgencyFees, async () => {
    // Paid to us while the agency has it: its fee is owed.
    const { householdId, connectionId } = await placementOf(t);
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '40.00' }],
      agency: '40.00',

      key: key(),
    });
    return { connectionId, amount: '10.00', reference: 'x', key: key() };
  }),
  [writeOffBadDebt.title]: press(writeOffBadDebt, async () => ({
    householdId: (await overdueOf(t)).householdId,
    why: 'x',
    key: key(),
  })),
  [recoverBadDebt.title]: press(recoverBadDebt, async () => {
    const { householdId } = await overdueOf(t);
    await writeOffBadDebt(t.context, { householdId, why: 'x', key: key() });
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '10.00' }], key: key() });
    return { householdId, key: key() };
  }),
  [setConfidential.title]: press(setConfidential, async () => ({
    patientId: (await household(t)).patientId,
    ...confidential,
  })),
  [endConfidential.title]: press(endConfidential, async () => {
    const { patientId } = await household(t);
    await setConfidential(t.context, { patientId, ...confidential });
    return { patientId };
  }),
  [completeCharge.title]: press(completeCharge, async () => ({
    chargeId: await plannedCharge(t, (await household(t)).patientId),
    serviceDate: TODAY,
    sure: true,
  })),
  [keepFromPayers.title]: press(keepFromPayers, async () => ({
    chargeId: await charge(t, t.context, (await household(t)).patientId, '70.00'),
    kept: true,
  })),
  [takeOffForbidden.title]: press(takeOffForbidden, async () => {
    const { householdId, patientId } = await household(t);
    const chargeId = await charge(t, t.context, patientId, '70.00');
    await settleWaiting(t.context, { chargeId, to: 'patient', why: 'x' });
    const [coverage] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
    await changeCoverage(t.context, {
      coverageId: coverage!.id,
      memberId: 'X1',
      billPatient: 'never',
      billPatientWhy: 'medicaid',
    });
    return { householdId };
  }),
  [proposePlan.title]: press(proposePlan, async () => ({
    householdId: (await selfPayer()).householdId,
    installments: 3,
    first: '2026-04-16',
    key: key(),
  })),
  [acceptPlan.title]: press(acceptPlan, async () => ({
    planId: (await planOf(t, false)).planId,
    signedBy: 'x',
  })),
  [cancelPlan.title]: press(cancelPlan, async () => ({ planId: (await planOf(t)).planId, why: 'x' })),
  [collectInstallments.title]: press(collectInstallments, async () => ({
    lines: [{ planId: (await planOf(t)).planId, amount: '10.00', tender: 'cash', reference: '' }],
    key: key(),
  })),
  [setStop.title]: press(setStop, async () => ({
    householdId: (await household(t)).householdId,
    reasonId: 1,
  })),
  [liftStop.title]: press(liftStop, async () => ({
    stopId: await setStop(t.context, { householdId: (await household(t)).householdId, reasonId: 1 }),
    why: 'x',
  })),
  [addNote.title]: press(addNote, async () => ({
    householdId: (await household(t)).householdId,
    words: 'Hello',
    pinned: true,
    key: key(),
  })),
  [endNote.title]: press(endNote, async () => ({
    noteId: await addNote(t.context, {
      householdId: (await household(t)).householdId,
      words: 'Hello',
      key: key(),
    }),
  })),
  [postLate.title]: press(postLate, async () => {
    const { householdId } = await lateOf(t);
    return { householdIds: [householdId], key: key() };
  }),
  [saveSet.title]: press(saveSet, async () => ({ name: `Set ${(serial += 1)}`, rows: [] })),
  [prepareStatement.title]: press(prepareStatement, async () => ({
    householdId: (await selfPayer()).householdId,
    key: key(),
  })),
};

/** Tables that grow with each press that is asked, whatever comes of it, and kept answers. */
const NOT_COUNTED = ['audit', 'answered', 'migration'];

/** How many rows each table has. */
async function counts(): Promise<Record<string, number>> {
  const { rows: tables } = await sql<{ name: string }>`
    select relname as name
    from pg_class
    where relnamespace = 'public'::regnamespace and relkind = 'r' and relname <> all(${NOT_COUNTED})`.execute(
    t.db,
  );
  const query = tables
    .map(({ name }) => `select '${name}' as name, count(*) as n from "${name}"`)
    .join(' union all ');
  const { rows } = await sql<{ name: string; n: number }>`${sql.raw(query)}`.execute(t.db);
  return Object.fromEntries(rows.map(({ name, n }) => [name, n]));
}

/** What a number of presses at the same moment adds, by table. */
async function grownBy(make: Press, presses: number) {
  const run = await make();
  const before = await counts();
  const results = await Promise.allSettled(Array.from({ length: presses }, () => run(t.context)));
  const after = await counts();
  const grown = Object.fromEntries(
    Object.entries(after)
      .map(([name, n]) => [name, n - (before[name] ?? 0)] as const)
      .filter(([, n]) => n !== 0),
  );
  return { results, grown };
}

/** Use cases whose form carries a key. */
const KEYED = new Set(
  [...allUseCases()]
    .filter(([, { input }]) => 'shape' in input && 'key' in (input.shape as object))
    .map(([title]) => title),
);

test('every use case is pressed here', () => {
  expect(Object.keys(PRESSES).sort()).toEqual([...allUseCases().keys()].sort());
});

test.each(Object.keys(PRESSES))('%s: pressed twice at once', async (name) => {
  const make = PRESSES[name]!;
  const once = await grownBy(make, 1);
  expect(once.results[0]!.status).toBe('fulfilled');
  const twice = await grownBy(make, KEYED.has(name) ? 5 : 2);
  if (KEYED.has(name)) {
    // Under one key every press gets the answer of the first.
    const [first] = twice.results;
    expect(first!.status).toBe('fulfilled');
    expect(twice.results).toEqual(twice.results.map(() => first));
  }
  // A second press answers like the first, or is refused in words; it never breaks.
  for (const result of twice.results)
    if (result.status === 'rejected') expect(result.reason).toBeInstanceOf(Refused);
  expect(twice.results.some((result) => result.status === 'fulfilled')).toBe(true);
  expect(twice.grown).toEqual(once.grown);
});

describe('over one connection', () => {
  const pool = (): pg.Pool => openPool(t.url, 1, { connection: 5, statement: 60 });

  test.each(Object.keys(PRESSES))('%s never asks for a second one while it holds one', async (name) => {
    const run = await PRESSES[name]!();
    const single = pool();
    try {
      await run({ ...t.context, db: openDb(single) });
    } finally {
      await single.end();
    }
  });

  test('fourteen files at once by whoever may, and the desk goes on meanwhile', async () => {
    const single = pool();
    const context = { ...t.context, db: openDb(single) };
    try {
      const files = Array.from({ length: 14 }, async () =>
        text((await listSheet(context, LISTS.accounts as never, { view: 'all' }, 'csv')).body),
      );
      expect(new Set((await Promise.all(files)).map((file) => file.split('\r\n').length)).size).toBe(1);
    } finally {
      await single.end();
    }
  });
});

test('after all presses the books are proven', async () => {
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test('the same key with other entries is refused, also for somebody else', async () => {
  const { householdId } = await selfPayer();
  const input = { householdId, tenders: [{ tender: 'cash' as const, amount: '5.00' }], key: key() };
  const first = await takeReceipt(t.context, input);
  expect(await takeReceipt(t.context, input)).toEqual(first);
  await expect(
    takeReceipt(t.context, { ...input, tenders: [{ tender: 'cash', amount: '6.00' }] }),
  ).rejects.toThrow(/saved before/);
  await expect(takeReceipt(t.as('biller'), input)).rejects.toThrow(/saved before/);
});

test('a press that failed leaves its key free', async () => {
  const { householdId } = await selfPayer();
  const input = {
    householdId,
    tenders: [{ tender: 'cash' as const, amount: '9.00' }],

    key: key(),
    parts: { 999999: '9.00' },
  };
  await expect(takeReceipt(t.context, input)).rejects.toThrow(/no longer open/);
  const { receiptId } = await takeReceipt(t.context, { ...input, parts: null });
  expect(receiptId).toBeGreaterThan(0);
});

/** Use cases that change a row which people edit: what one tab is about to write, and what another has written meanwhile. */
type Tabs = () => Promise<{ input: Record<string, unknown>; field: string; theirs: string; mine: string }>;
const TABS: Record<string, Tabs> = {
  [changePatient.title]: async () => {
    const { householdId, patientId } = await household(t);
    const [member] = (await readAccount(t.context, householdId)).members;
    const input = { ...person, first: member!.first, patientId, version: member!.version };
    return { input, field: 'city', theirs: 'Harbor', mine: 'Mill' };
  },
  [changeCoverage.title]: async () => {
    const { householdId } = await household(t);
    const [coverage] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
    const { id: coverageId, memberId, version } = coverage!;
    return { input: { coverageId, memberId, version }, field: 'groupNumber', theirs: 'A1', mine: 'B2' };
  },
  [changeCase.title]: async () => {
    const input = { caseId: await openedCase(), name: 'Shoulder', kind: 'therapy', version: 1 };
    return { input, field: 'limits', theirs: 'no lifting', mine: 'no running' };
  },
  [changeAuthorization.title]: async () => {
    const { caseId, ...allowed } = await allowanceOf();
    const authorizationId = await addAuthorization(t.context, { caseId, ...allowed, key: key() });
    return { input: { ...allowed, authorizationId, version: 1 }, field: 'number', theirs: 'R2', mine: 'R3' };
  },
  [saveLetter.title]: async () => {
    const [letter] = await readLetters(t.context);
    const { id: templateId, name, subject, blocks, version } = letter!;
    const input = { templateId, name, subject, blocks, version };
    return { input, field: 'subject', theirs: 'Hello', mine: 'Good day' };
  },
  [changeCharge.title]: async () => {
    const { chargeId } = await selfPayer();
    return {
      input: { chargeId, diagnoses: ['I10'], version: 1 },
      field: 'fee',
      theirs: '81.00',
      mine: '82.00',
    };
  },
  [changeFollowUp.title]: async () => {
    const { id: followUpId, version } = await followUp();
    const input = { followUpId, dueDate: '2026-04-01', version };
    return { input, field: 'owner', theirs: 'Ann', mine: 'Ben' };
  },
  [setDelivery.title]: async () => {
    const { householdId } = await household(t);
    const { version } = await readMail(t.context, householdId);
    const input = { householdId, delivery: 'none', version };
    return { input, field: 'deliveryWhy', theirs: 'Ann', mine: 'Ben' };
  },
  [setConfidential.title]: async () => {
    const { patientId } = await household(t);
    await setConfidential(t.context, { patientId, ...confidential });
    const input = { patientId, ...confidential, version: 1 };
    return { input, field: 'line1', theirs: '10 Quiet Lane', mine: '11 Quiet Lane' };
  },
  [saveSet.title]: async () => {
    const setId = await saveSet(t.context, { name: `Tab ${(serial += 1)}`, rows: [] });
    const input = { setId, rows: [], version: 1 };
    return { input, field: 'name', theirs: `Theirs ${serial}`, mine: `Mine ${serial}` };
  },
  [saveSetup.title]: async () => {
    const values = { code: `Y${(serial += 1)}`, description: 'New' };
    const row = await saveSetup(t.context, { table: 'diagnoses', values });
    const input = { table: 'diagnoses', row, version: 1 };
    return { input, field: 'description', theirs: 'Theirs', mine: 'Mine' };
  },
};

const ACTS = new Map<string, (context: Context, input: never) => Promise<unknown>>(
  [
    changePatient,
    changeCoverage,
    changeCase,
    changeCharge,
    changeAuthorization,
    changeFollowUp,
    setConfidential,
    setDelivery,
    saveLetter,
    saveSet,
    saveSetup,
  ].map((act) => [act.title, act]),
);
const withField = (title: string, input: Record<string, unknown>, field: string, value: string): never =>
  (title === saveSetup.title
    ? { ...input, values: { [field]: value } }
    : { ...input, [field]: value }) as never;

/** Ids that are of no one household, and the member number, which is the insurer's; a subscriber may be of another household. */
const OF_NONE =
  'adjustmentId batchId billProviderId changeId checkId connectionId depositId drawerId drawerIds fromPlaceId insurancePlanId intoId keyedId locationId memberId payerId providerId reasonId remittanceId remittanceIds ruleId scheduleId serviceSiteId sessionId setId siteId subscriberId templateId tenderIds toPlaceId userId workId';

test('what a use case is asked about is known to be of a household, or of none', () => {
  const fields = [...allUseCases().values()].flatMap(({ input }) =>
    'shape' in input ? Object.keys(input.shape as object) : [],
  );
  const ids = new Set(fields.filter((field) => /Ids?$/.test(field) && !Object.hasOwn(NAMING, field)));
  expect([...ids].sort().join(' ')).toBe(OF_NONE);
});

test('every use case that takes a version is tried in two tabs', () => {
  const versioned = [...allUseCases()]
    .filter(([, { input }]) => 'shape' in input && 'version' in (input.shape as object))
    .map(([title]) => title);
  expect(Object.keys(TABS).sort()).toEqual(versioned.sort());
});

test('what a claim says of a charge is shown with both sides too', async () => {
  const { chargeId } = await claimOf();
  await changeCharge(t.context, { chargeId, diagnoses: ['J06.9'], tooth: '3', version: 1 });
  await expect(
    changeCharge(t.context, { chargeId, diagnoses: ['I10'], tooth: '4', version: 1 }),
  ).rejects.toMatchObject({
    differences: [
      { field: 'diagnoses', theirs: 'J06.9', mine: 'I10' },
      { field: 'tooth', theirs: '3', mine: '4' },
    ],
  });
});

test.each(Object.keys(TABS))('%s: two tabs, and the later one sees both', async (title) => {
  const { input, field, theirs, mine } = await TABS[title]!();
  const act = ACTS.get(title)!;
  await act(t.context, withField(title, input, field, theirs));
  const refused = await act(t.as('manager'), withField(title, input, field, mine)).then(
    () => null,
    (error: unknown) => error,
  );
  expect(refused).toBeInstanceOf(Conflict);
  const { differences, version } = refused as Conflict;
  expect(differences).toMatchObject([{ field, theirs, mine, value: theirs }]);
  // Saved once more, knowing what stands there, it is done.
  await act(t.context, withField(title, { ...input, version }, field, mine));
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test.each([...KEYED])('%s: a key belongs to who used it and to what was said with it', async (name) => {
  const run = await PRESSES[name]!();
  await run(t.context);
  const before = await counts();
  const other: Context = {
    ...t.context,
    user: { id: 'somebody-else', name: 'Somebody Else', role: 'manager' },
  };
  await expect(run(other)).rejects.toThrow(/saved before, with other entries/);
  expect(await counts()).toEqual(before);
});
