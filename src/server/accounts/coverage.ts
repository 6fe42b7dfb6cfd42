/** Coverage after registration: a further one, another plan, the end of one; what nobody was billed for yet follows. */
import { sql } from 'kysely';
import type { z } from 'zod';
import {
  coverageFixInput,
  coverageInput,
  coverageOrderInput,
  keepFromPayersInput,
} from '../../core/accounts/input';
import { type CalendarDate, addDays } from '../../core/calendar';
import type { Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { lockHouseholds } from '../books/journal';
import { startWork } from '../jobs/work';
import { addDeskPayer } from '../payers/desk';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';
import { follow, isMoved, moveOwing, owingOf } from './follow';
import { type Holder, planOffered, policyOf } from './policies';
import { raiseWentElsewhere } from './went-elsewhere';

const ORDERS = ['first', 'second', 'third'] as const;

/** What a coverage says of the policy, as the forms send it. */
type Policy = Pick<
  z.output<typeof coverageInput>,
  | 'memberId'
  | 'groupNumber'
  | 'relationship'
  | 'subscriberId'
  | 'holderLast'
  | 'holderFirst'
  | 'holderBirthDate'
  | 'holderSex'
  | 'holderOrganization'
  | 'holderLine1'
  | 'holderCity'
  | 'holderState'
  | 'holderZip'
  | 'claimNumber'
  | 'adjuster'
  | 'assigned'
  | 'signed'
  | 'basis'
  | 'courtOrder'
  | 'secondaryType'
  | 'validFrom'
  | 'validTo'
  | 'billPatient'
  | 'billPatientWhy'
>;

/**
 * A patient with a case, the standing one where none is said, locked with the household.
 * @throws Refused when there is none
 */
export async function patientOf(act: Act, patientId: number, caseId: number | null = null) {
  const found = await act.db
    .selectFrom('patient as p')
    .innerJoin('care_case as k', 'k.patient_id', 'p.id')
    .select(['p.id', 'p.household_id', 'k.id as case_id'])
    .where('p.id', '=', patientId)
    .where((eb) => (caseId ? eb('k.id', '=', caseId) : eb('k.standing', '=', true)))
    .executeTakeFirst();
  if (!found)
    throw caseId
      ? new Refused('others', 'This case is not this person’s', 'caseId')
      : new Refused('unknown', 'This person is not registered', 'patientId');
  await lockHouseholds(act.db, [found.household_id]);
  return found;
}

/** Where a holder is who is no patient, whole or not at all. @throws Refused naming what is missing */
function addressOf({ holderLine1: line1, holderCity: city, holderState: state, holderZip: zip }: Policy) {
  if (line1 + city + state + zip === '') return { line1, city, state, zip };
  if (line1 === '') throw new Refused('missing', 'Street of the holder is missing', 'holderLine1');
  if (city === '') throw new Refused('missing', 'City of the holder is missing', 'holderCity');
  if (state === '') throw new Refused('missing', 'State of the holder is missing', 'holderState');
  if (zip === '') throw new Refused('missing', 'ZIP of the holder is missing', 'holderZip');
  return { line1, city, state, zip };
}

/** Who holds the policy: a member, or somebody who is no patient. @throws Refused when that is nobody of the household */
async function holderOf(
  tx: Tx,
  patient: { id: number; household_id: number },
  policy: Policy,
): Promise<Holder> {
  const { relationship, subscriberId, holderLast: last, holderFirst: first } = policy;
  const { holderBirthDate: birthDate, holderSex: sex } = policy;
  const said = last !== '' || first !== '' || birthDate !== null;
  const address = addressOf(policy);
  if (policy.holderOrganization !== '') {
    if (relationship === 'self' || relationship === 'spouse' || relationship === 'child')
      throw new Refused('invalid', 'Of an employer’s policy the patient is “other”', 'relationship');
    if (said || subscriberId)
      throw new Refused(
        'invalid',
        'An employer holds it, or a person: say one of them',
        'holderOrganization',
      );
    return { organization: policy.holderOrganization, ...address };
  }
  if (said) {
    if (relationship === 'self')
      throw new Refused('invalid', 'The patient’s own policy has no other holder', 'holderLast');
    if (subscriberId)
      throw new Refused('invalid', 'A member holds it, or somebody else: say one of them', 'holderLast');
    if (last === '') throw new Refused('missing', 'Last name is missing', 'holderLast');
    if (first === '') throw new Refused('missing', 'First name is missing', 'holderFirst');
    if (birthDate === null) throw new Refused('missing', 'Birth date is missing', 'holderBirthDate');
    return { last, first, birthDate, sex: sex ?? 'U', ...address };
  }
  if (address.line1 !== '') throw new Refused('invalid', 'A member is where the household is', 'holderLine1');
  const wanted = relationship === 'self' ? patient.id : subscriberId;
  if (!wanted) throw new Refused('missing', 'Say whose policy it is', 'subscriberId');
  if (relationship !== 'self' && wanted === patient.id)
    throw new Refused(
      'invalid',
      'The patient’s own policy is not another’s: choose “own policy”',
      'relationship',
    );
  const member = await tx
    .selectFrom('patient')
    .select('id')
    .where('id', '=', wanted)
    .where('household_id', '=', patient.household_id)
    .where('merged_into', 'is', null)
    .executeTakeFirst();
  if (!member) throw new Refused('invalid', 'The subscriber is no member of this household', 'subscriberId');
  return { patientId: member.id };
}

function inOrder({ validFrom, validTo }: Pick<Policy, 'validFrom' | 'validTo'>): void {
  if (validFrom && validTo && validTo < validFrom)
    throw new Refused('invalid', 'It ends before it begins', 'validTo');
}

/** What forbids to bill the patient is said where it is forbidden, and nowhere else. */
function saysWhy({ billPatient, billPatientWhy }: Pick<Policy, 'billPatient' | 'billPatientWhy'>): void {
  if (billPatient !== 'yes' && billPatientWhy === '')
    throw new Refused('missing', 'Say what forbids to bill the patient', 'billPatientWhy');
}
const whyOf = ({ billPatient, billPatientWhy }: Pick<Policy, 'billPatient' | 'billPatientWhy'>) =>
  billPatient === 'yes' ? '' : billPatientWhy;

/** What a coverage says of an injury, of whom the payer pays, and of its order. */
const factsOf = ({ claimNumber, adjuster, assigned, signed, basis, courtOrder, secondaryType }: Policy) => ({
  claim_number: claimNumber,
  adjuster,
  assigned,
  signed,
  basis,
  court_order: courtOrder,
  secondary_type: secondaryType,
});

/** Turns the database's refusal of two coverages in one order on one day into words. */
async function alone<T>(position: number, run: Promise<T>, field = 'validFrom'): Promise<T> {
  try {
    return await run;
  } catch (error) {
    const { code, constraint } = error as { code?: string; constraint?: string };
    if (code !== '23P01') throw error;
    if (constraint === 'one_place_of_a_policy')
      throw new Refused(
        'already',
        'This policy is in force for the case in that time already: put its number or its order right where it stands, or say the group of another one',
        'insurancePlanId',
      );
    throw new Refused(
      'blocked',
      `There is another ${ORDERS[position - 1]} coverage in that time: end it first, or choose other dates`,
      field,
    );
  }
}

/** What of a case follows when its coverages have changed: unbilled charges, claims that are still ours, claims that went elsewhere. */
export async function followed(act: Act, patient: { id: number; household_id: number; case_id: number }) {
  const moved = await follow(act, patient);
  await startWork(act, 'check claims', { householdId: patient.household_id });
  return { ...moved, elsewhere: await raiseWentElsewhere(act, patient.case_id) };
}

/** The plan that is chosen, or one of a payer that is entered with it. @throws Refused naming the field */
async function planChosen(
  act: Act,
  data: Omit<z.output<typeof coverageInput>, 'patientId' | 'caseId' | 'position'>,
): Promise<number> {
  if (data.insurancePlanId !== null) {
    await planOffered(act.db, data.insurancePlanId, act.today);
    return data.insurancePlanId;
  }
  if (data.payerName === '') throw new Refused('missing', 'Insurance plan is missing', 'insurancePlanId');
  try {
    const { insurancePlanId } = await addDeskPayer(act, {
      name: data.payerName,
      plan: data.payerPlan,
      city: data.payerCity,
      state: data.payerState,
      zip: data.payerZip,
      key: data.key,
    });
    return insurancePlanId;
  } catch (error) {
    if (!(error instanceof Refused) || error.field === undefined) throw error;
    // What is wrong stands at the fields of this form.
    const at = { name: 'payerName', city: 'payerCity', state: 'payerState', zip: 'payerZip' } as const;
    throw new Refused('invalid', error.message, at[error.field as keyof typeof at] ?? 'payerName');
  }
}

/**
 * Adds a coverage. One in the same order that is open at its end and began earlier ends the day before, when the new one is
 * in force now or later; charges that no payer was billed for yet follow to whoever owes them now, and claims that are
 * still ours are checked again.
 * @returns the coverage's id, how many charges followed or were left because money has moved on them, and claims that went elsewhere
 */
export const addCoverage = useCase({
  name: 'add coverage',
  permission: 'register people',
  input: coverageInput,
  once: (data) => data.key,
  async run(act, { patientId, caseId, position, ...policy }) {
    const tx = act.db;
    const patient = await patientOf(act, patientId, caseId);
    inOrder(policy);
    saysWhy(policy);
    const insurancePlanId = await planChosen(act, policy);
    const before = await tx
      .selectFrom('coverage')
      .select('id')
      .where('case_id', '=', patient.case_id)
      .where('position', '=', position)
      .where('valid_to', 'is', null)
      .executeTakeFirst();
    if (before && !policy.validFrom)
      throw new Refused(
        'already',
        `There is a ${ORDERS[position - 1]} coverage already: say from when this one takes its place`,
        'validFrom',
      );
    // One of earlier years takes nobody's place: where it overlaps, it is refused below.
    if (before && policy.validFrom && (policy.validTo === null || policy.validTo >= act.today))
      await tx
        .updateTable('coverage')
        .set({ valid_to: addDays(policy.validFrom, -1) })
        .where('id', '=', before.id)
        .where(({ eb, or }) => or([eb('valid_from', 'is', null), eb('valid_from', '<', policy.validFrom)]))
        .execute();
    const holder = await holderOf(tx, patient, policy);
    const caseOf = { caseId: patient.case_id, patientId };
    const { policyId } = await policyOf(tx, { ...policy, ...caseOf, insurancePlanId, holder });
    const { id } = await alone(
      position,
      tx
        .insertInto('coverage')
        .values({
          case_id: patient.case_id,
          position,
          policy_id: policyId,
          valid_from: policy.validFrom,
          valid_to: policy.validTo,
          bill_patient: policy.billPatient,
          bill_patient_why: whyOf(policy),
          ...factsOf(policy),
        })
        .returning('id')
        .executeTakeFirstOrThrow(),
    );
    await act.note('added coverage', { kind: 'coverage', id }, { patient: patientId });
    return { coverageId: id, ...(await followed(act, patient)) };
  },
});

/**
 * Puts the coverages of a case that are in force on a day into another order from that day on. A changed order is dated: the places
 * that change end the day before and are taken anew, so that a claim keeps the place that it was sent with.
 * @returns how many charges followed, how many were left, and claims that went elsewhere
 */
export const orderCoverages = useCase({
  name: 'order coverages',
  permission: 'register people',
  input: coverageOrderInput,
  async run(act, { patientId, caseId, from, first, second }) {
    const tx = act.db;
    const patient = await patientOf(act, patientId, caseId);
    const there = await tx
      .selectFrom('coverage')
      .selectAll()
      .where('case_id', '=', patient.case_id)
      .where(sql<boolean>`daterange(valid_from, valid_to, '[]') @> ${from}::date`)
      .orderBy('position')
      .execute();
    const chosen = second === null ? [first] : [first, second];
    if (first === second) throw new Refused('invalid', 'Two places for one coverage', 'second');
    for (const [index, id] of chosen.entries())
      if (!there.some((one) => one.id === id))
        throw new Refused(
          'others',
          'This coverage is not in force for this case on that day',
          index === 0 ? 'first' : 'second',
        );
    const wanted = [...chosen, ...there.map(({ id }) => id).filter((id) => !chosen.includes(id))];
    const places = there.map(({ position }) => position);
    const changed = there
      .map((one) => ({ ...one, to: places[wanted.indexOf(one.id)]! }))
      .filter((one) => one.to !== one.position);
    if (changed.length === 0) throw new Refused('nothing', 'They are in this order already', 'first');
    const ahead = changed.find((one) => one.valid_from === from);
    if (ahead)
      throw new Refused(
        'date',
        `The ${ORDERS[ahead.position - 1]} coverage begins on that day: choose a later one, or put its own dates right`,
        'from',
      );
    await tx
      .updateTable('coverage')
      .set({ valid_to: addDays(from, -1) })
      .where(
        'id',
        'in',
        changed.map(({ id }) => id),
      )
      .execute();
    for (const { id: _, to, version: __, ...one } of changed)
      await alone(
        to,
        tx
          .insertInto('coverage')
          .values({ ...one, position: to, valid_from: from })
          .execute(),
        'from',
      );
    await act.note(
      'ordered coverages',
      { kind: 'patient', id: patientId },
      { from, order: wanted.map((id) => there.find((one) => one.id === id)!.policy_id) },
    );
    return followed(act, patient);
  },
});

/** What a form shows of a holder who is no patient; nothing where one is. */
const HOLDER_SHOWN = [
  sql<string>`case when subscriber_id is null and not organization then subscriber_last else '' end`.as(
    'holderLast',
  ),
  sql<string>`case when subscriber_id is null and not organization then subscriber_first else '' end`.as(
    'holderFirst',
  ),
  sql<CalendarDate | null>`case when subscriber_id is null then subscriber_birth_date end`.as(
    'holderBirthDate',
  ),
  sql<
    'F' | 'M' | 'U' | null
  >`case when subscriber_id is null and not organization then subscriber_sex end`.as('holderSex'),
  sql<string>`case when organization then subscriber_last else '' end`.as('holderOrganization'),
  'holder_line1 as holderLine1',
  'holder_city as holderCity',
  'holder_state as holderState',
  'holder_zip as holderZip',
] as const;

const LABELS = {
  memberId: 'Member id',
  groupNumber: 'Group number',
  relationship: 'Whose policy',
  subscriberId: 'Subscriber',
  holderLast: 'Holder’s last name',
  holderFirst: 'Holder’s first name',
  holderBirthDate: 'Holder’s birth date',
  holderSex: 'Holder’s sex',
  holderOrganization: 'Employer',
  holderLine1: 'Holder’s street',
  holderCity: 'Holder’s city',
  holderState: 'Holder’s state',
  holderZip: 'Holder’s ZIP',
  claimNumber: 'Claim number of the insurer',
  adjuster: 'Adjuster',
  assigned: 'The payer pays us',
  signed: 'Signature on file',
  basis: 'The holder',
  courtOrder: 'A court says that it comes first',
  secondaryType: 'Medicare comes after, because',
  validFrom: 'In force from',
  validTo: 'until',
  billPatient: 'Bill the patient',
  billPatientWhy: 'What forbids it',
} as const;

/**
 * Changes what a coverage says, or ends it with a date; the plan stays, for another plan is another coverage. Claims that
 * are still ours are checked again, and charges that nobody was billed for follow.
 * @returns how many charges followed, how many were left, and claims that went elsewhere
 */
export const changeCoverage = useCase({
  name: 'change coverage',
  permission: 'register people',
  input: coverageFixInput,
  async run(act, { coverageId, version, sure, ...policy }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('coverage as c')
      .innerJoin('care_case as k', 'k.id', 'c.case_id')
      .select(['k.patient_id', 'k.id as case_id'])
      .where('c.id', '=', coverageId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such coverage');
    const patient = await patientOf(act, known.patient_id, known.case_id);
    inOrder(policy);
    saysWhy(policy);
    // The household is locked: nobody else changes its coverages or policies.
    const { policyId, position, ...there } = await tx
      .selectFrom('covered')
      .select([
        'policy_id as policyId',
        'insurance_plan_id as insurancePlanId',
        'position',
        'version',
        'member_id as memberId',
        'group_number as groupNumber',
        'relationship',
        'subscriber_id as subscriberId',
        ...HOLDER_SHOWN,
        'claim_number as claimNumber',
        'adjuster',
        'assigned',
        'signed',
        'basis',
        'court_order as courtOrder',
        'secondary_type as secondaryType',
        'valid_from as validFrom',
        'valid_to as validTo',
        'bill_patient as billPatient',
        'bill_patient_why as billPatientWhy',
      ])
      .where('id', '=', coverageId)
      .executeTakeFirstOrThrow();
    const holder = await holderOf(tx, patient, policy);
    const wanted = {
      ...policy,
      billPatientWhy: whyOf(policy),
      subscriberId: 'patientId' in holder ? holder.patientId : null,
      holderSex: 'sex' in holder ? holder.sex : null,
    };
    refuseOlder(version, there.version, there, wanted, LABELS);
    const caseOf = { caseId: patient.case_id, patientId: patient.id };
    const { policyId: policy_id, also } = await policyOf(
      tx,
      { ...policy, ...caseOf, insurancePlanId: there.insurancePlanId, holder },
      policyId,
    );
    lookAgain(sure, [
      also.length > 0 && `It is one policy: its group is put right for ${also.join(' and ')} too`,
    ]);
    await alone(
      position,
      tx
        .updateTable('coverage')
        .set({
          policy_id,
          valid_from: policy.validFrom,
          valid_to: policy.validTo,
          bill_patient: policy.billPatient,
          bill_patient_why: whyOf(policy),
          ...factsOf(policy),
        })
        .where('id', '=', coverageId)
        .execute(),
    );
    await act.note('changed', { kind: 'coverage', id: coverageId }, changesOf(there, wanted, LABELS));
    return followed(act, patient);
  },
});

/**
 * Keeps a charge from insurers because the patient pays it and asked for that (45 CFR 164.522(a)(1)(vi)), or bills it to
 * them after all. @throws Refused when it is on a claim, or money has moved on it
 */
export const keepFromPayers = useCase({
  name: 'keep from payers',
  permission: 'enter charges',
  input: keepFromPayersInput,
  async run(act, { chargeId, kept }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('charge')
      .select(['patient_id as patientId', 'kind'])
      .where('id', '=', chargeId)
      .executeTakeFirst();
    if (!known?.patientId || known.kind !== 'service')
      throw new Refused('unknown', 'There is no such service');
    const patient = await patientOf(act, known.patientId);
    const charge = await tx
      .selectFrom('charge')
      .select(['status', 'kept_from_payers', 'case_id', 'service_date'])
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (charge.status === 'void') throw new Refused('state', 'This charge is void');
    if (charge.kept_from_payers === kept) return;
    const claim = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select('m.control_number')
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .executeTakeFirst();
    if (claim)
      throw new Refused('blocked', `It is on claim ${claim.control_number}: withdraw that first`, {
        facts: { control_number: claim.control_number },
      });
    if (charge.status === 'planned')
      await tx
        .updateTable('charge')
        .set({
          kept_from_payers: kept,
          coverage_id: kept ? null : sql<number>`coverage_on(case_id, 1, service_date::date)`,
        })
        .where('id', '=', chargeId)
        .execute();
    else {
      const [row] = await owingOf(tx, sql`c.id = ${chargeId}`, kept);
      if (await isMoved(tx, chargeId))
        throw new Refused('blocked', 'Money has moved on this charge: reverse that first');
      const set = (flag: boolean) =>
        tx.updateTable('charge').set({ kept_from_payers: flag }).where('id', '=', chargeId).execute();
      if (!kept) await set(false);
      if (row && row.new_coverage !== row.old_coverage)
        await moveOwing(
          act,
          { ...patient, case_id: charge.case_id! },
          row,
          kept
            ? 'it is kept from insurers, as the patient asked'
            : `${row.payer_name ?? 'the insurer'} is asked after all`,
        );
      if (kept) await set(true);
    }
    await act.note(kept ? 'kept from insurers' : 'billed to insurers', { kind: 'charge', id: chargeId });
  },
});
