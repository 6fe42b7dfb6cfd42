/** Cases beside the standing one: opened, put right, closed and opened again. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { caseFixInput, dischargeInput, openCaseInput, reopenInput } from '../../core/accounts/case-input';
import { CASE_KINDS, type CasePart, isAccident } from '../../core/accounts/cases';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { isNpi } from '../../core/claims/npi';
import { type Cents, parseMoney, toDecimal } from '../../core/money';
import type { Db, Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { lockHouseholds } from '../books/journal';
import { startWork } from '../jobs/work';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';
import { knownDiagnoses } from './services';

type Facts = Omit<z.output<typeof caseFixInput>, 'caseId' | 'version'>;

/** What the form of a case shows, by the names of its fields; `fee` as text. */
export type CaseFacts = { [Field in keyof Facts]: Facts[Field] };

const LABELS: Readonly<Record<keyof Facts, string>> = {
  name: 'Name',
  kind: 'Kind',
  openedOn: 'Open since',
  accidentDate: 'Accident on',
  accidentState: 'State of the accident',
  onsetDate: 'Onset',
  firstTreatedDate: 'First treated',
  acuteDate: 'Acute again',
  lastSeenDate: 'Last seen',
  firstContactDate: 'First contact',
  disabledFrom: 'Unable to work from',
  disabledTo: 'Unable to work until',
  admittedOn: 'Admitted on',
  releasedOn: 'Released on',
  providerId: 'Provider in charge',
  billProviderId: 'Provider on bills',
  siteId: 'Billed under',
  serviceSiteId: 'Done at',
  referringLast: 'Referred by, last name',
  referringFirst: 'Referred by, first name',
  referringNpi: 'NPI of who referred',
  referringRole: 'As what',
  referredOn: 'Referred on',
  cameBy: 'How the patient came',
  cameByNote: 'By whom',
  limits: 'Limits in function',
  statements: 'Statements',
  lateCharges: 'Late charges',
  claims: 'Claims',
  diagnoses: 'Diagnoses',
  services: 'Usual services',
};

/** The columns of a case that its form shows, by the names of its fields. */
export const FACTS_OF_K = [
  'k.name',
  'k.kind',
  'k.opened_on as openedOn',
  'k.accident_date as accidentDate',
  'k.accident_state as accidentState',
  'k.onset_date as onsetDate',
  'k.first_treated_date as firstTreatedDate',
  'k.acute_date as acuteDate',
  'k.last_seen_date as lastSeenDate',
  'k.first_contact_date as firstContactDate',
  'k.disabled_from as disabledFrom',
  'k.disabled_to as disabledTo',
  'k.admitted_on as admittedOn',
  'k.released_on as releasedOn',
  'k.provider_id as providerId',
  'k.bill_provider_id as billProviderId',
  'k.location_id as siteId',
  'k.service_location_id as serviceSiteId',
  'k.referring_last as referringLast',
  'k.referring_first as referringFirst',
  'k.referring_npi as referringNpi',
  'k.referring_role as referringRole',
  'k.referred_on as referredOn',
  'k.came_by as cameBy',
  'k.came_by_note as cameByNote',
  'k.limits',
  'k.statements',
  'k.late_charges as lateCharges',
  'k.claims',
] as const;

const columnsOf = (facts: Facts) => ({
  name: facts.name,
  kind: facts.kind,
  opened_on: facts.openedOn,
  accident_date: facts.accidentDate,
  accident_state: facts.accidentState,
  onset_date: facts.onsetDate,
  first_treated_date: facts.firstTreatedDate,
  acute_date: facts.acuteDate,
  last_seen_date: facts.lastSeenDate,
  first_contact_date: facts.firstContactDate,
  disabled_from: facts.disabledFrom,
  disabled_to: facts.disabledTo,
  admitted_on: facts.admittedOn,
  released_on: facts.releasedOn,
  provider_id: facts.providerId,
  bill_provider_id: facts.billProviderId,
  location_id: facts.siteId,
  service_location_id: facts.serviceSiteId,
  referring_last: facts.referringLast,
  referring_first: facts.referringFirst,
  referring_npi: facts.referringNpi,
  referring_role: facts.referringRole,
  referred_on: facts.referredOn,
  came_by: facts.cameBy,
  came_by_note: facts.cameByNote,
  limits: facts.limits,
  statements: facts.statements,
  late_charges: facts.lateCharges,
  claims: facts.claims,
});

