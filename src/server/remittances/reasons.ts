/** The reason code table, as decisions ask it. */
import type { ReasonTable } from '../../core/remittances/decide';
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
      words: row.words,
    };
  };
}
