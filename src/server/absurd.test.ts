/**
 * Every use case with what nobody should send: fields missing, empty, absurd, of another kind, somebody else's. It is done
 * or refused in words; it never breaks, and what was refused has changed nothing.
 */
import { sql } from 'kysely';
import { type TestDatabase, TODAY, testDatabase } from '../testing/database';
import {
  charge,
  decided,
  draftOf,
  household,
  intake,
  lateOf,
  madeOf,
  overdueOf,
  placementOf,
  planOf,
  plannedCharge,
  remitText,
  sentClaim,
} from '../testing/desk';
import { type Context, ROLES, NotAllowed, Refused, may } from './access';
import { takeOffForbidden } from './accounts/bill-patient';
import { chargeAccount, completeCharge, enterCharge, voidCharge } from './accounts/charges';
import { addCoverage, changeCoverage, keepFromPayers } from './accounts/coverage';
import { readAccount } from './accounts/read';
import { addMember, changePatient, registerHousehold } from './accounts/register';
import { checkBooks } from './books/check';
import { buildClaims } from './claims/build';
import { changeCharge } from './claims/fix';
import { holdClaim, releaseClaim, withdrawClaim } from './claims/hold';
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
import { chooseColumns, forgetView, keepView } from './lists/choose';
import {
  payAgencyFees,
  postAgencyPayment,
  recoverBadDebt,
  reverseAgencyPayment,
  writeOffBadDebt,
} from './overdue/agency-money';
import { assignOverdue, endPromise, logContact, voidContact } from './overdue/contacts';
import { askHardship, decideHardship } from './overdue/hardship';
import { startLetters } from './overdue/due-letters';
import { saveLetter } from './overdue/letters';
import { recallPlacement } from './overdue/placements';
import { approvePlacements, proposePlacements, withdrawPlacement } from './overdue/proposals';
import { undoWriteOff, writeOffSmall } from './overdue/small';
import { reverseReceipt, spendCredit, takeReceipt } from './payments/receipts';
import { acceptPlan, cancelPlan, proposePlan } from './plans/agree';
import { collectInstallments } from './plans/collect';
import { checkRemittance, decideHeld, matchHeld, takeUpAgain } from './remittances/held';
import { settleCredit, undoCredit } from './remittances/credit';
import { postRemittance } from './remittances/post';
import { reverseRemittance } from './remittances/reverse';
import { saveSetup } from './setup/save';
import { confirmPrinted, sendAgain, voidPieces } from './statements/again';
import {
  addHousehold,
  startDrafting,
  editPieces,
  putBackPieces,
  refreshPieces,
  takeOutPieces,
} from './statements/drafts';
import {
  addPatientNote,
  endConfidential,
  endPatientNote,
  liftStop,
  setConfidential,
  setDelivery,
  setStop,
} from './statements/household';
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
import { useCaseInputs } from './use-case';

let t: TestDatabase;
let good: Record<string, Record<string, unknown>>;
let serial = 0;
const key = (): string => `absurd-${(serial += 1)}-key`;

interface Tried {
  (context: Context, input: never): Promise<unknown>;
  readonly title: string;
  readonly permission: Parameters<typeof may>[1];
}
const ALL: readonly Tried[] = [
  registerHousehold,
  addMember,
  changePatient,
  addCoverage,
  changeCoverage,
  enterCharge,
  chargeAccount,
  voidCharge,
  changeCharge,
  buildClaims,
  sendClaims,
  holdClaim,
  releaseClaim,
  withdrawClaim,
  replaceClaim,
  freeVoided,
  matchHeld,
  decideHeld,
  checkRemittance,
  takeUpAgain,
  settleCredit,
  undoCredit,
  reverseRemittance,
  takeReceipt,
  spendCredit,
  reverseReceipt,
  closeFollowUp,
  changeFollowUp,
  settleWaiting,
  startPosting,
  startChecking,
  startSending,
  stopWork,
  resumeWork,
  chooseColumns,
  keepView,
  forgetView,
  saveSetup,
  prepareStatement,
  startDrafting,
  editPieces,
  refreshPieces,
  takeOutPieces,
  putBackPieces,
  addHousehold,
  startSendingBatch,
  confirmPrinted,
  sendAgain,
  voidPieces,
  setDelivery,
  proposePlan,
  acceptPlan,
  cancelPlan,
  collectInstallments,
  logContact,
  voidContact,
  endPromise,
  assignOverdue,
  startLetters,
  saveLetter,
  writeOffSmall,
  undoWriteOff,
  askHardship,
  decideHardship,
  proposePlacements,
  approvePlacements,
  withdrawPlacement,
  recallPlacement,
  postAgencyPayment,
  reverseAgencyPayment,
  payAgencyFees,
  writeOffBadDebt,
  recoverBadDebt,
  setConfidential,
  endConfidential,
  completeCharge,
  keepFromPayers,
  takeOffForbidden,
  setStop,
  liftStop,
  addPatientNote,
  endPatientNote,
  saveSet,
  postLate,
  inviteUser,
  changeUser,
  ableUser,
  resetUser,
  takeFactorOff,
  changePassword,
  endSession,
];

