/** Planned treatment: ways of treating beside each other, what they would cost whom, what was told of that and what came true. */
import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import {
  chooseInput,
  estimateGivenInput,
  estimateSignedInput,
  noticeInput,
  optionInput,
  placeInput,
} from '../../core/accounts/treatment-input';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { givenAnewBy, goodFaithDue } from '../../core/estimates/good-faith';
import { type BasisPoints, type Cents, sum } from '../../core/money';
import { levelOf } from '../../core/plans/quote';
import type { Tx } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { lockHouseholds } from '../books/journal';
import { allowOpen, opened } from '../closed';
import { type PlannedEstimate, estimatePlanned } from '../estimates/door';
import { useCase } from '../use-case';
import { aboveEstimates, isToGiveAnew, isUnseen } from './above';
import { type EstimateFacts, estimatePaper } from './treatment-paper';

/** A planned service of a way of treating, with what it would cost whom. */
export interface TreatmentLine extends PlannedEstimate {
  chargeId: number;
  optionId: number | null;
  phase: number;
  date: CalendarDate;
  code: string;
  description: string;
  patientWords: string;
  tooth: string;
  diagnoses: string[];
  providerId: number;
  provider: string;
}

/** A way of treating, or what is of none: its services in their phases, and what they come to. Amounts in cents. */
export interface Treatment {
  optionId: number | null;
  name: string;
  chosen: boolean;
  lines: TreatmentLine[];
  totals: Pick<PlannedEstimate, 'fee' | 'writeOff' | 'payers' | 'patient'>;
  /** By installments, as the practice's policy has them; null where it is too little for any. */
  plan: { installments: number; level: Cents } | null;
}

/** An estimate that was handed over, with what came true of it. Amounts in cents. */
export interface GivenEstimate {
  id: number;
  number: string;
  kind: 'insured' | 'good-faith';
  option: string;
  madeOn: CalendarDate;
  validUntil: CalendarDate;
  bookedFor: CalendarDate | null;
  dueOn: CalendarDate | null;
  amount: Cents;
  signedOn: CalendarDate | null;
  signedBy: string;
  /** Of its services: how many are done, what was said and what they came to for the patient and for the payers. */
  services: number;
  done: number;
  said: { patient: Cents; payers: Cents };
  came: { patient: Cents; payers: Cents };
  /** What is planned is another by now: until when it is given anew. */
  anewBy: CalendarDate | null;
  /** Providers of whom so much more is charged than was said that it may be disputed, in words. */
  above: string[];
  /** Nobody has looked at that yet; and why it is asked for, where somebody has. */
  unseen: boolean;
  seenWhy: string;
  version: number;
}

/** A notice that a service will not be covered. */
export interface AdvanceNotice {
  id: number;
  code: string;
  why: string;
  price: Cents;
  modifier: string;
  signedOn: CalendarDate | null;
  by: string;
}

/** A case with what is planned for it. */
export interface CaseTreatment {
  treatments: Treatment[];
  given: GivenEstimate[];
  notices: AdvanceNotice[];
}

async function caseOf(tx: Tx, caseId: number) {
  const found = await tx
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .select(['k.id', 'p.household_id as householdId'])
    .where('k.id', '=', caseId)
    .executeTakeFirst();
  if (!found) throw new Refused('unknown', 'There is no such case');
  await lockHouseholds(tx, [found.householdId]);
  return found;
}

/** Adds a way of treating, which is chosen until somebody says otherwise. @returns its id */
export const addOption = useCase({
  name: 'add treatment option',
  permission: 'enter charges',
  input: optionInput,
  async run(act, { caseId, name }): Promise<number> {
    await caseOf(act.db, caseId);
    const made = await act.db
      .insertInto('treatment_option')
      .values({ case_id: caseId, name })
      .onConflict((conflict) => conflict.doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!made) throw new Refused('already', `There is “${name}” already`, 'name');
    await act.note('added', { kind: 'treatment option', id: made.id }, { name });
    return made.id;
  },
});

/** Chooses a way of treating, or does not: of what is not chosen nothing is spoken for. */
export const chooseOption = useCase({
  name: 'choose treatment option',
  permission: 'enter charges',
  input: chooseInput,
  async run(act, { optionId, chosen }) {
    const option = await act.db
      .selectFrom('treatment_option')
      .select('case_id')
      .where('id', '=', optionId)
      .executeTakeFirst();
    if (!option) throw new Refused('unknown', 'There is no such way of treating');
    await caseOf(act.db, option.case_id);
    const changed = await act.db
      .updateTable('treatment_option')
      .set({ chosen })
      .where('id', '=', optionId)
      .where('chosen', '<>', chosen)
      .returning('id')
      .executeTakeFirst();
    if (changed) await act.note(chosen ? 'chosen' : 'not chosen', { kind: 'treatment option', id: optionId });
  },
});

