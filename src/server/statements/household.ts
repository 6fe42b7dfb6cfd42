/** How one household is written to: delivery, hold, stops, and notes for the patient. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import {
  confidentialInput,
  deliveryInput,
  endConfidentialInput,
  endNoteInput,
  liftInput,
  noteInput,
  stopInput,
} from '../../core/statements/input';
import type { Db } from '../../db/connect';
import { type Context, NotThere, Refused, allow } from '../access';
import { lockHouseholds } from '../books/journal';
import { voidThese } from '../mail/pieces';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';

/** A stop on an account. `stops` names what it stops. */
export interface AccountStop {
  id: number;
  reason: string;
  stops: string[];
  note: string;
  since: CalendarDate;
  until: CalendarDate | null;
  by: string;
  /** The moment at which it was set. */
  setAt: Date;
}

/** Where what concerns one patient goes, and nothing of it to the household's address. */
export interface ConfidentialAddress {
  patientId: number;
  patient: string;
  name: string;
  delivery: 'mail' | 'print-shop' | 'email';
  line1: string;
  line2: string;
  city: string;
  state: string;
  zip: string;
  email: string;
  why: string;
  addressReturned: CalendarDate | null;
  emailReturned: CalendarDate | null;
  version: number;
}

/** The confidential addresses of a household's patients. */
export const readConfidential = (db: Db, householdId: number): Promise<ConfidentialAddress[]> =>
  db
    .selectFrom('confidential_address as a')
    .innerJoin('patient as p', 'p.id', 'a.patient_id')
    .select([
      'a.patient_id as patientId',
      'p.first as patient',
      'a.name',
      'a.delivery',
      'a.line1',
      'a.line2',
      'a.city',
      'a.state',
      'a.zip',
      'a.email',
      'a.why',
      'a.address_returned as addressReturned',
      'a.email_returned as emailReturned',
      'a.version',
    ])
    .where('p.household_id', '=', householdId)
    .where('a.ended_on', 'is', null)
    .orderBy('a.id')
    .execute();

/** How a household is written to, and what can be chosen. */
export interface HouseholdMail {
  householdId: number;
  delivery: 'mail' | 'print-shop' | 'email' | 'none';
  deliveryWhy: string;
  holdUntil: CalendarDate | null;
  holdWhy: string;
  category: string | null;
  siteId: number | null;
  email: string;
  addressReturned: CalendarDate | null;
  emailReturned: CalendarDate | null;
  lateCharges: boolean;
  /** The account in whose envelope its statements go; empty for its own. */
  mailedWith: string;
  /** Accounts whose statements go in its envelope. */
  withIt: string[];
  /** Cases that bear no late charges. */
  spared: number[];
  confidential: ConfidentialAddress[];
  version: number;
  stops: AccountStop[];
  notes: { id: number; words: string; until: CalendarDate | null; times: number | null; by: string }[];
  choices: {
    categories: string[];
    sites: { value: number; label: string }[];
    patients: { value: number; label: string }[];
    cases: { value: number; label: string }[];
    reasons: { value: number; label: string; stops: string[] }[];
  };
}

const WHAT = {
  statements: 'statements',
  late_charges: 'late charges',
  letters: 'letters',
  calls: 'calls',
  agency: 'agency',
} as const;
const stopped = (row: Readonly<Record<keyof typeof WHAT, boolean>>): string[] =>
  (Object.keys(WHAT) as (keyof typeof WHAT)[]).filter((what) => row[what]).map((what) => WHAT[what]);

/** Stops on an account that are not lifted and not over. */
export async function readStops(context: Context, householdId: number): Promise<AccountStop[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('account_stop as s')
    .innerJoin('stop_reason as r', 'r.id', 's.reason_id')
    .select([
      's.id',
      'r.name as reason',
      's.note',
      's.since',
      's.until',
      's.user_name as by',
      's.created_at as setAt',
      'r.statements',
      'r.late_charges',
      'r.letters',
      'r.calls',
      'r.agency',
    ])
    .where('s.household_id', '=', householdId)
    .where('s.lifted_on', 'is', null)
    .where(({ or, eb }) => or([eb('s.until', 'is', null), eb('s.until', '>=', context.today)]))
    .orderBy('s.id')
    .execute();
  return rows.map(({ statements, late_charges, letters, calls, agency, ...row }) => ({
    ...row,
    stops: stopped({ statements, late_charges, letters, calls, agency }),
  }));
}