/** One state, and for each use case what it would take in it. */
async function prepare(): Promise<void> {
  const s = await sentClaim(t, ['145.00', '42.00']);
  const { outcomes } = await intake(
    t.context,
    remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
      ]),
    ]),
  );
  const remittanceId = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, remittanceId);
  const self = await household(t, false);
  const chargeId = await charge(t, t.context, self.patientId, '80.00');
  const planned = await plannedCharge(t, self.patientId);
  const [proposed, running] = [await planOf(t, false), await planOf(t)];
  const { receiptId } = await takeReceipt(t.context, {
    householdId: self.householdId,
    amount: '5.00',
    tender: 'check',
    reference: '77',
    key: key(),
  });
  const insured = await household(t);
  await charge(t, t.context, insured.patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId: insured.householdId });
  const [coverage] = (await readAccount(t.context, insured.householdId)).members[0]!.coverages;
  const { id: followUpId } = await t.db.selectFrom('follow_up').select('id').executeTakeFirstOrThrow();
  const work = (await startChecking(t.context, {}))!;
  const userId = await addUser(t.context, {
    email: 'somebody@example.com',
    name: 'Somebody Absurd',
    role: 'biller',
    password: 'a quiet otter counts beans',
  });
  const person = {
    last: 'Absurd',
    first: 'Ann',
    birthDate: '1990-01-01',
    sex: 'F',
    line1: '1 Row',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
    phone: '555-0100',
    email: '',
  };
  const { patientId, householdId } = insured;
  const policy = {
    memberId: 'CSH1',
    groupNumber: '',
    relationship: 'self',
    validFrom: '2026-01-01',
    validTo: '',
  };
  const draft = await draftOf(t);
  const made = await madeOf(t);
  const late = await lateOf(t);
  const stopId = await setStop(t.context, { householdId, reasonId: 2 });
  const overdue = await overdueOf(t);
  const contactId = await logContact(t.context, {
    householdId: overdue.householdId,
    kind: 'call',
    outcome: 'promise',
    amount: '5.00',
    by: '2026-04-01',
    sure: true,
    key: key(),
  });
  const { id: promiseId } = await t.db.selectFrom('promise').select('id').executeTakeFirstOrThrow();
  const [proposal, handedOver] = [await placementOf(t, false), await placementOf(t)];
  await postAgencyPayment(t.context, {
    placementId: handedOver.placementId,
    reference: 'A1',
    paidOn: TODAY,
    gross: '10.00',
    key: key(),
  });
  const { id: paymentId } = await t.db.selectFrom('agency_payment').select('id').executeTakeFirstOrThrow();
  const hardshipId = await askHardship(t.context, {
    householdId: overdue.householdId,
    size: 1,
    income: '1.00',
    evidence: 'x',
    key: key(),
  });
  good = {
    [registerHousehold.title]: { ...person, planId: null, memberId: '', groupNumber: '', key: '' },
    [addMember.title]: { ...person, householdId, planId: null, key: '' },
    [changePatient.title]: { ...person, patientId, version: '1-1' },
    [addCoverage.title]: { ...policy, patientId, planId: t.plans['CS-350'], position: 2, key: '' },
    [changeCoverage.title]: { ...policy, coverageId: coverage!.id, version: 1 },
    [enterCharge.title]: {
      patientId,
      providerId: t.providers.family,
      serviceDate: '2026-03-10',
      code: '99213',
      units: 1,
      fee: '10.00',
      tax: '',
      modifiers: ['25'],
      diagnoses: ['I10'],
      tooth: '',
      surfaces: '',
      key: '',
    },
    [chargeAccount.title]: {
      householdId,
      kind: 'late',
      amount: '1.97',
      date: '2026-03-16',
      memo: '',
      key: '',
    },
    [voidCharge.title]: { chargeId, why: 'x' },
    [changeCharge.title]: { chargeId, diagnoses: ['I10'], units: 2, fee: '9.00', serviceDate: '2026-03-16' },
    [buildClaims.title]: { householdId },
    [sendClaims.title]: { claimIds: [claimId] },
    [holdClaim.title]: { claimId, why: 'x' },
    [releaseClaim.title]: { claimId },
    [withdrawClaim.title]: { claimId, why: 'x' },
    [replaceClaim.title]: { claimId: s.claim.id, as: '7', payerClaimNumber: 'X', why: 'x' },
    [freeVoided.title]: { claimId, why: 'x' },
    [matchHeld.title]: { remittanceClaimId: 1, controlNumber: 'OL1' },
    [decideHeld.title]: { remittanceClaimId: 1, as: 'kept', why: 'x' },
    [checkRemittance.title]: { remittanceId },
    [takeUpAgain.title]: { remittanceId },
    [settleCredit.title]: {
      adjustmentId: 1,
      as: 'apply',
      amount: '1.00',
      open: 1000,
      controlNumber: s.claim.control_number,
      against: 'claim-1',
      why: 'x',
      key: '',
    },
    [undoCredit.title]: { entryId: 1, why: 'x' },
    [reverseRemittance.title]: { remittanceId, remittanceClaimId: 1, why: 'x' },
    [takeReceipt.title]: {
      householdId,
      amount: '1.00',
      tender: 'check',
      reference: '1',
      note: '',
      together: true,
      plans: { [String(running.planId)]: '1.00' },
      agency: '1.00',
      parts: { [String(chargeId)]: '1.00' },
      owed: 100,
      key: '',
    },
    [spendCredit.title]: { householdId, key: '' },
    [reverseReceipt.title]: { receiptId, why: 'x' },
    [closeFollowUp.title]: { followUpId, outcome: 'x' },
    [changeFollowUp.title]: { followUpId, dueDate: '2026-04-01', owner: '', note: 'x', version: 1 },
    [settleWaiting.title]: { chargeId: s.charges[1], coverageId: 1, to: 'off', why: 'x' },
    [startPosting.title]: { remittanceIds: [remittanceId] },
    [startChecking.title]: { householdId },
    [startSending.title]: {},
    [stopWork.title]: { workId: work },
    [resumeWork.title]: { workId: work },
    [chooseColumns.title]: { list: 'accounts', columns: ['number'] },
    [keepView.title]: { list: 'overdue', name: 'x', view: 'all', order: 'days' },
    [forgetView.title]: { list: 'overdue', name: 'x' },
    [saveSetup.title]: {
      table: 'diagnoses',
      values: { code: 'Z9', description: 'x' },
      row: 'I10',
      version: 1,
    },
    [prepareStatement.title]: { householdId, patientId: null, key: '' },
    [startDrafting.title]: {
      setId: null,
      rows: [{ side: 'take', what: 'last-older', number: 3 }],
      siteId: null,
      title: 'x',
      options: { range: '30' },
      key: '',
    },
    [editPieces.title]: {
      pieceIds: [draft.pieceId],
      delivery: 'mail',
      note: 'x',
      dueDate: '2026-04-01',
      options: { range: 'zero' },
    },
    [refreshPieces.title]: { pieceIds: [draft.pieceId] },
    [takeOutPieces.title]: { pieceIds: [draft.pieceId], why: 'x' },
    [putBackPieces.title]: { pieceIds: [draft.pieceId] },
    [addHousehold.title]: { batchId: draft.batchId, householdId },
    [startSendingBatch.title]: { batchId: draft.batchId, from: 1, to: 2 },
    [confirmPrinted.title]: { batchId: made.batchId, from: 1, to: 2, cameBack: false },
    [sendAgain.title]: { batchId: made.batchId, from: 1, to: 2 },
    [voidPieces.title]: { pieceIds: [made.pieceId], why: 'x' },
    [setDelivery.title]: {
      householdId,
      delivery: 'mail',
      deliveryWhy: '',
      holdUntil: '2026-04-01',
      holdWhy: 'x',
      category: null,
      siteId: null,
      addressGood: true,
      lateCharges: false,
      mailedWith: '',
      spared: [1],
      version: 1,
    },
    [proposePlan.title]: {
      householdId,
      chargeIds: [chargeId],
      replaces: null,
      amount: '10.00',
      down: '1.00',
      rate: '5',
      every: 'month',
      installments: 2,
      installment: null,
      first: '2026-04-16',
      interestBy: 'period',
      extra: 'lowers',
      lateCharges: true,
      key: '',
    },
    [acceptPlan.title]: { planId: proposed.planId, signedBy: 'x', signature: '' },
    [cancelPlan.title]: { planId: running.planId, why: 'x' },
    [collectInstallments.title]: {
      lines: [{ planId: running.planId, amount: '1.00', tender: 'cash', reference: '' }],
      key: '',
    },
    [logContact.title]: {
      householdId: overdue.householdId,
      kind: 'call',
      direction: 'out',
      whom: '',
      said: 'x',
      outcome: 'promise',
      amount: '1.00',
      by: '2026-04-01',
      againOn: '2026-04-01',
      key: '',
    },
    [voidContact.title]: { contactId, why: 'x' },
    [endPromise.title]: { promiseId, why: 'x' },
    [assignOverdue.title]: { householdIds: [overdue.householdId], userId },
    [startLetters.title]: { householdIds: [overdue.householdId], key: '' },
    [saveLetter.title]: {
      templateId: null,
      name: 'x',
      active: true,
      subject: 'x',
      blocks: [{ kind: 'paragraph', text: 'x' }],
      version: 1,
    },
    [writeOffSmall.title]: { householdIds: [overdue.householdId], key: '' },
    [undoWriteOff.title]: { entryId: 1, why: 'x' },
    [askHardship.title]: {
      householdId: overdue.householdId,
      size: 1,
      income: '1.00',
      evidence: 'x',
      key: '',
    },
    [decideHardship.title]: { hardshipId, approve: true, why: 'x' },
    [proposePlacements.title]: {
      householdIds: [overdue.householdId],
      connectionId: proposal.connectionId,
      why: 'x',
    },
    [approvePlacements.title]: { placementIds: [proposal.placementId] },
    [withdrawPlacement.title]: { placementId: proposal.placementId, why: 'x' },
    [recallPlacement.title]: { placementId: handedOver.placementId, why: 'x' },
    [postAgencyPayment.title]: {
      placementId: handedOver.placementId,
      reference: 'x',
      paidOn: TODAY,
      gross: '1.00',
      fee: '0.50',
      key: '',
    },
    [reverseAgencyPayment.title]: { paymentId, why: 'x' },
    [payAgencyFees.title]: { connectionId: proposal.connectionId, amount: '1.00', reference: 'x', key: '' },
    [writeOffBadDebt.title]: { householdId: overdue.householdId, amount: '1.00', why: 'x', key: '' },
    [recoverBadDebt.title]: { householdId: overdue.householdId, key: '' },
    [setConfidential.title]: {
      patientId: self.patientId,
      name: 'x',
      delivery: 'mail',
      line1: 'x',
      line2: '',
      city: 'x',
      state: 'WA',
      zip: '98199',
      email: '',
      why: '',
      version: 1,
    },
    [endConfidential.title]: { patientId: self.patientId },
    [completeCharge.title]: { chargeId: planned, serviceDate: TODAY },
    [keepFromPayers.title]: { chargeId: planned, kept: true },
    [takeOffForbidden.title]: { householdId },
    [setStop.title]: { householdId, reasonId: 1, note: '', until: '2026-04-01' },
    [liftStop.title]: { stopId, why: 'x' },
    [addPatientNote.title]: { householdId, words: 'x', until: '2026-04-01', times: 2, key: '' },
    [endPatientNote.title]: { noteId: 1 },
    [postLate.title]: { householdIds: [late.householdId], key: '' },
    [saveSet.title]: { setId: null, name: 'x', siteId: null, standard: false, rows: [], version: 1 },
    [inviteUser.title]: { email: 'absurd@example.com', name: 'Absurd Invited', role: 'biller' },
    [changeUser.title]: { userId, name: 'Absurd Changed', role: 'collector' },
    [ableUser.title]: { userId, able: false },
    [resetUser.title]: { userId },
    [takeFactorOff.title]: { userId, reason: 'lost' },
    [changePassword.title]: {
      current: 'a quiet otter counts beans',
      password: 'seven lanterns over cold water',
    },
    [endSession.title]: { sessionId: 'none' },
  };
}

