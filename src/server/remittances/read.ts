/** Reading one remittance. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Combination, outsideScenarios } from '../../core/remittances/combinations';
import {
  holdReasonsDocument,
  providerAdjustmentsDocument,
  remitClaimDocument,
} from '../../core/remittances/document';
import { type ReasonTable, codeOf, type UnknownReason, unknownReasons } from '../../core/remittances/decide';
import type { Adjustment } from '../../core/x12/adjustments';
import type { ProviderAdjustment, RemitClaim } from '../../core/x12/remittance835';
import type { Db } from '../../db/connect';
import { type Pinned, readPayerNotices } from '../notes/notes';
import { type Context, Refused, allow, audit } from '../access';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import { isClosed } from '../closed';
import { PAGE_SIZE } from '../lists/list';
import { adjustmentsBooked } from './post';
import { combinationsOf } from './combinations';
import { readReasons } from './reasons';

/** One claim of a remittance. Amounts in cents. */
export interface RemittanceClaimRow {
  id: number;
  number: number;
  controlNumber: string;
  claimId: number | null;
  householdId: number | null;
  content: RemitClaim;
  charge: Cents;
  paid: Cents;
  status: 'ready' | 'posted' | 'unmatched' | 'noted' | 'returned' | 'kept' | 'reversed';
  /** What it takes off for reasons that Setup does not know, where it waits for that. */
  unknown: UnknownReason[];
  /** Why it is held: the kind decides what can be done. */
  holdKind: string;
  holdReason: string;
  /** What somebody should know of it, though it is posted. */
  note: string;
  /** What of its denials stands outside the scenarios in which reasons and remarks go together, by its lines. */
  outside: string[][];
  /** Counts up when it is posted anew. */
  version: number;
}

/** A provider adjustment; the amount is below zero where the payer paid more by it. Cents. */
export interface AdjustmentRow extends ProviderAdjustment {
  /** The claim of ours that its reference names, by our number or the payer's. */
  claim: { id: number; controlNumber: string } | null;
  /** What of it is in the payer's credit, above zero when it is held for the payer; null when it is not posted, or interest. */
  credit: { id: number; open: Cents; uses: AdjustmentUse[] } | null;
}
/** What was done with a provider adjustment; `undone` when it was taken back later. Cents, with the sign of what was open. */
export interface AdjustmentUse {
  entryId: number;
  date: CalendarDate;
  words: string;
  amount: Cents;
  undone: boolean;
}

/** A remittance whole, with its claims a page at a time and the words of its reason codes. */
export interface RemittancePage {
  id: number;
  payer: string;
  payerId: number | null;
  /** What stands at the head of the payer. */
  notices: Pinned[];
  trace: string;
  amount: Cents;
  date: CalendarDate;
  claims: number;
  status: 'held' | 'ready' | 'posting' | 'posted';
  holdReasons: string[];
  unmatched: number;
  providerAdjustments: AdjustmentRow[];
  rows: RemittanceClaimRow[];
  posted: Cents;
  held: Cents;
  /** Given back to the payer. */
  returned: Cents;
  /** Rows in all, also those that were reversed and posted anew. */
  count: number;
  /** Something of it was reversed and not posted anew. */
  reversed: boolean;
  words: Record<string, string>;
  file: string;
  /** The paper that it was keyed from; null where it came by file. */
  keyedId: number | null;
}

/** What a claim of a closed account still says here: its amounts, so that the payment adds up. */
const withheld = (content: RemitClaim) => ({
  controlNumber: '',
  claimId: null,
  householdId: null,
  holdReason: '',
  note: '',
  content: {
    ...content,
    controlNumber: '',
    payerClaimNumber: '',
    adjustments: [],
    patient: { last: CLOSED_ACCOUNT, first: '', memberId: '' },
    date: null,
    remarks: [],
    lines: [],
  },
});