/** Puts planned services of one case into a way of treating and a phase of it. */
export const placePlanned = useCase({
  name: 'place planned services',
  permission: 'enter charges',
  input: placeInput,
  async run(act, { chargeIds, optionId, phase }) {
    const rows = await act.db
      .selectFrom('charge')
      .select(['id', 'case_id', 'status'])
      .where('id', 'in', chargeIds)
      .execute();
    if (rows.length !== new Set(chargeIds).size) throw new Refused('unknown', 'There is no such service');
    const [caseId, ...others] = new Set(rows.map(({ case_id }) => case_id));
    if (!caseId || others.length > 0) throw new Refused('others', 'These services are not of one case');
    await caseOf(act.db, caseId);
    if (rows.some(({ status }) => status !== 'planned'))
      throw new Refused('state', 'Only what is planned has a way of treating');
    if (optionId !== null) {
      const option = await act.db
        .selectFrom('treatment_option')
        .select('case_id')
        .where('id', '=', optionId)
        .executeTakeFirst();
      if (option?.case_id !== caseId)
        throw new Refused('others', 'This way of treating is not of that case', 'optionId');
    }
    await act.db
      .updateTable('charge')
      .set({ option_id: optionId, phase })
      .where('id', 'in', chargeIds)
      .execute();
    for (const id of chargeIds) await act.note('placed', { kind: 'charge', id }, { option: optionId, phase });
  },
});

/** What is planned for a case, by way of treating: what is of none first, then the options in the order in which they were added. */
async function treatmentsOf(context: Context, caseId: number): Promise<Treatment[]> {
  const { db } = context;
  const [options, { rows }, policy] = await Promise.all([
    db.selectFrom('treatment_option').selectAll().where('case_id', '=', caseId).orderBy('id').execute(),
    sql<Omit<TreatmentLine, keyof PlannedEstimate>>`
      select c.id as "chargeId", c.option_id as "optionId", c.phase, c.service_date as date, c.code, c.description,
        coalesce(nullif(s.patient_words, ''), c.description) as "patientWords", c.tooth, c.diagnoses, v.id as "providerId",
        trim(v.first || ' ' || v.last || ' ' || v.suffix) as provider
      from charge c
        join service_code s on s.code = c.code
        join provider v on v.id = c.provider_id
      where c.case_id = ${caseId} and c.status = 'planned'
      order by c.phase, c.service_date, c.id`.execute(db),
    db.selectFrom('plan_policy').select(['longest', 'least_installment', 'rate']).executeTakeFirstOrThrow(),
  ]);
  const groups = [
    { id: null, name: options.length === 0 ? 'Planned' : 'In any case', chosen: true },
    ...options.map(({ id, name, chosen }) => ({ id: id as number | null, name, chosen })),
  ];
  const found: Treatment[] = [];
  for (const { id, name, chosen } of groups) {
    const own = rows.filter(({ optionId }) => optionId === id);
    if (own.length === 0 && id === null) continue;
    const estimates = await estimatePlanned(
      context,
      own.map(({ chargeId }) => chargeId),
      id,
    );
    const lines = own.map((line) => ({ ...line, ...estimates.get(line.chargeId)! }));
    const total = (of: 'fee' | 'writeOff' | 'payers' | 'patient'): Cents =>
      sum(lines.map((line) => line[of]));
    const totals = {
      fee: total('fee'),
      writeOff: total('writeOff'),
      payers: total('payers'),
      patient: total('patient'),
    };
    found.push({ optionId: id, name, chosen, lines, totals, plan: planOf(totals.patient, policy) });
  }
  return found;
}

/** The longest plan of the practice's policy for an amount, with its level installment; null where it is too little for two. */
function planOf(
  amount: Cents,
  { longest, least_installment: smallest, rate }: { longest: number; least_installment: Cents; rate: number },
): Treatment['plan'] {
  const installments = smallest === 0 ? longest : Math.min(longest, Math.floor(amount / smallest));
  return installments < 2
    ? null
    : { installments, level: levelOf(amount, rate as BasisPoints, 'month', installments) };
}