/** What is treated in cases, and what is usually done, by case and in their order; two queries. */
export async function readCaseLists(
  db: Db,
  caseIds: readonly number[],
): Promise<Map<number, Pick<Facts, 'diagnoses' | 'services'>>> {
  const found = new Map<number, Pick<Facts, 'diagnoses' | 'services'>>(
    caseIds.map((id) => [id, { diagnoses: [], services: [] }]),
  );
  if (caseIds.length === 0) return found;
  const [diagnoses, services] = await Promise.all([
    db
      .selectFrom('case_diagnosis')
      .selectAll()
      .where('case_id', 'in', caseIds)
      .orderBy('case_id')
      .orderBy('position')
      .execute(),
    db
      .selectFrom('case_service')
      .selectAll()
      .where('case_id', 'in', caseIds)
      .orderBy('case_id')
      .orderBy('position')
      .execute(),
  ]);
  for (const { case_id, code, since, until } of diagnoses)
    found.get(case_id)!.diagnoses.push({ code, since, until });
  for (const { case_id, code, fee, minutes } of services)
    found.get(case_id)!.services.push({ code, fee: fee === null ? '' : toDecimal(fee), minutes });
  return found;
}

/** @throws Refused naming the field that is wrong */
async function checkFacts(tx: Tx, today: CalendarDate, facts: Facts, birth: CalendarDate): Promise<void> {
  for (const field of [
    'openedOn',
    'accidentDate',
    'onsetDate',
    'firstTreatedDate',
    'acuteDate',
    'lastSeenDate',
    'firstContactDate',
    'disabledFrom',
    'admittedOn',
    'releasedOn',
    'referredOn',
  ] as const) {
    const date = facts[field];
    if (date !== null && date > today)
      throw new Refused('date', `${LABELS[field]}: ${formatDate(date)} lies in the future`, field);
    if (date !== null && date < birth)
      throw new Refused('date', `${LABELS[field]}: ${formatDate(date)} lies before the birth`, field);
  }
  if (facts.disabledFrom && facts.disabledTo && facts.disabledTo < facts.disabledFrom)
    throw new Refused('invalid', 'It ends before it begins', 'disabledTo');
  if (facts.admittedOn && facts.releasedOn && facts.releasedOn < facts.admittedOn)
    throw new Refused('invalid', 'The release lies before the admission', 'releasedOn');
  if (!isAccident(facts.kind) && (facts.accidentDate !== null || facts.accidentState !== ''))
    throw new Refused(
      'invalid',
      `“${CASE_KINDS[facts.kind]}” has no accident: choose another kind, or take its day and state away`,
      'kind',
    );
  if (facts.referringNpi !== '' && !isNpi(facts.referringNpi))
    throw new Refused('invalid', 'This NPI does not pass its check digit', 'referringNpi');
  if (facts.referringNpi === '' && facts.referringLast + facts.referringFirst !== '')
    throw new Refused('missing', 'Who referred has an NPI, under which a claim names them', 'referringNpi');
  if (facts.referringNpi !== '' && facts.referringLast === '')
    throw new Refused('missing', 'Whose NPI is it?', 'referringLast');
  for (const [field, id] of [
    ['providerId', facts.providerId],
    ['billProviderId', facts.billProviderId],
  ] as const)
    if (
      id !== null &&
      !(await tx.selectFrom('provider').select('id').where('id', '=', id).executeTakeFirst())
    )
      throw new Refused('unknown', 'This provider is not in Setup', field);
  for (const [field, id] of [
    ['siteId', facts.siteId],
    ['serviceSiteId', facts.serviceSiteId],
  ] as const)
    if (
      id !== null &&
      !(await tx.selectFrom('location').select('id').where('id', '=', id).executeTakeFirst())
    )
      throw new Refused('unknown', 'This site is not in Setup', field);
  if (
    facts.cameBy !== null &&
    !(await tx
      .selectFrom('referral_source')
      .select('name')
      .where('name', '=', facts.cameBy)
      .executeTakeFirst())
  )
    throw new Refused('unknown', 'This is not in Setup’s list', 'cameBy');
  await knownDiagnoses(
    tx,
    facts.diagnoses.map(({ code }) => code),
  );
  for (const { code, since, until } of facts.diagnoses)
    if (since && until && until < since)
      throw new Refused('invalid', `${code} ends before it begins`, 'diagnoses');
  const codes = facts.services.map(({ code }) => code);
  const twice = codes.find((code, index) => codes.indexOf(code) !== index);
  if (twice) throw new Refused('invalid', `${twice} stands there twice`, 'services');
  const known = await tx
    .selectFrom('service_code')
    .select('code')
    .where('code', '=', sql<string>`any(${codes})`)
    .execute();
  const missing = codes.find((code) => !known.some((one) => one.code === code));
  if (missing !== undefined)
    throw new Refused('invalid', `Code ${missing} is not in the list of services`, 'services');
}

