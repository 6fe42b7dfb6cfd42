/** What a practice begins with beside its closed lists: reasons for stops, places of money, letters with the stages of overdue. */
import { sql } from 'kysely';
import { FIRST_LETTERS } from '../core/overdue/letters';
import type { PlaceKind } from '../core/payments/tenders';
import { type Db } from '../db/connect';
import { systemContext } from './access';
import { saveLetter } from './overdue/letters';
import { saveSetup } from './setup/save';
import type { SetupValues } from './setup/table';
import { inTransaction } from './use-case';

const NOTHING: SetupValues = {
  statements: false,
  late_charges: false,
  letters: false,
  calls: false,
  agency: false,
};
const EVERYTHING: SetupValues = {
  statements: true,
  late_charges: true,
  letters: true,
  calls: true,
  agency: true,
};
const QUIET: SetupValues = { ...EVERYTHING, statements: false, calls: false };

/** Reasons for stops, with what each stops. */
const REASONS: Readonly<Record<string, SetupValues>> = {
  bankrupt: EVERYTHING,
  deceased: EVERYTHING,
  attorney: EVERYTHING,
  dispute: QUIET,
  'asked not to be contacted': { ...NOTHING, statements: true, letters: true, calls: true },
  'returned mail': { ...NOTHING, statements: true, letters: true },
  hardship: QUIET,
};

/** Where money is. */
const PLACES: readonly { name: string; kind: PlaceKind }[] = [
  { name: 'Not yet deposited', kind: 'undeposited' },
  { name: 'Cards and debits', kind: 'clearing' },
  { name: 'Bank account', kind: 'bank' },
];

/** What stops of itself, and for which reason. */
const STOPS = {
  dispute_reason: 'dispute',
  hardship_reason: 'hardship',
  bankrupt_reason: 'bankrupt',
} as const;

/** The lock between two processes that begin at once. */
const LOCK = 7_214_011;

/** Whether a practice has begun. */
const hasBegun = async (db: Db): Promise<boolean> => {
  const { rows } = await sql<{
    begun: boolean;
  }>`select exists (select 1 from letter_template) as begun`.execute(db);
  return rows[0]!.begun;
};

/**
 * Writes what a practice begins with, through the use cases by which it changes it later; all of it or nothing, once.
 * @returns whether it was written
 */
export async function begin(db: Db): Promise<boolean> {
  if (await hasBegun(db)) return false;
  return inTransaction(await systemContext(db), async (act) => {
    await sql`select pg_advisory_xact_lock(${LOCK})`.execute(act.db);
    if (await hasBegun(act.db)) return false;
    const reasons = new Map<string, string>();
    for (const [name, stops] of Object.entries(REASONS))
      reasons.set(name, await saveSetup(act, { table: 'stop-reasons', values: { name, ...stops } }));
    await saveSetup(act, {
      table: 'overdue-policy',
      row: '1',
      values: Object.fromEntries(Object.entries(STOPS).map(([field, name]) => [field, reasons.get(name)!])),
    });
    for (const values of PLACES) await saveSetup(act, { table: 'places', values });
    for (const [index, { name, days, subject, blocks }] of FIRST_LETTERS.entries()) {
      const templateId = await saveLetter(act, { templateId: null, name, subject, blocks: [...blocks] });
      await saveSetup(act, {
        table: 'overdue-stages',
        values: {
          position: String(index + 1),
          name,
          days: String(days),
          template_id: String(templateId),
        },
      });
    }
    return true;
  });
}
