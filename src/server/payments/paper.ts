/** What is handed over with money: the receipt of a payment, on a sheet or on the roll of a printer, and the slip of a deposit. */
import { sql } from 'kysely';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { idField } from '../../core/fields';
import { type Cents, add, formatMoneyPlain, minus, sum } from '../../core/money';
import { TENDERS, type Tender } from '../../core/payments/tenders';
import { type Context, Refused, allow, audit } from '../access';
import { allowOpen, opened } from '../closed';
import { parseInput } from '../input';
import { type PrintColumn, heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';

/** One tender on a receipt. Amounts in cents. */
interface ReceiptTenderLine {
  kind: Tender;
  words: string;
  amount: Cents;
  surcharge: Cents;
  given: Cents | null;
  state: string;
}
/** A service that a receipt pays, with what is left of it. */
interface ReceiptLine {
  date: CalendarDate;
  patient: string;
  patientId: number | null;
  what: string;
  provider: string;
  paid: Cents;
  left: Cents;
  /** It is a service of an account that gets no mail together with that of the receipt. */
  elsewhere: boolean;
}

async function readReceiptPaper(context: Context, receiptId: number, how: Handed) {
  const { db } = context;
  const [practice, receipt, { rows: tenders }, { rows: lines }, { rows: printed }, { rows: apart }] =
    await Promise.all([
      db.selectFrom('practice').selectAll().executeTakeFirst(),
      db
        .selectFrom('receipt as r')
        .innerJoin('household as h', 'h.id', 'r.household_id')
        .leftJoin('location as l', 'l.id', 'r.location_id')
        .leftJoin('user as u', 'u.id', 'r.user_id')
        .leftJoin('receipt_balance as b', 'b.receipt_id', 'r.id')
        .select([
          'r.id',
          'r.received_on as date',
          'r.patient_id as patientId',
          'r.refund_of as refundOf',
          'r.paid_by as paidBy',
          'h.number as account',
          'h.id as householdId',
          sql<string>`h.first || ' ' || h.last`.as('name'),
          sql<string>`coalesce(l.name, '')`.as('site'),
          sql<string>`coalesce(u.name, r.user_id)`.as('by'),
          sql<Cents>`coalesce(b.held, 0)`.as('held'),
        ])
        .where('r.id', '=', receiptId)
        .executeTakeFirst(),
      sql<ReceiptTenderLine>`
        select t.kind, t.amount, t.surcharge, t.given, t.state,
          case
            when t.last_four <> '' then concat_ws(' ', t.brand, 'ending in', t.last_four) || ', authorization ' || t.approval
            when t.kind = 'cash' or t.reference = '' then ''
            else t.reference
          end as words
        from tender t
        where t.receipt_id = ${receiptId} and t.state in ('taken', 'returned') and t.amount <> 0
        order by t.id`.execute(db),
      sql<ReceiptLine>`
        select c.service_date as date, coalesce(p.first, '') as patient, c.patient_id as "patientId", c.description as what,
          coalesce(v.first || ' ' || v.last, '') as provider, s.paid, coalesce(b.with_patient, 0)::bigint as left,
          coalesce(ch.mailed_with, ch.id) <> coalesce(rh.mailed_with, rh.id) as elsewhere
        from (
            select o.charge_id, sum(o.amount)::bigint as paid
            from posting o
            where o.receipt_id = ${receiptId} and o.account = 'credit/patient' and o.charge_id is not null
            group by 1
            having sum(o.amount) > 0
          ) s
          join charge c on c.id = s.charge_id
          join receipt r on r.id = ${receiptId}
          join household rh on rh.id = r.household_id
          join household ch on ch.id = c.household_id
          left join charge_balance b on b.charge_id = c.id
          left join patient p on p.id = c.patient_id
          left join provider v on v.id = c.provider_id
        order by c.service_date, c.id`.execute(db),
      sql`
        select 1 from audit
        where subject_kind = 'receipt' and subject_id = ${String(receiptId)} and action = ${how}
        limit 1`.execute(db),
      sql<{ id: number }>`
        select a.patient_id as id from confidential_address a where a.ended_on is null`.execute(db),
    ]);
  return { practice, receipt, tenders, lines, copy: printed.length > 0, apart: apart.map(({ id }) => id) };
}

/** How a receipt is handed out, as the audit trail says: what was handed out so before is a copy. */
type Handed = 'printed' | 'e-mailed';

/**
 * The receipt of one payment: how it came, what it paid, what is left. Handed out again the same way, it says that it is a copy. What
 * was paid for a patient with a confidential address is on that patient's own receipts and not named on the household's.
 */
export async function receiptPaper(
  context: Context,
  input: { receiptId: unknown; roll?: boolean },
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'read accounts');
  const receiptId = parseInput(idField, input.receiptId);
  await allowOpen(context, { receiptId });
  const drawn = await drawReceipt(context, receiptId, 'printed', input.roll === true);
  await opened(context, { kind: 'receipt', id: receiptId }, 'printed');
  return drawn;
}