/** A price as typed, in cents; null for the office fee. @throws Refused when it is no amount */
function priceOf(code: string, text: string): Cents | null {
  if (text === '') return null;
  const fee = parseMoney(text);
  if (fee === null || fee < 0)
    throw new Refused('invalid', `The price of ${code} is not an amount`, 'services');
  return fee;
}

/** Writes what is treated and what is usually done, in the place of what stood there. */
async function writeLists(tx: Tx, caseId: number, { diagnoses, services }: Facts): Promise<void> {
  await tx.deleteFrom('case_diagnosis').where('case_id', '=', caseId).execute();
  await tx.deleteFrom('case_service').where('case_id', '=', caseId).execute();
  if (diagnoses.length > 0)
    await tx
      .insertInto('case_diagnosis')
      .values(diagnoses.map((one, index) => ({ case_id: caseId, position: index + 1, ...one })))
      .execute();
  if (services.length > 0)
    await tx
      .insertInto('case_service')
      .values(
        services.map(({ code, fee, minutes }, index) => ({
          case_id: caseId,
          position: index + 1,
          code,
          fee: priceOf(code, fee),
          minutes,
        })),
      )
      .execute();
}

/** A case as its form shows it, locked with the household. @throws Refused when there is none */
async function lockedCase(act: Act, caseId: number) {
  const whose = await act.db
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .select('p.household_id')
    .where('k.id', '=', caseId)
    .executeTakeFirst();
  if (!whose) throw new Refused('unknown', 'There is no such case');
  await lockHouseholds(act.db, [whose.household_id]);
  const found = await act.db
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .select([
      'p.household_id as householdId',
      'p.birth_date as birth',
      'k.patient_id as patientId',
      'k.standing',
      'k.discharged_on as dischargedOn',
      'k.version',
      ...FACTS_OF_K,
    ])
    .where('k.id', '=', caseId)
    .executeTakeFirstOrThrow();
  return { ...found, ...(await readCaseLists(act.db, [caseId])).get(caseId)! };
}

/** What is left empty is what the other case says, as far as it is to be taken over. */
function takenOver(facts: Facts, from: Facts, take: readonly CasePart[]): Facts {
  const taken = { ...facts };
  if (take.includes('diagnoses') && facts.diagnoses.length === 0) taken.diagnoses = from.diagnoses;
  if (take.includes('services') && facts.services.length === 0) taken.services = from.services;
  if (take.includes('people')) {
    taken.providerId ??= from.providerId;
    taken.billProviderId ??= from.billProviderId;
    taken.cameBy ??= from.cameBy;
    taken.cameByNote ||= from.cameByNote;
    if (facts.referringNpi === '') {
      const { referringLast, referringFirst, referringNpi, referringRole, referredOn } = from;
      Object.assign(taken, { referringLast, referringFirst, referringNpi, referringRole, referredOn });
    }
  }
  if (take.includes('sites')) {
    taken.siteId ??= from.siteId;
    taken.serviceSiteId ??= from.serviceSiteId;
  }
  return taken;
}

/**
 * Opens a case beside the standing one, with what of another case of the person is taken over: also its insurers in their order, as they
 * are in force today and later. @returns its id
 */
export const openCase = useCase({
  name: 'open case',
  permission: 'register people',
  input: openCaseInput,
  once: (data) => data.key,
  async run(act, { patientId, fromCaseId, take, key: _, ...typed }) {
    const tx = act.db;
    const patient = await tx
      .selectFrom('patient')
      .select(['id', 'household_id', 'birth_date'])
      .where('id', '=', patientId)
      .where('merged_into', 'is', null)
      .executeTakeFirst();
    if (!patient) throw new Refused('unknown', 'This person is not registered', 'patientId');
    await lockHouseholds(tx, [patient.household_id]);
    const from = fromCaseId === null ? null : await lockedCase(act, fromCaseId);
    if (from && from.patientId !== patientId)
      throw new Refused('others', 'This case is not this person’s', 'fromCaseId');
    const facts = { ...(from ? takenOver(typed, from, take) : typed), openedOn: typed.openedOn ?? act.today };
    await checkFacts(tx, act.today, facts, patient.birth_date);
    const { id } = await tx
      .insertInto('care_case')
      .values({ ...columnsOf(facts), patient_id: patientId, standing: false })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeLists(tx, id, facts);
    if (from && take.includes('coverages'))
      await sql`
        insert into coverage (
          case_id, position, policy_id, valid_from, valid_to, bill_patient, bill_patient_why, assigned, signed, basis,
          court_order, secondary_type
        )
        select ${id}, position, policy_id, valid_from, valid_to, bill_patient, bill_patient_why, assigned, signed, basis,
          court_order, secondary_type
        from coverage
        where case_id = ${fromCaseId} and (valid_to is null or valid_to >= ${facts.openedOn}::date)`.execute(
        tx,
      );
    await act.note('opened case', { kind: 'case', id }, { patient: patientId, name: facts.name });
    return id;
  },
});

