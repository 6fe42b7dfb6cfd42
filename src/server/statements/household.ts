/** How one household is written to: delivery, hold, stops, and notes for the patient. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { deliveryInput } from '../../core/statements/input';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { allowOpen } from '../closed';
import {
  type AccountStop,
  type ConfidentialAddress,
  readConfidential,
  readStops,
  stopped,
} from '../accounts/door';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';

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
  /** Each receipt goes by e-mail. */
  receiptsByEmail: boolean;
  /** The account in whose envelope its statements go; empty for its own. */
  mailedWith: string;
  /** Accounts whose statements go in its envelope. */
  withIt: string[];
  /** Cases that bear no late charges. */
  spared: number[];
  confidential: ConfidentialAddress[];
  version: number;
  stops: AccountStop[];
  choices: {
    categories: string[];
    sites: { value: number; label: string }[];
    patients: { value: number; label: string }[];
    cases: { value: number; label: string }[];
    reasons: { value: number; label: string; stops: string[] }[];
  };
}

/** Reads how a household is written to. @throws Refused when it is not there */
export async function readMail(context: Context, householdId: number): Promise<HouseholdMail> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const { db } = context;
  const [row, stops, categories, sites, reasons, withIt, confidential, cases] = await Promise.all([
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
        'receipts_by_email as receiptsByEmail',
        sql<string>`coalesce((select m.number from household m where m.id = household.mailed_with), '')`.as(
          'mailedWith',
        ),
        'version',
      ])
      .where('id', '=', householdId)
      .executeTakeFirst(),
    readStops(context, householdId),
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
  if (!row) throw new Refused('unknown', 'There is no such account');
  return {
    householdId,
    ...row,
    stops,
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
  receiptsByEmail: 'Every receipt by e-mail',
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
        'receipts_by_email as receiptsByEmail',
        sql<string>`coalesce((select m.number from household m where m.id = household.mailed_with), '')`.as(
          'mailedWith',
        ),
        'email',
        'version',
      ])
      .where('id', '=', householdId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('unknown', 'There is no such account');
    const wanted = { ...data, category: data.category || null, siteId: data.siteId ?? null };
    refuseOlder(version, there.version, there, wanted, LABELS);
    if (data.delivery === 'none' && data.deliveryWhy === '')
      throw new Refused('missing', 'Say why it gets none', 'deliveryWhy');
    if (data.delivery === 'email' && there.email === '')
      throw new Refused('unknown', 'There is no e-mail address: enter it with the person first', 'delivery');
    if (data.receiptsByEmail && there.email === '')
      throw new Refused(
        'unknown',
        'There is no e-mail address: enter it with the person first',
        'receiptsByEmail',
      );
    if (data.holdUntil !== null && data.holdWhy === '')
      throw new Refused('missing', 'Say why it is held', 'holdWhy');
    if (
      wanted.category !== null &&
      !(await act.db
        .selectFrom('account_category')
        .select('name')
        .where('name', '=', wanted.category)
        .executeTakeFirst())
    )
      throw new Refused('unknown', 'This category is not in Setup', 'category');
    if (
      wanted.siteId !== null &&
      !(await act.db.selectFrom('location').select('id').where('id', '=', wanted.siteId).executeTakeFirst())
    )
      throw new Refused('unknown', 'This site is not in Setup', 'siteId');
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
        receipts_by_email: wanted.receiptsByEmail,
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
    .where('merged_into', 'is', null)
    .executeTakeFirst();
  if (!head)
    throw new Refused('unknown', `There is no account ${number}`, { field: 'mailedWith', facts: { number } });
  if (head.id === householdId)
    throw new Refused('invalid', 'This is the account itself: leave it empty', 'mailedWith');
  if (head.mailed_with !== null)
    throw new Refused('others', `${number} goes in another account’s envelope itself: name that one`, {
      field: 'mailedWith',
      facts: { number },
    });
  const member = await act.db
    .selectFrom('household')
    .select('number')
    .where('mailed_with', '=', householdId)
    .executeTakeFirst();
  if (member)
    throw new Refused('blocked', `${member.number} goes in this account’s envelope: change that first`, {
      field: 'mailedWith',
      facts: { number: member.number },
    });
  return head.id;
}
