/** How one household is written to: delivery, hold, stops, and notes for the patient. */
import type { CalendarDate } from '../../core/calendar';
import { deliveryInput, endNoteInput, liftInput, noteInput, stopInput } from '../../core/statements/input';
import { type Context, NotThere, Refused, allow } from '../access';
import { useCase } from '../use-case';
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
}

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
  version: number;
  stops: AccountStop[];
  notes: { id: number; words: string; until: CalendarDate | null; times: number | null; by: string }[];
  choices: {
    categories: string[];
    sites: { value: number; label: string }[];
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
  const [row, stops, notes, categories, sites, reasons] = await Promise.all([
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
  ]);
  if (!row) throw new NotThere('There is no such account');
  return {
    householdId,
    ...row,
    stops,
    notes,
    choices: {
      categories: categories.map(({ name }) => name),
      sites,
      reasons: reasons.map((reason) => ({ value: reason.id, label: reason.name, stops: stopped(reason) })),
    },
  };
}

const LABELS = {
  delivery: 'Statements go',
  deliveryWhy: 'Why none',
  holdUntil: 'Held until',
  holdWhy: 'Why held',
  category: 'Category',
  siteId: 'Site',
  lateCharges: 'Late charges',
};

/** Sets how a household is written to. @throws Conflict when somebody else has meanwhile */
export const setDelivery = useCase({
  name: 'set delivery',
  permission: 'send statements',
  input: deliveryInput,
  async run(act, { householdId, version, addressGood, ...data }) {
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
        ...(addressGood ? { address_returned: null, email_returned: null } : {}),
      })
      .where('id', '=', householdId)
      .execute();
    await act.note('changed', { kind: 'household', id: householdId }, changesOf(there, wanted, LABELS));
  },
});

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