/** What a case says, as a person reads it in a list of changes. */
const readable = (facts: Facts) => ({
  ...facts,
  diagnoses: facts.diagnoses.map(({ code }) => code),
  services: facts.services.map(({ code, fee, minutes }) => [code, fee, minutes].filter(Boolean).join(' ')),
});

/**
 * Puts a case right; claims of it that are still ours are checked again.
 * @throws Conflict when somebody else has changed it since the form was filled
 */
export const changeCase = useCase({
  name: 'change case',
  permission: 'register people',
  input: caseFixInput,
  async run(act, { caseId, version, ...facts }) {
    const there = await lockedCase(act, caseId);
    refuseOlder(version, there.version, readable(there), readable(facts), LABELS);
    if (there.standing && facts.kind !== 'general')
      throw new Refused('state', 'This is the case that everybody has: open another one for that', 'kind');
    await checkFacts(act.db, act.today, facts, there.birth);
    await writeLists(act.db, caseId, facts);
    await act.db.updateTable('care_case').set(columnsOf(facts)).where('id', '=', caseId).execute();
    await startWork(act, 'check claims', { householdId: there.householdId });
    await act.note(
      'changed',
      { kind: 'case', id: caseId },
      changesOf(readable(there), readable(facts), LABELS),
    );
  },
});

/**
 * Closes a case on a day, with a reason: nothing later is entered for it, and what is owed of it lives on.
 * @throws Refused when it stands, is closed, or something was done for it later
 */
export const dischargeCase = useCase({
  name: 'discharge case',
  permission: 'register people',
  input: dischargeInput,
  async run(act, { caseId, on, why, sure }) {
    const there = await lockedCase(act, caseId);
    if (there.standing) throw new Refused('state', 'The case that everybody has stays open');
    if (there.dischargedOn !== null)
      throw new Refused('already', `It is closed since ${formatDate(there.dischargedOn)}`);
    if (on > act.today) throw new Refused('date', 'Date lies in the future', 'on');
    const { last, planned } = await act.db
      .selectFrom('charge')
      .select([
        sql<CalendarDate | null>`max(service_date) filter (where status = 'done')`.as('last'),
        sql<number>`count(*) filter (where status = 'planned')`.as('planned'),
      ])
      .where('case_id', '=', caseId)
      .executeTakeFirstOrThrow();
    const since = [there.openedOn, last].reduce((one, two) => (two && (!one || two > one) ? two : one), null);
    if (since !== null && on < since)
      throw new Refused(
        'date',
        last === since
          ? `Something was done for it on ${formatDate(since)}: close it on that day or later`
          : `It was opened on ${formatDate(since)}`,
        { field: 'on', facts: { since } },
      );
    lookAgain(sure, [planned > 0 && `Planned services of it can no longer be entered as done (${planned})`]);
    await act.db
      .updateTable('care_case')
      .set({ discharged_on: on, discharge_why: why })
      .where('id', '=', caseId)
      .execute();
    await act.note('discharged', { kind: 'case', id: caseId }, { on, why });
  },
});

/** Opens a case that was closed; all of it is as it was. */
export const reopenCase = useCase({
  name: 'reopen case',
  permission: 'register people',
  input: reopenInput,
  async run(act, { caseId }) {
    const there = await lockedCase(act, caseId);
    if (there.dischargedOn === null) throw new Refused('state', 'It is open');
    await act.db
      .updateTable('care_case')
      .set({ discharged_on: null, discharge_why: '' })
      .where('id', '=', caseId)
      .execute();
    await act.note('reopened', { kind: 'case', id: caseId });
  },
});