/** Estimates that were handed over for a case, the newest first, with what came true of them. Two queries. */
async function givenOf({ db, today }: Context, caseId: number): Promise<GivenEstimate[]> {
  const { rows } = await sql<Omit<GivenEstimate, 'above' | 'unseen'>>`
    select e.id, e.number, e.kind, coalesce(o.name, '') as option, e.made_on as "madeOn", e.valid_until as "validUntil",
      e.booked_for as "bookedFor", e.due_on as "dueOn", e.amount, e.signed_on as "signedOn", e.signed_by as "signedBy",
      s.services, s.done, s.said, s.came, e.above_seen_why as "seenWhy",
      case when ${isToGiveAnew(today)} then e.anew_by end as "anewBy", e.version
    from treatment_estimate e
      left join treatment_option o on o.id = e.option_id
      cross join lateral (
        select count(*) as services, count(*) filter (where c.status = 'done') as done,
          json_build_object(
            'patient', coalesce(sum(l.patient) filter (where c.status = 'done'), 0),
            'payers', coalesce(sum(l.payers) filter (where c.status = 'done'), 0)
          ) as said,
          json_build_object(
            'patient',
            coalesce(sum(b.patient_paid + b.agency_paid + b.with_patient + b.on_plan + b.at_agency), 0),
            'payers', coalesce(sum(b.payer_paid), 0)
          ) as came
        from treatment_estimate_line l
          join charge c on c.id = l.charge_id
          left join charge_balance b on b.charge_id = c.id and c.status = 'done'
        where l.estimate_id = e.id
      ) s
    where e.case_id = ${caseId}
    order by e.id desc`.execute(db);
  const above = await aboveEstimates(db, sql`e.case_id = ${caseId}`);
  return rows.map((row) => {
    const found = above.find(({ estimateId }) => estimateId === row.id);
    return { ...row, above: found?.words ?? [], unseen: found !== undefined && isUnseen(found) };
  });
}

/** What is planned for a case, what was told of it, and which notices were signed. */
export async function readTreatment(context: Context, caseId: number): Promise<CaseTreatment> {
  allow(context, 'read accounts');
  await opened(context, { kind: 'case', id: caseId }, 'read treatment');
  const [treatments, given, notices] = await Promise.all([
    treatmentsOf(context, caseId),
    givenOf(context, caseId),
    context.db
      .selectFrom('advance_notice')
      .select(['id', 'code', 'why', 'price', 'modifier', 'signed_on as signedOn', 'user_name as by'])
      .where('case_id', '=', caseId)
      .orderBy('id', 'desc')
      .execute(),
  ]);
  return { treatments, given, notices };
}

/**
 * Hands an estimate of what is planned over: it is kept as it was said, on paper and by service. Where nobody insures the person, or it
 * is kept from insurers, it is a good faith estimate, with the day until when it was to be given.
 * @returns its id
 * @throws Refused when nothing is planned, or it is valid until a day that is over
 */