beforeAll(async () => {
  t = await testDatabase();
  await prepare();
});
afterAll(() => t.close());

/** What nobody should send in any field. */
const ABSURD: readonly unknown[] = [
  undefined,
  null,
  '',
  ' ',
  0,
  -1,
  1.5,
  99_999_999,
  Number.MAX_SAFE_INTEGER,
  1e30,
  Number.NaN,
  '0',
  '-5.00',
  '99999999999999.99',
  '1805-01-01',
  '2199-12-31',
  '0000-00-00',
  'x'.repeat(60),
  'x'.repeat(5000),
  '日本語 Ελένη Đặng',
  "'; drop table charge; --",
  '*~^:',
  '\u0000',
  '%_\\',
  true,
  [],
  [null],
  ['x'.repeat(300)],
  {},
  { toString: 'no' },
];

const counted = async (): Promise<string> => {
  const { rows } = await sql<{ n: string }>`
    select string_agg(n::text, ' ') as n from (select count(*) as n from charge union all select count(*) from entry union all select count(*) from posting
      union all select count(*) from household union all select count(*) from patient union all select count(*) from coverage union all select count(*) from claim
      union all select count(*) from receipt union all select count(*) from statement union all select count(*) from follow_up_note) c`.execute(
    t.db,
  );
  return rows[0]!.n;
};

