/**
 * Every use case with what nobody should send: fields missing, empty, absurd, of another kind, somebody else's. It is done
 * or refused in words; it never breaks, and what was refused has changed nothing.
 */
import { addOption, giveEstimate } from './accounts/treatment';
import { sql } from 'kysely';
import { type TestDatabase, TODAY, testDatabase } from '../testing/database';
import {
  charge,
  decided,
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
  remitText,
  sentClaim,
} from '../testing/desk';
import { ROLES, NotAllowed, Refused, may } from './access';
import { readAccount } from './account-page/read';
import { checkBooks } from './books/check';
import { buildClaims } from './claims/build';
import { checkOnly } from './claims/check-only';
import { startChecking } from './jobs/work';
import { postAgencyPayment } from './overdue/agency-money';
import { logContact } from './overdue/contacts';
import { askHardship } from './overdue/hardship';
import { openDrawer } from './payments/drawers';
import { takeReceipt } from './payments/take';
import { expectVisit } from './payments/visits';
import { postRemittance } from './remittances/post';
import { setStop } from './accounts/stops';
import { addUser } from './users/manage';
import { allUseCases } from '../testing/all-use-cases';

let t: TestDatabase;
let good: Record<string, Record<string, unknown>>;
let serial = 0;
const key = (): string => `absurd-${(serial += 1)}-key`;