export const giveEstimate = useCase({
  name: 'give estimate',
  permission: 'enter charges',
  input: estimateGivenInput,
  once: (data) => data.key,
  async run(act, { caseId, optionId, validUntil, bookedFor, asked }): Promise<number> {
    const tx = act.db;
    await caseOf(tx, caseId);
    if (validUntil < act.today) throw new Refused('date', `${formatDate(validUntil)} is over`, 'validUntil');
    if (bookedFor && bookedFor < act.today)
      throw new Refused('date', `${formatDate(bookedFor)} is over`, 'bookedFor');
    const all = await treatmentsOf(act, caseId);
    const shown = all.filter((one) =>
      optionId === null ? one.chosen : one.optionId === optionId || one.optionId === null,
    );
    const lines = shown.flatMap((one) => one.lines);
    if (lines.length === 0) throw new Refused('nothing', 'Nothing is planned that could be estimated');
    if (optionId !== null && !all.some((one) => one.optionId === optionId))
      throw new Refused('others', 'This way of treating is not of that case', 'optionId');
    const goodFaith = lines.every(({ each }) => each.length === 0);
    const dueOn = goodFaith ? goodFaithDue({ on: act.today, bookedFor, asked }) : null;
    const patient = sum(lines.map((line) => line.patient));
    const facts: EstimateFacts = {
      ...(await whoseOf(tx, caseId)),
      option: shown.find((one) => one.optionId === optionId && optionId !== null)?.name ?? '',
      goodFaith,
      madeOn: act.today,
      validUntil,
      bookedFor,
      lines,
      plan: planOf(
        patient,
        await tx
          .selectFrom('plan_policy')
          .select(['longest', 'least_installment', 'rate'])
          .executeTakeFirstOrThrow(),
      ),
    };
    const { rows: numbers } = await sql<{ number: string }>`
      select 'E-' || nextval('treatment_estimate_number') as number`.execute(tx);
    const { number } = numbers[0]!;
    const { bytes, pages } = await estimatePaper({ ...facts, number });
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    await tx
      .insertInto('document')
      .values({ sha256, media: 'application/pdf', bytes, pages })
      .onConflict((conflict) => conflict.doNothing())
      .execute();
    const { id } = await tx
      .insertInto('treatment_estimate')
      .values({
        number,
        case_id: caseId,
        option_id: optionId,
        kind: goodFaith ? 'good-faith' : 'insured',
        made_on: act.today,
        valid_until: validUntil,
        booked_for: bookedFor,
        due_on: dueOn,
        anew_by: goodFaith && bookedFor ? givenAnewBy(bookedFor) : null,
        amount: patient,
        content: JSON.stringify({ version: 1, value: facts }),
        document: sha256,
        user_name: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await tx
      .insertInto('treatment_estimate_line')
      .values(
        lines.map((line) => ({
          estimate_id: id,
          charge_id: line.chargeId,
          fee: line.fee,
          write_off: line.writeOff,
          payers: line.payers,
          patient: line.patient,
        })),
      )
      .execute();
    await act.note('gave', { kind: 'treatment estimate', id }, { number, patient, until: validUntil });
    return id;
  },
});

/** Who an estimate is for, and from whom. */
async function whoseOf(tx: Tx, caseId: number) {
  const row = await tx
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .select([
      'h.number as account',
      sql<string>`p.first || ' ' || p.last`.as('patient'),
      'p.birth_date as birthDate',
      sql<string>`case when k.standing then '' else k.name end`.as('caseName'),
    ])
    .where('k.id', '=', caseId)
    .executeTakeFirstOrThrow();
  const practice = await tx.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  return { ...row, practice };
}

/** Writes down that an estimate was signed, once. @throws Refused when it was, or on a day before it was made */
export const signEstimate = useCase({
  name: 'sign estimate',
  permission: 'enter charges',
  input: estimateSignedInput,
  async run(act, { estimateId, by, on }) {
    const found = await act.db
      .selectFrom('treatment_estimate')
      .select(['made_on', 'signed_on', 'number'])
      .where('id', '=', estimateId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!found) throw new Refused('unknown', 'There is no such estimate');
    if (found.signed_on !== null)
      throw new Refused('already', `${found.number} was signed on ${formatDate(found.signed_on)}`);
    if (on > act.today || on < found.made_on)
      throw new Refused('date', `It cannot have been signed on ${formatDate(on)}`, 'on');
    await act.db
      .updateTable('treatment_estimate')
      .set({ signed_on: on, signed_by: by })
      .where('id', '=', estimateId)
      .execute();
    await act.note('signed', { kind: 'treatment estimate', id: estimateId }, { by, on });
  },
});

/** The paper of an estimate as it was handed over. @throws Refused when there is none */
export async function readEstimatePaper(context: Context, estimateId: number) {
  allow(context, 'read accounts');
  await allowOpen(context, { estimateId });
  const found = await context.db
    .selectFrom('treatment_estimate as e')
    .innerJoin('document as d', 'd.sha256', 'e.document')
    .select(['e.number', 'd.bytes'])
    .where('e.id', '=', estimateId)
    .executeTakeFirst();
  if (!found) throw new Refused('unknown', 'There is no such estimate');
  await opened(context, { kind: 'treatment estimate', id: estimateId });
  return { name: `estimate-${found.number}.pdf`, bytes: found.bytes };
}

/**
 * Keeps a notice that a service will not be covered, with its price, signed before it is done where its modifier says that one is on file.
 * @returns its id
 */
export const keepNotice = useCase({
  name: 'keep advance notice',
  permission: 'enter charges',
  input: noticeInput,
  once: (data) => data.key,
  async run(act, { caseId, code, why, price, modifier, signedOn }): Promise<number> {
    await caseOf(act.db, caseId);
    if (!(await act.db.selectFrom('service_code').select('code').where('code', '=', code).executeTakeFirst()))
      throw new Refused('invalid', `Code ${code} is not in the list of services`, 'code');
    if (price <= 0) throw new Refused('limit', 'It names a price', 'price');
    const onFile = modifier === 'GA' || modifier === 'GX';
    if (onFile && signedOn === null)
      throw new Refused(
        'missing',
        `${modifier} says that a signed notice is on file: when was it signed?`,
        'signedOn',
      );
    if (!onFile && signedOn !== null)
      throw new Refused('invalid', `${modifier} says that no notice is on file`, 'signedOn');
    if (signedOn !== null && signedOn > act.today)
      throw new Refused('date', `${formatDate(signedOn)} is not yet`, 'signedOn');
    const { id } = await act.db
      .insertInto('advance_notice')
      .values({
        case_id: caseId,
        code,
        why,
        price,
        modifier,
        signed_on: signedOn,
        user_name: act.user.name,
        made_on: act.today,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note(
      'kept an advance notice',
      { kind: 'case', id: caseId },
      { code, why, price, modifier, signedOn },
    );
    return id;
  },
});