/** Draws a receipt. @throws Refused where nothing of it was taken */
export async function drawReceipt(
  context: Context,
  receiptId: number,
  how: Handed,
  roll = false,
): Promise<{ name: string; bytes: Buffer; pages: number }> {
  const { practice, receipt, tenders, lines, copy, apart } = await readReceiptPaper(context, receiptId, how);
  if (!receipt) throw new Refused('unknown', 'There is no such receipt');
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  if (tenders.length === 0) throw new Refused('nothing', 'Nothing of it was taken');
  const paper = await Paper.open(roll ? 'roll' : practice.paper, `Receipt ${receiptId}`, practice.name);
  const say = (words: string, strong = false): void => {
    paper.paragraph(words, paper.left, paper.y, paper.width, { size: roll ? 8.5 : 10, strong });
  };
  if (roll)
    say(`${practice.name}\n${practice.line1}, ${practice.city}, ${practice.state}\n${practice.phone}`, true);
  else letterhead(paper, practice);
  paper.y += 6;
  const back = receipt.refundOf !== null;
  heading(paper, `${back ? 'Given back' : 'Receipt'} ${receiptId}${copy ? ', COPY' : ''}`);
  say(
    receipt.paidBy === ''
      ? `${receipt.name}, account ${receipt.account}`
      : `From ${receipt.paidBy}, for ${receipt.name}, account ${receipt.account}`,
  );
  say([formatDate(receipt.date), receipt.site, `taken by ${receipt.by}`].filter(Boolean).join(' · '));
  paper.y += 6;
  const total = sum(tenders.map(({ amount, surcharge }) => add(amount, surcharge)));
  for (const tender of tenders) {
    const name = [TENDERS[tender.kind].words, tender.words].filter(Boolean).join(', ');
    say(`${name}: ${formatMoneyPlain(tender.amount)}${tender.state === 'returned' ? ', came back' : ''}`);
    if (tender.surcharge !== 0)
      say(`Surcharge on the credit card, which pays no service: ${formatMoneyPlain(tender.surcharge)}`);
    if (tender.given !== null)
      say(
        `Handed over ${formatMoneyPlain(tender.given)}, change ${formatMoneyPlain(minus(tender.given, tender.amount))}`,
      );
  }
  say(`${formatMoneyPlain(total)} US dollars${back ? ' were given back' : ' were paid'}.`, true);
  paper.y += 6;
  const named = lines.map((line) =>
    line.elsewhere ||
    (line.patientId !== null && apart.includes(line.patientId) && receipt.patientId !== line.patientId)
      ? { ...line, patient: '', what: 'A service', provider: '' }
      : line,
  );
  if (roll)
    for (const line of named)
      say(
        `${formatDate(line.date)} ${[line.patient, line.what].filter(Boolean).join(', ')}\npaid ${formatMoneyPlain(line.paid)}, left ${formatMoneyPlain(line.left)}`,
      );
  else if (named.length > 0) {
    const columns: PrintColumn<ReceiptLine>[] = [
      { title: 'Date', share: 1, words: (row) => formatDate(row.date) },
      { title: 'Who', share: 1, words: (row) => row.patient },
      { title: 'Service', share: 3, words: (row) => row.what },
      { title: 'Provider', share: 1.6, words: (row) => row.provider },
      { title: 'Paid', share: 1, amount: (row) => row.paid },
      { title: 'Left', share: 1, amount: (row) => row.left },
    ];
    table(paper, columns, named);
  }
  if (receipt.held > 0) say(`${formatMoneyPlain(receipt.held)} of it is held as credit.`);
  const pages = roll
    ? 1
    : paper.foot(
        (page, all) => `Receipt ${receiptId} · ${formatDate(context.today)} · page ${page} of ${all}`,
      );
  return { name: `receipt-${receiptId}.pdf`, bytes: await paper.finish(), pages };
}