const ALL = [...allUseCases()];

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
    tenders: [{ tender: 'check', amount: '5.00', reference: '77' }],

    key: key(),
  });
  const { id: tenderId } = await t.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', receiptId)
    .executeTakeFirstOrThrow();
  const site = await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow();
  const drawerId = await openDrawer(t.context, { locationId: site.id, key: key() });
  const insured = await household(t);
  const expectedVisitId = await expectVisit(t.context, {
    patientId: insured.patientId,
    day: TODAY,
    key: key(),
  });
  await charge(t, t.context, insured.patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId: insured.householdId });
  const [coverage] = (await readAccount(t.context, insured.householdId)).members[0]!.cases[0].coverages;
  const { rule } = await deductibleOf(t, insured.patientId);
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
  const allowance = {
    kind: 'referral',
    state: 'in-part',
    number: 'R1',
    askedOn: TODAY,
    answeredOn: TODAY,
    validFrom: TODAY,
    validTo: TODAY,
    codes: ['99213'],
    visits: '1',
    units: '1',
    amount: '1.00',
  };
  await plannedCharge(t, patientId);
  const treatment = {
    optionId: await addOption(t.context, { caseId: insured.caseId, name: 'Another' }),
    estimateId: await giveEstimate(t.context, {
      caseId: insured.caseId,
      validUntil: '2026-06-30',
      key: key(),
    }),
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
    'register household': { ...person, insurancePlanId: null, memberId: '', groupNumber: '', key: '' },
    'add member': { ...person, householdId, insurancePlanId: null, key: '' },
    'change patient': { ...person, patientId, version: '1-1' },
    'add coverage': {
      ...policy,
      patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      position: 2,
      key: '',
    },
    'order coverages': { patientId, first: coverage!.id, second: null, from: TODAY },
    'change coverage': { ...policy, coverageId: coverage!.id, version: 1 },
    'enter charge': {
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
    'charge account': {
      householdId,
      kind: 'late',
      amount: '1.97',
      date: '2026-03-16',
      memo: '',
      key: '',
    },
    'void charge': { chargeId, why: 'x' },
    'add desk payer': {
      name: 'Absurd Mutual',
      city: 'Tacoma',
      state: 'WA',
      zip: '98401',
      plan: 'One',
      key: 'press-absurd-payer',
    },
    'enter visit': {
      patientId,
      providerId: t.providers.family,
      serviceDate: '2026-03-10',
      lines: [
        {
          code: '99213',
          units: 1,
          fee: '10.00',
          feeWhy: 'x',
          description: 'x',
          tax: '',
          diagnoses: ['I10'],
          modifiers: ['25'],
        },
      ],
      key: 'press-absurd-visit',
    },
    'undo visit': { chargeId, why: 'x' },
    'add service code': {
      code: 'ABS1',
      description: 'x',
      category: 'office',
      form: 'professional',
      fee: '1.00',
      modifiers: ['GP'],
    },
    'add diagnosis': { code: 'Z98.8', description: 'x' },
    'look at added code': { kind: 'service', code: 'ABS1' },
    'make charge set': { name: 'Absurd', chargeIds: [chargeId] },
    'add treatment option': { caseId: insured.caseId, name: 'x' },
    'choose treatment option': { optionId: treatment.optionId, chosen: true },
    'place planned services': { chargeIds: [planned], optionId: null, phase: 1 },
    'give estimate': {
      caseId: insured.caseId,
      optionId: null,
      validUntil: '2026-06-30',
      bookedFor: '2026-04-01',
      asked: true,
      key: 'press-absurd-estimate',
    },
    'sign estimate': { estimateId: treatment.estimateId, by: 'x', on: TODAY },
    'look at what is above an estimate': { estimateId: treatment.estimateId, why: 'x' },
    'change fees': {
      scheduleId: 1,
      from: '2026-04-01',
      lines: [{ code: '99213', amount: '1.00', facility: '1.00' }],
      words: 'x',
      sure: true,
      key: 'press-absurd-fees',
    },
    'take fees back': { changeId: 1 },
    'keep advance notice': {
      caseId: insured.caseId,
      code: '99213',
      why: 'x',
      price: '1.00',
      modifier: 'GA',
      signedOn: TODAY,
      key: 'press-absurd-notice',
    },
    'exhaust coverage': {
      coverageId: coverage!.id,
      from: TODAY,
      letter: new TextEncoder().encode('%PDF-1.4'),
    },
    'coverage not exhausted': { coverageId: coverage!.id },
    'add authorization': {
      ...allowance,
      caseId: insured.caseId,
      coverageId: coverage!.id,
      key: 'press-absurd-allowed',
    },
    'change authorization': { ...allowance, authorizationId: 1, coverageId: coverage!.id },
    'tell benefit': {
      coverageId: coverage!.id,
      rule,
      asOf: TODAY,
      quantity: '1.00',
      source: 'call',
    },
    'say own rule': {
      coverageId: coverage!.id,
      table: 'copays',
      values: { amount: '9.00', counted_for: 'visit', copay_order: 'between' },
    },
    'drop own rule': { coverageId: coverage!.id, ruleId: 1 },
    'see notices': { noteIds: [1] },
    'open case': {
      patientId,
      name: 'Knee',
      kind: 'car',
      accidentDate: '2026-01-12',
      diagnoses: [{ code: 'I10', since: '2026-01-12', until: '' }],
      services: [{ code: '99213', fee: '9.00', minutes: 20 }],
      referringLast: 'B',
      referringNpi: '1234567893',
      fromCaseId: null,
      take: [],
      key: 'press-absurd-case',
    },
    'change case': { caseId: insured.caseId, name: 'Standing case', kind: 'general', limits: 'x' },
    'discharge case': { caseId: insured.caseId, on: TODAY, why: 'x' },
    'reopen case': { caseId: insured.caseId },
    'move charge': { chargeId, patientId, caseId: null, why: 'x' },
    'change charge': { chargeId, diagnoses: ['I10'], units: 2, fee: '9.00', serviceDate: '2026-03-16' },
    'build claims': { householdId },
    'send claims': { claimIds: [claimId] },
    'hold claim': { claimId, why: 'x' },
    'release claim': { claimId },
    'withdraw claim': { claimId, why: 'x' },
    'merge claims': { claimIds: [claimId!, s.claim.id] },
    'split claim': { claimId: claimId!, lines: [1] },
    'note on claim': { claimId: s.claim.id, words: 'x', key: '' },
    'bring limits': { which: 'pairs', text: '99213,36415,yes' },
    'say delay': { claimId: claimId!, reason: '7' },
    'note not on file': { claimId: s.claim.id, why: 'x' },
    'note payer told': { claimId: s.claim.id, why: 'x' },
    'print claims': { claimIds: [claimId!] },
    'check only': { claimIds: [claimId!] },
    'check once more': { checkId: await checkOnly(t.context, { claimIds: [claimId!] }) },
    'correct provider': { claimId: s.claim.id, providerId: t.providers.family2, locationId: 1 },
    'leave out line': { claimId: s.claim.id, line: 1 },
    'put back line': { claimId: s.claim.id, line: 901 },
    'add lines': { claimId: s.claim.id, chargeIds: [chargeId] },
    'tell by hand': { claimId: claimId!, why: 'x' },
    'replace claim': { claimId: s.claim.id, as: '7', payerClaimNumber: 'X', why: 'x' },
    'end void': { claimId, why: 'x' },
    'match held claim': { remittanceClaimId: 1, controlNumber: 'OL1' },
    'decide held claim': { remittanceClaimId: 1, as: 'kept', why: 'x' },
    'say what a reason does': { remittanceClaimId: 1, group: 'CO', code: 'ZZ9', denial: false, words: 'x' },
    'start keyed remittance': {
      payerId: 1,
      amount: '1.00',
      method: 'CHK',
      trace: 'P1',
      references: ['E1'],
      paymentDate: TODAY,
      receivedDate: TODAY,
      source: 'mail',
    },
    'change keyed remittance': {
      keyedId: 1,
      payerId: 1,
      amount: '1.00',
      method: 'CHK',
      trace: 'P1',
      references: ['E1'],
      paymentDate: TODAY,
      receivedDate: TODAY,
      source: 'mail',
      seen: 1,
    },
    'add keyed claim': { keyedId: 1, controlNumber: 'OL1' },
    'save keyed claim': { keyedClaimId: 1, status: '1', payerClaimNumber: 'X', lines: [], seen: 1 },
    'drop keyed claim': { keyedClaimId: 1 },
    'say keyed adjustments': {
      keyedId: 1,
      adjustments: [{ code: 'L6', reference: 'X', amount: '1.00' }],
      seen: 1,
    },
    'close keyed remittance': { keyedId: 1, rest: false },
    'reopen keyed remittance': { keyedId: 1, why: 'x' },
    'drop keyed remittance': { keyedId: 1, why: 'x' },
    'check remittance again': { remittanceId },
    'take up remittance again': { remittanceId },
    'settle payer credit': {
      adjustmentId: 1,
      as: 'apply',
      amount: '1.00',
      open: 1000,
      controlNumber: s.claim.control_number,
      against: 'claim-1',
      why: 'x',
      key: '',
    },
    'undo payer credit': { entryId: 1, why: 'x' },
    'reverse remittance': { remittanceId, remittanceClaimId: 1, why: 'x' },
    'take receipt': {
      householdId,
      locationId: 1,
      tenders: [{ tender: 'check', amount: '2.00', reference: '1', given: null, reading: '', surcharge: 0 }],
      note: '',
      receivedOn: TODAY,
      together: true,
      plans: { [String(running.planId)]: '1.00' },
      agency: '1.00',
      spread: 'hand',
      order: [chargeId],
      first: patientId,
      expectedVisitId: null,
      reserve: null,
      parts: { [String(chargeId)]: '1.00' },
      owed: 100,
      key: '',
    },
    'open drawer': { locationId: 1, opening: '1.00', key: '' },
    'drop from drawer': { drawerId, amount: '1.00', words: 'x', key: '' },
    'close drawer': { drawerId, counted: '1.00', checks: 0, why: 'x', key: '' },
    'return tender': { tenderId, why: 'x', fee: true, noChecks: true, key: '' },
    'take tender again': { tenderId, why: 'x', key: '' },
    'correct tender': { tenderId, tender: 'check', reference: '1', why: 'x', key: '' },
    'move receipt': { receiptId, toHouseholdId: householdId, why: 'x', key: '' },
    'transfer credit': {
      receiptId,
      fromHouseholdId: self.householdId,
      toHouseholdId: householdId,
      amount: '1.00',
      why: 'x',
      key: '',
    },
    'void card': { tenderId, why: 'x', key: '' },
    'apply credits': { householdIds: [householdId], key: '' },
    'expect visit': {
      patientId,
      day: TODAY,
      time: '09:30',
      providerId: t.providers.family,
      locationId: 1,
      reason: 'x',
      codes: ['99213'],
      key: '',
    },
    'import visits': { name: 'x', text: `last,first,day\nA,B,${TODAY}` },
    'match visit': { expectedVisitId, patientId },
    'cancel visit': { expectedVisitId, why: 'x' },
    'free reserved credit': { expectedVisitId, why: 'x' },
    'spend credit': { householdId, key: '' },
    'refund credit': {
      receiptId,
      tenderId,
      amount: '1.00',
      tender: 'check',
      reference: '1',
      why: 'x',
      key: '',
    },
    'decide refund': { refundRequestId: 1, approve: true, why: 'x', reference: '' },
    'bring combinations': { text: '2,16,M76,CO' },
    'bring dormancy': { text: 'WA,12' },
    'write contract letter': { payerId: 1, lines: [{ chargeId, coverageId: 1 }], key: '' },
    'let contract lines be': { lines: [{ chargeId, coverageId: 1 }], why: 'x' },
    'look again at contract lines': { lines: [{ chargeId, coverageId: 1 }] },
    'write credit letters': { owners: [{ householdId }], key: '' },
    'answer credit letter': { creditLetterId: 1, words: 'x' },
    'hand over credit': { owners: [{ householdId }], number: '1', key: '' },
    'e-mail receipt': { receiptId, key: '' },
    'merge accounts': { householdId, intoHouseholdId: 1, why: 'x' },
    'merge people': { patientId, intoPatientId: 1, why: 'x' },
    'make deposit': {
      fromPlaceId: 1,
      toPlaceId: 2,
      date: '2026-03-16',
      number: '1',
      tenderIds: [1],
      drawerIds: [],
      key: '',
    },
    'undo deposit': { depositId: 1, why: 'x' },
    'merge payers': { payerId: 2, intoId: 1, why: 'x' },
    'reverse allocation': { entryId: 1, why: 'x' },
    'reverse receipt': { receiptId, why: 'x' },
    'close follow-up': { followUpId, outcome: 'x' },
    'change follow-up': { followUpId, dueDate: '2026-04-01', owner: '', note: 'x', version: 1 },
    'settle with payer': { chargeId: s.charges[1], coverageId: 1, to: 'off', why: 'x' },
    'start posting': { remittanceIds: [remittanceId] },
    'start checking': { householdId },
    'start sending': {},
    'stop work': { workId: work },
    'resume work': { workId: work },
    'choose columns': { list: 'accounts', columns: ['number'] },
    'keep view': { list: 'overdue', name: 'x', view: 'all', order: 'days' },
    'forget view': { list: 'overdue', name: 'x' },
    'add setup rows': { table: 'diagnoses', rows: [{ code: 'Z99.9', description: 'x' }], key: '' },
    'save setup': {
      table: 'diagnoses',
      values: { code: 'Z9', description: 'x' },
      row: 'I10',
      version: 1,
    },
    'prepare statement': { householdId, patientId: null, key: '' },
    'draft statements': {
      setId: null,
      rows: [{ side: 'take', what: 'last-older', number: 3 }],
      siteId: null,
      title: 'x',
      options: { range: '30' },
      key: '',
    },
    'edit pieces': {
      pieceIds: [draft.pieceId],
      delivery: 'mail',
      note: 'x',
      dueDate: '2026-04-01',
      options: { range: 'zero' },
    },
    'refresh pieces': { pieceIds: [draft.pieceId] },
    'take out pieces': { pieceIds: [draft.pieceId], why: 'x' },
    'put back pieces': { pieceIds: [draft.pieceId] },
    'add to batch': { batchId: draft.batchId, householdId },
    'start sending batch': { batchId: draft.batchId, from: 1, to: 2 },
    'confirm printed': { batchId: made.batchId, from: 1, to: 2 },
    'print what came back anew': { batchId: made.batchId, from: 1, to: 2 },
    'send again': { batchId: made.batchId, from: 1, to: 2 },
    'void pieces': { pieceIds: [made.pieceId], why: 'x' },
    'set delivery': {
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
    'propose plan': {
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
    'accept plan': { planId: proposed.planId, signedBy: 'x', signature: '' },
    'cancel plan': { planId: running.planId, why: 'x' },
    'collect installments': {
      lines: [{ planId: running.planId, amount: '1.00', tender: 'cash', reference: '' }],
      key: '',
    },
    'log contact': {
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
    'void contact': { contactId, why: 'x' },
    'end promise': { promiseId, why: 'x' },
    'assign overdue': { householdIds: [overdue.householdId], userId },
    'draft letters': { householdIds: [overdue.householdId], key: '' },
    'save letter': {
      templateId: null,
      name: 'x',
      active: true,
      subject: 'x',
      blocks: [{ kind: 'paragraph', text: 'x' }],
      version: 1,
    },
    'write off small balances': { householdIds: [overdue.householdId], key: '' },
    'undo write-off': { entryId: 1, why: 'x' },
    'ask for hardship': {
      householdId: overdue.householdId,
      size: 1,
      income: '1.00',
      evidence: 'x',
      key: '',
    },
    'decide hardship': { hardshipId, approve: true, why: 'x' },
    'propose placements': {
      householdIds: [overdue.householdId],
      connectionId: proposal.connectionId,
      why: 'x',
    },
    'approve placements': { placementIds: [proposal.placementId] },
    'release placement': { placementId: handedOver.placementId },
    'withdraw placement': { placementId: proposal.placementId, why: 'x' },
    'recall placement': { placementId: handedOver.placementId, why: 'x' },
    'post agency payment': {
      placementId: handedOver.placementId,
      reference: 'x',
      paidOn: TODAY,
      gross: '1.00',
      fee: '0.50',
      key: '',
    },
    'reverse agency payment': { paymentId, why: 'x' },
    'pay agency fees': { connectionId: proposal.connectionId, amount: '1.00', reference: 'x', key: '' },
    'write off bad debt': { householdId: overdue.householdId, amount: '1.00', why: 'x', key: '' },
    'recover bad debt': { householdId: overdue.householdId, key: '' },
    'set confidential address': {
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
    'end confidential address': { patientId: self.patientId },
    'complete charge': { chargeId: planned, serviceDate: TODAY },
    'keep from payers': { chargeId: planned, kept: true },
    'take off what may not be billed': { householdId },
    'set stop': { householdId, reasonId: 1, note: '', until: '2026-04-01' },
    'lift stop': { stopId, why: 'x' },
    'add note': { householdId, audience: 'patient', words: 'x', until: '2026-04-01', times: 2, key: '' },
    'end note': { noteId: 1 },
    'post late charges': { householdIds: [late.householdId], key: '' },
    'save statement set': { setId: null, name: 'x', siteId: null, standard: false, rows: [], version: 1 },
    'invite user': { email: 'absurd@example.com', name: 'Absurd Invited', role: 'biller' },
    'change user': { userId, name: 'Absurd Changed', role: 'collector' },
    'disable or enable user': { userId, able: false },
    'reset password': { userId },
    'take second factor off': { userId, reason: 'lost' },
    'change own password': {
      current: 'a quiet otter counts beans',
      password: 'seven lanterns over cold water',
    },
    'end own sessions': { sessionId: 'none' },
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
    select string_agg(n::text, ' ') as n
    from (
      select count(*) as n from charge union all select count(*) from entry union all select count(*) from posting
      union all
      select count(*)
      from household
      union all
      select count(*)
      from patient
      union all
      select count(*)
      from coverage
      union all
      select count(*)
      from claim
      union all
      select count(*)
      from receipt
      union all
      select count(*)
      from statement
      union all
      select count(*)
      from note) c`.execute(t.db);
  return rows[0]!.n;
};

test('every use case is tried here', () => {
  expect(Object.keys(good).sort()).toEqual(ALL.map(([title]) => title).sort());
});

test('a means of payment: whatever stands in a field of it', async () => {
  const [means] = good['take receipt']!['tenders'] as Record<string, unknown>[];
  for (const field of Object.keys(means!))
    for (const value of ABSURD) {
      const error = await takeReceipt(t.context, {
        householdId: good['take receipt']!['householdId'],
        tenders: [{ ...means, [field]: value }],
        key: key(),
        sure: true,
      } as never).then(
        () => null,
        (reason: unknown) => reason,
      );
      if (error === null) continue;
      if (!(error instanceof Refused))
        throw new Error(`${field} = ${JSON.stringify(value)?.slice(0, 60)}: ${String(error)}`);
      expect(error.message).not.toMatch(/undefined|null|NaN|\[object|Invalid input|expected/);
    }
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test.each(ALL)('%s: whatever stands in a field', async (title, act) => {
  let before = await counted();
  for (const field of Object.keys(good[title]!))
    for (const value of ABSURD) {
      const input = {
        ...good[title],
        ...('key' in good[title]! ? { key: key() } : {}),
        [field]: value,
      } as never;
      const error = await act(t.context, input).then(
        () => null,
        (reason: unknown) => reason,
      );
      if (error === null) {
        before = await counted();
        continue;
      }
      if (!(error instanceof Refused))
        throw new Error(`${title}, ${field} = ${JSON.stringify(value)?.slice(0, 60)}: ${String(error)}`);
      expect(error.message).not.toMatch(/undefined|null|NaN|\[object|Invalid input|expected/);
      expect(await counted()).toBe(before);
    }
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test.each(ALL)('%s: nothing at all, and no object', async (_title, act) => {
  for (const input of [undefined, null, 'text', 7, [], { unknown: true }])
    await act(t.context, input as never).then(
      () => undefined,
      (error: unknown) => expect(error).toBeInstanceOf(Refused),
    );
});

test.each(ALL.flatMap(([title, act]) => ROLES.map((role) => [title, role, act] as const)))(
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
