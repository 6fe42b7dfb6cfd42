/** The reason code table, as decisions ask it. */
import type { ReasonTable } from '../../core/remittances/decide';
import type { Db } from '../../db/connect';

/** Reads the reason code table once: by group and code, then by code alone. */
export async function readReasons(db: Db): Promise<ReasonTable> {
  const rows = await db.selectFrom('reason_code').selectAll().execute();
  const table = new Map(rows.map((row) => [`${row.group_code}-${row.code}`, row]));
  return (group, reason) => {
    const row = table.get(`${group}-${reason}`) ?? table.get(`*-${reason}`);
    return row
      ? {
          reductionAccount: row.reduction_account,
          denial: row.denial,
          followUp: row.follow_up,
          words: row.words,
        }
      : null;
  };
}