/** The slip of a deposit: its checks one by one, its cash, and the sum that the bank is to count. */
export async function depositPaper(
  context: Context,
  input: { depositId: unknown },
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'deposit money');
  const depositId = parseInput(idField, input.depositId);
  const { db } = context;
  const practice = await db.selectFrom('practice').selectAll().executeTakeFirst();
  const deposit = await db
    .selectFrom('deposit as d')
    .innerJoin('place as p', 'p.id', 'd.place_id')
    .select(['d.date', 'd.number', 'p.name', 'd.place_id', 'd.undone_on'])
    .where('d.id', '=', depositId)
    .executeTakeFirst();
  if (!deposit) throw new Refused('unknown', 'There is no such deposit');
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  if (deposit.undone_on !== null) throw new Refused('nothing', 'This deposit was undone');
  // What bounced afterwards was on the slip that the bank has.
  const { rows } = await sql<{
    kind: string;
    words: string;
    reference: string;
    account: string;
    amount: Cents;
  }>`
    select coalesce(t.kind, 'cash') as kind, k.words, coalesce(nullif(t.reference, ''), t.approval, '') as reference,
      coalesce(h.number, 'over or short') as account, sum(o.amount)::bigint as amount
    from posting o
      join entry e on e.id = o.entry_id and e.reverses is null
      left join tender t on t.id = o.tender_id
      left join receipt r on r.id = t.receipt_id
      left join household h on h.id = r.household_id
      join tender_kind k on k.code = coalesce(t.kind, 'cash')
    where o.deposit_id = ${depositId} and o.place_id = ${deposit.place_id}
    group by t.id, t.kind, k.words, t.reference, t.approval, h.number
    order by k.words, t.id`.execute(db);
  const paper = await Paper.open(practice.paper, `Deposit ${deposit.number || depositId}`, practice.name);
  letterhead(paper, practice);
  paper.y += 10;
  const name =
    deposit.number === ''
      ? `Deposit of ${formatDate(deposit.date)}`
      : `Deposit ${deposit.number}, ${formatDate(deposit.date)}`;
  heading(paper, name);
  paper.paragraph(`To ${deposit.name}`, paper.left, paper.y, paper.width, { size: 10 });
  paper.y += 8;
  const cash = rows.filter(({ kind }) => kind === 'cash');
  const others = rows.filter(({ kind }) => kind !== 'cash');
  const lines = [
    ...(cash.length > 0
      ? [{ words: 'Cash', reference: '', account: '', amount: sum(cash.map(({ amount }) => amount)) }]
      : []),
    ...others,
  ];
  table(
    paper,
    [
      { title: 'What', share: 1.4, words: (row) => row.words },
      { title: 'Number', share: 2, words: (row) => row.reference },
      { title: 'Account', share: 1.2, words: (row) => row.account },
      { title: 'Amount', share: 1, amount: (row) => row.amount },
    ],
    lines,
  );
  paper.foot((page, pages) => `${name} · page ${page} of ${pages}`);
  await audit(db, context, 'printed', { kind: 'deposit', id: depositId });
  return { name: `deposit-${deposit.number || depositId}.pdf`, bytes: await paper.finish() };
}
