/** Confidential addresses: where what concerns one patient goes, and nothing of it to the household. */
import type { CalendarDate } from '../../core/calendar';
import { confidentialInput, endConfidentialInput } from '../../core/statements/input';
import type { Db } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { draftAnew } from '../mail/pieces';
import { type Act, useCase } from '../use-case';
import { refuseOlder } from '../versions';

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

/** A patient, whose household is locked. @throws Refused when there is none */
export async function patientOf(act: Act, patientId: number): Promise<{ id: number; household_id: number }> {
  const patient = await act.db
    .selectFrom('patient')
    .select(['id', 'household_id'])
    .where('id', '=', patientId)
    .where('merged_into', 'is', null)
    .executeTakeFirst();
  if (!patient) throw new Refused('unknown', 'This person is not registered', 'patientId');
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
    await draftAnew(act, patient.household_id, 'a confidential address was set');
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
    if (!ended) throw new Refused('unknown', 'There is no confidential address');
    await draftAnew(act, patient.household_id, 'a confidential address was ended');
    await act.note('ended a confidential address', { kind: 'patient', id: patientId });
  },
});