test('every use case is tried here', () => {
  expect(ALL.map((item) => item.title).sort()).toEqual([...useCaseInputs().keys()].sort());
  expect(Object.keys(good).sort()).toEqual([...useCaseInputs().keys()].sort());
});

test.each(ALL.map((item) => [item.title, item] as const))(
  '%s: whatever stands in a field',
  async (title, act) => {
    for (const field of Object.keys(good[title]!))
      for (const value of ABSURD) {
        const input = {
          ...good[title],
          ...('key' in good[title]! ? { key: key() } : {}),
          [field]: value,
        } as never;
        const before = await counted();
        const error = await act(t.context, input).then(
          () => null,
          (reason: unknown) => reason,
        );
        if (error === null) continue;
        if (!(error instanceof Refused))
          throw new Error(`${title}, ${field} = ${JSON.stringify(value)?.slice(0, 60)}: ${String(error)}`);
        expect(error.message).not.toMatch(/undefined|null|NaN|\[object|Invalid input|expected/);
        expect(await counted()).toBe(before);
      }
    expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
  },
);

test.each(ALL.map((item) => [item.title, item] as const))(
  '%s: nothing at all, and no object',
  async (_title, act) => {
    for (const input of [undefined, null, 'text', 7, [], { unknown: true }])
      await act(t.context, input as never).then(
        () => undefined,
        (error: unknown) => expect(error).toBeInstanceOf(Refused),
      );
  },
);

test.each(ALL.flatMap((item) => ROLES.map((role) => [item.title, role, item] as const)))(
  '%s by a %s: only who may, and the others before anything is read',
  async (_title, role, act) => {
    const before = await counted();
    const error = await act(t.as(role), { absurd: true } as never).then(
      () => null,
      (reason: unknown) => reason,
    );
    if (may(role, act.permission)) expect(error).not.toBeInstanceOf(NotAllowed);
    else {
      expect(error).toBeInstanceOf(NotAllowed);
      expect((error as Error).message).toBe(`Your role (${role}) may not ${act.permission}`);
      expect(await counted()).toBe(before);
    }
  },
);