/** Where a remittance speaks of a charge last: the row, and the page on which it stands; null where it does not. */
export async function placeOfCharge(
  context: Context,
  remittanceId: number,
  chargeId: number,
): Promise<{ row: number; page: number } | null> {
  allow(context, 'read remittances');
  const { rows } = await sql<{ row: number; before: number }>`
    select c.id as row, (
        select count(*)
        from remittance_claim o
        where o.remittance_id = c.remittance_id and (o.number, o.version) < (c.number, c.version)
      ) as before
    from remittance_claim c
    where c.remittance_id = ${remittanceId}
      and c.claim_id in (select l.claim_id from claim_line l where l.charge_id = ${chargeId})
    order by c.status = 'reversed', c.number desc, c.version desc
    limit 1`.execute(context.db);
  const [found] = rows;
  return found ? { row: found.row, page: Math.floor(found.before / PAGE_SIZE) + 1 } : null;
}

/** Reads a remittance. A claim of a household that is closed to who asks says its amounts. */
export async function readRemittance(context: Context, id: number, page = 1): Promise<RemittancePage> {
  allow(context, 'read remittances');
  const { db } = context;
  const remit = await db
    .selectFrom('remittance as r')
    .leftJoin('exchange_file as f', 'f.id', 'r.file_id')
    .selectAll('r')
    .select('f.name as file')
    .where('r.id', '=', id)
    .executeTakeFirst();
  if (!remit) throw new Refused('unknown', 'There is no such remittance');
  await audit(db, context, 'read', { kind: 'remittance', id });
  const [rows, sums] = await Promise.all([
    db
      .selectFrom('remittance_claim as c')
      .leftJoin('claim as m', 'm.id', 'c.claim_id')
      .select([
        'c.id',
        'c.number',
        'c.control_number as controlNumber',
        'c.claim_id as claimId',
        'm.household_id as householdId',
        'c.content',
        'c.charge',
        'c.paid',
        'c.status',
        'c.hold_kind as holdKind',
        'c.hold_reason as holdReason',
        'c.note',
        'c.version',
        isClosed(context, sql`m.household_id`).as('closed'),
      ])
      .where('c.remittance_id', '=', id)
      .orderBy('c.number')
      .orderBy('c.version')
      .limit(PAGE_SIZE)
      .offset((page - 1) * PAGE_SIZE)
      .execute(),
    db
      .selectFrom('remittance_claim')
      .select([
        sql<Cents>`coalesce(sum(paid) filter (where status = 'posted'), 0)`.as('posted'),
        sql<Cents>`coalesce(sum(paid) filter (where status in ('unmatched', 'kept')), 0)`.as('held'),
        sql<Cents>`coalesce(sum(paid) filter (where status = 'returned'), 0)`.as('returned'),
        sql<number>`count(*)`.as('count'),
        sql<boolean>`
          coalesce(
            bool_or(
              status = 'reversed'
                and not exists (
                  select 1
                  from remittance_claim n
                  where n.remittance_id = remittance_claim.remittance_id
                    and n.number = remittance_claim.number
                    and n.version > remittance_claim.version
                )
            ),
            false
          )`.as('reversed'),
        sql<number>`count(*) filter (where status = 'unmatched')`.as('unmatched'),
      ])
      .where('remittance_id', '=', id)
      .executeTakeFirstOrThrow(),
  ]);
  const { undone } = await adjustmentsBooked(db, remit);
  const table = await readReasons(db);
  const contents = rows.map((row) => remitClaimDocument.read(row.content));
  const scenarios = await combinationsOf(db, [
    ...new Set(contents.flatMap(refusals(table)).map(({ reason }) => reason)),
  ]);
  const read = rows.map(({ closed, ...row }, index) => {
    const content = contents[index]!;
    if (closed) return { ...row, ...withheld(content), unknown: [], outside: [] };
    return {
      ...row,
      content,
      unknown: row.holdKind === 'reason' ? unknownReasons(content, table) : [],
      outside: scenarios.any ? outsideOf(content, table, scenarios.list) : [],
    };
  });
  const adjustments =
    remit.provider_adjustments === null ? [] : providerAdjustmentsDocument.read(remit.provider_adjustments);
  const [notices, named, credit] = await Promise.all([
    remit.payer_id === null ? [] : readPayerNotices(context, remit.payer_id),
    claimsNamed(
      db,
      remit.payer_id,
      adjustments.flatMap(({ reference }) => reference || []),
    ),
    creditOf(db, remit),
  ]);
  return {
    id,
    payer: remit.payer_name,
    payerId: remit.payer_id,
    notices,
    trace: remit.trace,
    amount: remit.amount,
    date: remit.payment_date,
    claims: remit.claims,
    status: remit.status,
    holdReasons: remit.hold_reasons === null ? [] : holdReasonsDocument.read(remit.hold_reasons),
    unmatched: sums.unmatched,
    providerAdjustments: adjustments.map((item, number) => ({
      ...item,
      claim: named.get(item.reference) ?? null,
      credit: credit.get(number) ?? null,
    })),
    rows: read,
    posted: sums.posted,
    held: sums.held,
    returned: sums.returned,
    count: sums.count,
    reversed: sums.reversed || undone > 0,
    words: wordsOf(read, table),
    file: remit.file ?? '',
    keyedId: remit.keyed_id,
  };
}

