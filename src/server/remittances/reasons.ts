/** The reason code table, as decisions ask it. */
import type { ReasonTable } from '../../core/remittances/decide';
import type { ReasonUseRule } from '../../core/remittances/reason-warnings';
import type { Db } from '../../db/connect';

/**
 * Reads the reason code table once: by group and code, then by code alone. What a code does by itself it does under the payer's own
 * groups; the patient's part is refused or followed up by a row of its own alone, and what a payer takes off on its own initiative
 * is no contract's.
 */
export async function readReasons(db: Db): Promise<ReasonTable> {
  const rows = await db.selectFrom('reason_code').selectAll().execute();
  const table = new Map(rows.map((row) => [`${row.group_code}-${row.code}`, row]));
  return (group, reason) => {
    const own = table.get(`${group}-${reason}`);
    const row = own ?? table.get(`*-${reason}`);
    if (!row) return null;
    const patients = group === 'PR' && !own;
    const initiated = group === 'PI' && !own && row.reduction_account === 'reduction/contract';
    return {
      reductionAccount: initiated ? 'reduction/payer' : row.reduction_account,
      denial: row.denial && !patients,
      followUp: patients ? 'never' : row.follow_up,
      owner: row.follow_up_owner ?? '',
      days: row.follow_up_days,
      words: row.words,
    };
  };
}

/** What is said of codes while they are used: those of our own, and those that are of certain days. */
export const reasonUseRules = (db: Db): Promise<ReasonUseRule[]> =>
  db
    .selectFrom('reason_code')
    .select([
      'group_code as group',
      'code',
      'standard',
      'travels_as as travelsAs',
      'valid_from as validFrom',
      'valid_to as validTo',
    ])
    .execute();