/** Reads how a household is written to. @throws NotThere */
export async function readMail(context: Context, householdId: number): Promise<HouseholdMail> {
  allow(context, 'read accounts');
  const { db, today } = context;
  const [row, stops, notes, categories, sites, reasons, withIt, confidential, cases] = await Promise.all([
    db
      .selectFrom('household')
      .select([
        'delivery',
        'delivery_why as deliveryWhy',
        'hold_until as holdUntil',
        'hold_why as holdWhy',
        'category',
        'location_id as siteId',
        'email',
        'address_returned as addressReturned',
        'email_returned as emailReturned',
        'late_charges as lateCharges',
        sql<string>`coalesce((select m.number from household m where m.id = household.mailed_with), '')`.as(
          'mailedWith',
        ),
        'version',
      ])
      .where('id', '=', householdId)
      .executeTakeFirst(),
    readStops(context, householdId),
    db
      .selectFrom('patient_note')
      .select(['id', 'words', 'until', 'times', 'user_name as by'])
      .where('household_id', '=', householdId)
      .where('ended_on', 'is', null)
      .where(({ or, eb }) => or([eb('until', 'is', null), eb('until', '>=', today)]))
      .orderBy('id')
      .execute(),
    db.selectFrom('account_category').select('name').orderBy('name').execute(),
    db.selectFrom('location').select(['id as value', 'name as label']).orderBy('name').execute(),
    db.selectFrom('stop_reason').selectAll().orderBy('name').execute(),
    db
      .selectFrom('household')
      .select('number')
      .where('mailed_with', '=', householdId)
      .orderBy('id')
      .execute(),
    readConfidential(db, householdId),
    casesOf(db, householdId),
  ]);
  if (!row) throw new NotThere('There is no such account');
  return {
    householdId,
    ...row,
    stops,
    notes,
    withIt: withIt.map(({ number }) => number),
    confidential,
    spared: cases.filter(({ late_charges }) => !late_charges).map(({ id }) => id),
    choices: {
      patients: [...new Map(cases.map(({ patientId, first }) => [patientId, first]))].map(
        ([value, label]) => ({
          value,
          label,
        }),
      ),
      cases: cases.map(({ id, first, name, standing }) => ({
        value: id,
        label: standing ? `${first}: standing care` : `${first}: ${name}`,
      })),
      categories: categories.map(({ name }) => name),
      sites,
      reasons: reasons.map((reason) => ({ value: reason.id, label: reason.name, stops: stopped(reason) })),
    },
  };
}

const casesOf = (db: Db, householdId: number) =>
  db
    .selectFrom('care_case as k')
    .innerJoin('patient as p', 'p.id', 'k.patient_id')
    .select(['k.id', 'k.name', 'k.standing', 'k.late_charges', 'p.id as patientId', 'p.first'])
    .where('p.household_id', '=', householdId)
    .orderBy('p.birth_date')
    .orderBy('p.id')
    .orderBy('k.id')
    .execute();

const LABELS = {
  delivery: 'Statements go',
  deliveryWhy: 'Why none',
  holdUntil: 'Held until',
  holdWhy: 'Why held',
  category: 'Category',
  siteId: 'Site',
  lateCharges: 'Late charges',
  mailedWith: 'In the envelope of',
};

