/** The entries under charges, as the ledger shows them and the story tells them. */
import { sql } from 'kysely';
import { type BookAccount, classOf, partOf } from '../../core/books/accounts';
import type { EntryKind } from '../../core/books/kinds';
import type { Passing } from '../../core/books/passing';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, negate, sum } from '../../core/money';
import type { StoryEntry } from '../../core/statements/story';
import type { Db } from '../../db/connect';

/** One entry under a charge. Amounts in cents. */
export interface LedgerEntry extends StoryEntry {
  postingDate: CalendarDate;
  coverageId: number | null;
  remittanceId: number | null;
  receiptId: number | null;
  /** Who reversed, wrote off or passed on; empty for what follows from a file or a form. */
  by: string;
  reasons: { code: string; words: string; amount: Cents }[];
}

interface PostingRow {
  chargeId: number;
  entryId: number;
  kind: EntryKind;
  date: CalendarDate;
  postingDate: CalendarDate;
  memo: string;
  undone: boolean;
  exception: Passing | null;
  account: BookAccount;
  amount: Cents;
  group: string | null;
  code: string | null;
  coverageId: number | null;
  payer: string | null;
  remittanceId: number | null;
  receiptId: number | null;
  by: string;
  words: string | null;
  patientWords: string | null;
}

/** Reads the entries of charges, in the order in which they were written. */
export async function readEntries(db: Db, chargeIds: readonly number[]): Promise<Map<number, LedgerEntry[]>> {
  const found = new Map<number, LedgerEntry[]>();
  if (chargeIds.length === 0) return found;
  const { rows } = await sql<PostingRow>`
    select p.charge_id as "chargeId", e.id as "entryId", e.kind, e.business_date as date,
      e.posting_date as "postingDate", e.memo, x.id is not null as undone, e.exception, p.account, p.amount,
      p.reason_group as "group", p.reason_code as code, p.coverage_id as "coverageId", y.name as payer,
      p.remittance_id as "remittanceId", p.receipt_id as "receiptId",
      case
        when e.kind in ('reversal', 'write-off', 'bad-debt', 'to-patient', 'to-next-payer', 'coverage-change', 'charge-correction') then
          coalesce(u.name, e.user_id)
        else ''
      end as by,
      coalesce(r.words, a.words) as words, coalesce(r.patient_words, a.patient_words) as "patientWords"
    from posting p
      join entry e on e.id = p.entry_id
      left join entry x on x.reverses = e.id
      left join payer y on y.id = p.payer_id
      left join "user" u on u.id = e.user_id
    left join reason_code r on r.group_code = p.reason_group and r.code = p.reason_code
    left join reason_code a on a.group_code = '*' and a.code = p.reason_code
    where p.charge_id = any(${[...chargeIds]}) order by e.id, p.id`.execute(db);
  const parts = new Map<string, PostingRow[]>();
  for (const row of rows) {
    const key = `${row.chargeId}/${row.entryId}`;
    const part = parts.get(key);
    if (part) part.push(row);
    else parts.set(key, [row]);
  }
  for (const part of parts.values()) {
    const { chargeId } = part[0]!;
    const list = found.get(chargeId) ?? [];
    found.set(chargeId, list);
    list.push(entryOf(part));
  }
  return found;
}

/** What one entry did to one charge. */
function entryOf(part: readonly PostingRow[]): LedgerEntry {
  const entry = begin(part[0]!);
  for (const row of part) {
    entry.payer ||= row.payer ?? '';
    entry.coverageId ??= row.coverageId;
    take(entry, row, part);
  }
  return entry;
}

/** What of a reason was said and moved nothing: what it took away less what it moved elsewhere, in cents. */
function stayed(row: PostingRow, part: readonly PostingRow[]): Cents {
  const own = part.filter((other) => other.group === row.group && other.code === row.code);
  const away = (other: PostingRow): boolean =>
    other.account === 'receivable/payer' && other.coverageId === row.coverageId;
  if (own.find(away) !== row) return ZERO;
  return negate(sum(own.map(({ amount }) => amount)));
}

const begin = (row: PostingRow): LedgerEntry => ({
  entryId: row.entryId,
  kind: row.kind,
  date: row.date,
  postingDate: row.postingDate,
  coverageId: row.coverageId,
  payer: row.payer ?? '',
  memo: row.memo,
  undone: row.undone,
  exception: row.exception,
  paidByPayer: ZERO,
  paidByPatient: ZERO,
  paidByAgency: ZERO,
  expected: ZERO,
  reduced: [],
  passedOn: [],
  refused: [],
  reasons: [],
  remittanceId: row.remittanceId,
  receiptId: row.receiptId,
  by: row.by,
});

/** Says an amount with what was said in the same words: where a part of it lies elsewhere, it is posted in two. */
function together(said: { words: string; amount: Cents }[], words: string, amount: Cents): void {
  const same = said.find((one) => one.words === words);
  if (same) same.amount = add(same.amount, amount);
  else said.push({ words, amount });
}

function take(entry: LedgerEntry, row: PostingRow, part: readonly PostingRow[]): void {
  const words = row.patientWords || row.words || (row.group ? `reason ${row.group}-${row.code}` : row.memo);
  if (row.account === 'credit/agency') entry.paidByAgency = add(entry.paidByAgency, row.amount);
  else if (classOf(row.account) === 'cash' || row.account === 'credit/payer')
    entry.paidByPayer = add(entry.paidByPayer, row.amount);
  else if (row.account === 'credit/patient') entry.paidByPatient = add(entry.paidByPatient, row.amount);
  else if (partOf(row.account) === 'expected') entry.expected = add(entry.expected, row.amount);
  else if (partOf(row.account) === 'reduced') together(entry.reduced, words, row.amount);
  else if ((row.group === 'PR' || row.kind === 'to-patient') && row.account === 'receivable/patient')
    together(entry.passedOn, words, row.amount);
  if (!row.group || row.account !== 'receivable/payer' || row.coverageId !== entry.coverageId) return;
  const refused = row.kind === 'payer-decision' ? stayed(row, part) : ZERO;
  if (refused !== 0) entry.refused.push({ words, amount: refused });
  entry.reasons.push({
    code: `${row.group}-${row.code}`,
    words: row.words ?? 'not in the reason code table',
    amount: negate(row.amount),
  });
}
