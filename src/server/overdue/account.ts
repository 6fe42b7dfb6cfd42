/** What the collector sees of one account on the phone: where it stands, what speaks against calling, what was tried and said. */
import type { OverdueOutlook } from '../../core/overdue/stage';
import { type Context, Refused, allow } from '../access';
import { type ContactRow, callsNow, readContacts } from './contacts';
import { type HardshipRow, readHardships } from './hardship';
import { weighOverdue } from './list';

/** One account of the overdue station. */
export interface OverdueAccountPage {
  householdId: number;
  account: string;
  name: string;
  phone: string;
  email: string;
  outlook: OverdueOutlook | null;
  /** What speaks against calling now. */
  doubts: string[];
  contacts: ContactRow[];
  hardships: HardshipRow[];
}

/** Reads one account for who works it. @throws Refused when it is not there */
export async function readOverdueAccount(context: Context, householdId: number): Promise<OverdueAccountPage> {
  allow(context, 'read accounts');
  const household = await context.db
    .selectFrom('household')
    .select(['number', 'last', 'first', 'phone', 'email'])
    .where('id', '=', householdId)
    .executeTakeFirst();
  if (!household) throw new Refused('unknown', 'There is no such account');
  const [rows, doubts, contacts, hardships] = await Promise.all([
    weighOverdue(context, [householdId]),
    callsNow(context, householdId),
    readContacts(context, householdId),
    readHardships(context, householdId),
  ]);
  return {
    householdId,
    account: household.number,
    name: `${household.last}, ${household.first}`,
    phone: household.phone,
    email: household.email,
    outlook: rows.find(({ patientId }) => patientId === null)?.outlook ?? null,
    doubts,
    contacts,
    hardships,
  };
}