/** Sets how a household is written to. @throws Conflict when somebody else has meanwhile */
export const setDelivery = useCase({
  name: 'set delivery',
  permission: 'send statements',
  input: deliveryInput,
  async run(act, { householdId, version, addressGood, spared, ...data }) {
    const there = await act.db
      .selectFrom('household')
      .select([
        'delivery',
        'delivery_why as deliveryWhy',
        'hold_until as holdUntil',
        'hold_why as holdWhy',
        'category',
        'location_id as siteId',
        'late_charges as lateCharges',
        sql<string>`coalesce((select m.number from household m where m.id = household.mailed_with), '')`.as(
          'mailedWith',
        ),
        'email',
        'version',
      ])
      .where('id', '=', householdId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('There is no such account');
    const wanted = { ...data, category: data.category || null, siteId: data.siteId ?? null };
    refuseOlder(version, there.version, there, wanted, LABELS);
    if (data.delivery === 'none' && data.deliveryWhy === '')
      throw new Refused('Say why it gets none', 'deliveryWhy');
    if (data.delivery === 'email' && there.email === '')
      throw new Refused('There is no e-mail address: enter it with the person first', 'delivery');
    if (data.holdUntil !== null && data.holdWhy === '') throw new Refused('Say why it is held', 'holdWhy');
    if (
      wanted.category !== null &&
      !(await act.db
        .selectFrom('account_category')
        .select('name')
        .where('name', '=', wanted.category)
        .executeTakeFirst())
    )
      throw new Refused('This category is not in Setup', 'category');
    if (
      wanted.siteId !== null &&
      !(await act.db.selectFrom('location').select('id').where('id', '=', wanted.siteId).executeTakeFirst())
    )
      throw new Refused('This site is not in Setup', 'siteId');
    await act.db
      .updateTable('household')
      .set({
        delivery: wanted.delivery,
        delivery_why: wanted.delivery === 'none' ? wanted.deliveryWhy : '',
        hold_until: wanted.holdUntil,
        hold_why: wanted.holdUntil === null ? '' : wanted.holdWhy,
        category: wanted.category,
        location_id: wanted.siteId,
        late_charges: wanted.lateCharges,
        mailed_with: await envelopeHead(act, householdId, wanted.mailedWith),
        ...(addressGood ? { address_returned: null, email_returned: null } : {}),
      })
      .where('id', '=', householdId)
      .execute();
    await act.db
      .updateTable('care_case as k')
      .set({ late_charges: sql`not (k.id = any(${spared}::bigint[]))` })
      .where('k.patient_id', 'in', ({ selectFrom }) =>
        selectFrom('patient').select('id').where('household_id', '=', householdId),
      )
      .where(sql<boolean>`k.late_charges = (k.id = any(${spared}::bigint[]))`)
      .execute();
    await act.note('changed', { kind: 'household', id: householdId }, changesOf(there, wanted, LABELS));
  },
});

/** The household in whose envelope another's statements go. @throws Refused when they cannot */
async function envelopeHead(act: Act, householdId: number, number: string): Promise<number | null> {
  if (number === '') return null;
  const head = await act.db
    .selectFrom('household')
    .select(['id', 'mailed_with'])
    .where('number', '=', number)
    .executeTakeFirst();
  if (!head) throw new Refused(`There is no account ${number}`, 'mailedWith');
  if (head.id === householdId) throw new Refused('This is the account itself: leave it empty', 'mailedWith');
  if (head.mailed_with !== null)
    throw new Refused(`${number} goes in another account’s envelope itself: name that one`, 'mailedWith');
  const member = await act.db
    .selectFrom('household')
    .select('number')
    .where('mailed_with', '=', householdId)
    .executeTakeFirst();
  if (member)
    throw new Refused(`${member.number} goes in this account’s envelope: change that first`, 'mailedWith');
  return head.id;
}

/** A patient, whose household is locked. @throws Refused when there is none */
async function patientOf(act: Act, patientId: number): Promise<{ id: number; household_id: number }> {
  const patient = await act.db
    .selectFrom('patient')
    .select(['id', 'household_id'])
    .where('id', '=', patientId)
    .executeTakeFirst();
  if (!patient) throw new Refused('This person is not registered', 'patientId');
  await lockHouseholds(act.db, [patient.household_id]);
  return patient;
}

const CONFIDENTIAL_LABELS = {
  name: 'To',
  delivery: 'Goes',
  line1: 'Street',
  line2: 'Street, second line',
  city: 'City',
  state: 'State',
  zip: 'ZIP',
  email: 'E-mail',
  why: 'Note',
} as const;

/**
 * Gives a patient a confidential address: from now on what concerns that patient goes there, and stands on nothing that goes
 * to the household (45 CFR 164.522(b)). What of the household is prepared or came back is prepared anew without it.
 */
export const setConfidential = useCase({
  name: 'set confidential address',
  permission: 'register people',
  input: confidentialInput,
  async run(act, { patientId, version, ...address }) {
    const patient = await patientOf(act, patientId);
    const there = await act.db
      .selectFrom('confidential_address')
      .select(['id', 'version', 'name', 'delivery', 'line1', 'line2', 'city', 'state', 'zip', 'email', 'why'])
      .where('patient_id', '=', patientId)
      .where('ended_on', 'is', null)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (there) {
      refuseOlder(version, there.version, there, address, CONFIDENTIAL_LABELS);
      await act.db
        .updateTable('confidential_address')
        .set({ ...address, address_returned: null, email_returned: null })
        .where('id', '=', there.id)
        .execute();
    } else
      await act.db
        .insertInto('confidential_address')
        .values({ ...address, patient_id: patientId, user_name: act.user.name, since: act.today })
        .execute();
    await prepareAnew(act, patient.household_id, 'a confidential address was set');
    await act.note('set a confidential address', { kind: 'patient', id: patientId });
  },
});

/** Ends a confidential address: what concerns the patient goes to the household again. */
export const endConfidential = useCase({
  name: 'end confidential address',
  permission: 'register people',
  input: endConfidentialInput,
  async run(act, { patientId }) {
    const patient = await patientOf(act, patientId);
    const ended = await act.db
      .updateTable('confidential_address')
      .set({ ended_on: act.today, ended_by: act.user.name })
      .where('patient_id', '=', patientId)
      .where('ended_on', 'is', null)
      .returning('id')
      .executeTakeFirst();
    if (!ended) throw new Refused('There is no confidential address');
    await prepareAnew(act, patient.household_id, 'a confidential address was ended');
    await act.note('ended a confidential address', { kind: 'patient', id: patientId });
  },
});

/**
 * What is made and not out goes back to a draft, so that its paper is made anew; what came back does not count, so that the
 * old paper never goes out again.
 */
async function prepareAnew(act: Act, householdId: number, why: string): Promise<void> {
  const pieces = await act.db
    .selectFrom('mail_piece')
    .select(['id', 'sent_at'])
    .where(sql<boolean>`(household_id = ${householdId} or ${householdId} = any(joined))`)
    .where('status', 'in', ['made', 'failed'])
    .orderBy('id')
    .forUpdate()
    .execute();
  const idsOf = (out: boolean): number[] =>
    pieces.filter(({ sent_at }) => (sent_at !== null) === out).map(({ id }) => id);
  if (idsOf(false).length > 0)
    await act.db
      .updateTable('mail_piece')
      .set({ status: 'draft', document: null, pages: null, why })
      .where('id', 'in', idsOf(false))
      .execute();
  if (idsOf(true).length > 0) await voidThese(act, idsOf(true), why);
}

/** Stops something on an account, for a reason of Setup's list. A reason stands once: again, it says the new end and note. */
export const setStop = useCase({
  name: 'set stop',
  permission: 'work follow-ups',
  input: stopInput,
  async run(act, { householdId, reasonId, note, until }) {
    if (until !== null && until < act.today) throw new Refused('This day is past', 'until');
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const reason = await act.db
      .selectFrom('stop_reason')
      .select('name')
      .where('id', '=', reasonId)
      .executeTakeFirst();
    if (!reason) throw new Refused('This reason is not in Setup', 'reasonId');
    const there = await act.db
      .selectFrom('account_stop')
      .select(['id', 'note', 'until'])
      .where('household_id', '=', householdId)
      .where('reason_id', '=', reasonId)
      .where('lifted_on', 'is', null)
      .executeTakeFirst();
    if (there && there.note === note && there.until === until) return there.id;
    await act.db
      .updateTable('account_stop')
      .set({ lifted_on: act.today, lifted_by: act.user.name, lifted_why: 'said anew' })
      .where('household_id', '=', householdId)
      .where('reason_id', '=', reasonId)
      .where('lifted_on', 'is', null)
      .execute();
    const { id } = await act.db
      .insertInto('account_stop')
      .values({
        household_id: householdId,
        reason_id: reasonId,
        note,
        since: act.today,
        until,
        user_name: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('stopped', { kind: 'household', id: householdId }, { reason: reason.name, until, note });
    return id;
  },
});

/** Lifts a stop, for a stated reason. */
export const liftStop = useCase({
  name: 'lift stop',
  permission: 'work follow-ups',
  input: liftInput,
  async run(act, { stopId, why }) {
    const stop = await act.db
      .updateTable('account_stop')
      .set({ lifted_on: act.today, lifted_by: act.user.name, lifted_why: why })
      .where('id', '=', stopId)
      .where('lifted_on', 'is', null)
      .returning('household_id')
      .executeTakeFirst();
    if (!stop) throw new Refused('This stop is lifted already');
    await act.note('lifted a stop', { kind: 'household', id: stop.household_id }, { why });
  },
});

/** Adds a note for the patient, printed on statements until a day or so many times. @returns its id */
export const addPatientNote = useCase({
  name: 'add patient note',
  permission: 'send statements',
  input: noteInput,
  once: (data) => data.key,
  async run(act, { householdId, words, until, times }) {
    if (until !== null && until < act.today) throw new Refused('This day is past', 'until');
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const { id } = await act.db
      .insertInto('patient_note')
      .values({
        household_id: householdId,
        words,
        until,
        times: times ?? null,
        user_name: act.user.name,
        created_on: act.today,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('added a note for the patient', { kind: 'household', id: householdId });
    return id;
  },
});

/** Ends a note: it prints no more. */
export const endPatientNote = useCase({
  name: 'end patient note',
  permission: 'send statements',
  input: endNoteInput,
  async run(act, { noteId }) {
    const note = await act.db
      .updateTable('patient_note')
      .set({ ended_on: act.today })
      .where('id', '=', noteId)
      .where('ended_on', 'is', null)
      .returning('household_id')
      .executeTakeFirst();
    if (!note) throw new Refused('This note prints no more already');
    await act.note('ended a note for the patient', { kind: 'household', id: note.household_id });
  },
});