/** What refuses of a claim as a whole, and of its lines. */
const refusals =
  (table: ReasonTable) =>
  ({ adjustments, lines }: RemitClaim): Adjustment[] =>
    [...adjustments, ...lines.flatMap((line) => line.adjustments)].filter(
      ({ group, reason }) => table(group, reason)?.denial,
    );

/** What of each line stands outside the scenarios, with what is said of the whole claim. */
const outsideOf = (content: RemitClaim, table: ReasonTable, list: readonly Combination[]): string[][] =>
  content.lines.map((line) =>
    outsideScenarios(
      refusals(table)({ ...content, lines: [line] }),
      [...line.remarks, ...content.remarks],
      list,
    ),
  );

/** The words of the reasons that claims of a remittance are adjusted for, as far as Setup knows them. */
const wordsOf = (rows: readonly { content: RemitClaim }[], table: ReasonTable): Record<string, string> =>
  Object.fromEntries(
    rows
      .flatMap(({ content }) => [content, ...content.lines])
      .flatMap(({ adjustments }) => adjustments)
      .flatMap((item) => {
        const words = table(item.group, item.reason)?.words;
        return words === undefined ? [] : [[codeOf(item), words] as const];
      }),
  );

/** What the provider adjustments of a remittance, as they were posted last, have in the payer's credit; by their number. */
async function creditOf(
  db: Db,
  remit: { id: number; version: number },
): Promise<Map<number, NonNullable<AdjustmentRow['credit']>>> {
  const { rows } = await sql<{ number: number; id: number; open: Cents; uses: AdjustmentUse[] }>`
    select a.number, a.id, coalesce(b.open, 0) as open, coalesce((
      select
        json_agg(
          json_build_object(
            'entryId', e.id, 'date', e.posting_date, 'words', e.memo, 'amount', p.amount, 'undone', x.id is not null
          )
          order by e.id
        )
      from (
        select entry_id, sum(amount) as amount
        from posting
        where provider_adjustment_id = a.id and account = 'credit/payer'
        group by 1
      ) p
        join entry e on e.id = p.entry_id
        left join entry x on x.reverses = e.id
      where e.kind not in ('provider-adjustment', 'reversal')), '[]') as uses
    from provider_adjustment a left join provider_adjustment_balance b on b.provider_adjustment_id = a.id
    where a.remittance_id = ${remit.id} and a.version = ${remit.version}`.execute(db);
  return new Map(rows.map(({ number, ...credit }) => [number, credit]));
}

/** Claims of ours by numbers that a payer names: ours, or its own for claims that went to it. */
async function claimsNamed(
  db: Db,
  payerId: number | null,
  numbers: readonly string[],
): Promise<Map<string, { id: number; controlNumber: string }>> {
  if (numbers.length === 0) return new Map();
  const { rows } = await sql<{ number: string; id: number; controlNumber: string }>`
    select control_number as number, id, control_number as "controlNumber"
    from claim
    where control_number = any(${[...numbers]})
    union all
    select payer_claim_number, id, control_number
    from claim
    where payer_claim_number = any(${[...numbers]}) and payer_id = ${payerId}
    order by id`.execute(db);
  return new Map(rows.map(({ number, ...claim }) => [number, claim]));
}
