/** The lists of statements: those sent, the households that are due one, and the batches with their pieces. */
import { sql } from 'kysely';
import type { PieceKind } from '../../core/mail/contents';
import { DELIVERIES, OUTCOMES, PIECE_STATES, type PieceState } from '../../core/mail/pieces';
import type { Cents } from '../../core/money';
import type { Context } from '../access';
import { day, list, money, number, textLike, words } from '../lists/list';
import { type Weighed, weighHouseholds } from './choosing';

const byHousehold = (like: string) =>
  sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`;

/** What a code is called, in SQL. */
const called = (column: string, labels: Readonly<Record<string, string>>) =>
  sql<string>`case ${sql.ref(column)} ${sql.join(
    Object.entries(labels).map(([code, label]) => sql`when ${sql.lit(code)} then ${sql.lit(label)}`),
    sql` `,
  )} else '' end`;

const isVoid = sql`exists (select 1 from statement_void v where v.statement_id = s.id)`;

/** Statements, newest first. */
export const statementsList = list({
  name: 'statements',
  noun: ['statement', 'statements'],
  permission: 'read accounts',
  station: 'Statements',
  path: '/statements',
  from: sql`
    statement s
      join household h on h.id = s.household_id
      join mail_piece p on p.id = s.piece_id
      left join patient a on a.id = s.patient_id`,
  household: sql`s.household_id`,
  id: sql`s.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words(
      'Guarantor',
      sql<string>`
        case
          when a.id is null then h.last || ', ' || h.first
          else a.last || ', ' || a.first || ' (confidential)'
        end`,
    ),
    date: day('Date', sql`s.date`),
    dueDate: day('Due', sql`s.due_date`),
    delivery: words('How', called('p.delivery', DELIVERIES)),
    outcome: words(
      'What became of it',
      sql<string>`
        case
          when ${isVoid} then 'not sent: ' || p.why
          when p.status = 'failed' then p.why
          else ${called('p.outcome', OUTCOMES)}
        end`,
    ),
    amount: money('Amount due', sql`s.amount`),
    pages: number('Pages', sql<number>`p.pages`, { extra: true }),
    batch: words('Batch', sql<string>`coalesce(p.batch_id::text, '')`, { extra: true }),
  },
  hidden: { householdId: sql<number>`h.id` },
  views: {
    sent: { label: 'Sent' },
    back: { label: 'Came back', where: () => sql`p.outcome in ('undeliverable', 'bounced', 'returned')` },
    void: { label: 'Not sent after all', where: () => isVoid },
  },
  search: byHousehold,
  order: sql`s.date desc, s.id desc`,
});

/** Rows of patients apart have their own numbers, beyond those of households. */
const APART = 1_000_000_000_000;

/** Whom each site's own rows take today, as a table: the very households that choosing takes and that drafts are prepared for. */
async function dueRows(context: Context) {
  const taken = (await weighHouseholds(context, {})).weighed.filter((one) => one.in);
  const of = <Value>(valueOf: (one: Weighed) => Value): Value[] => taken.map(valueOf);
  return sql`
    unnest(
      ${of(({ facts }) => (facts.patientId === null ? facts.householdId : APART + facts.patientId))}::bigint[],
      ${of(({ facts }) => facts.householdId)}::bigint[], ${of(({ facts }) => facts.patientId)}::bigint[],
    ${of(({ facts }) => facts.account)}::text[], ${of(({ facts }) => facts.name)}::text[],
    ${of(({ facts }) => facts.lastStatement)}::date[],
    ${of(({ reasons }) => reasons.map(({ words: said }) => said).join('; '))}::text[],
    ${of(({ due }) => due)}::bigint[])
    as d (id, household_id, patient_id, account, name, last_statement, why, due)`;
}

/** Households that get a statement today by each site's own rows, the largest amount first. */
export const statementsDueList = list({
  name: 'statements-due',
  noun: ['statement', 'statements'],
  permission: 'read accounts',
  station: 'Statements',
  path: '/statements?view=due',
  from: dueRows,
  household: sql`d.household_id`,
  id: sql`d.id`,
  columns: {
    account: words('Account', sql`d.account`),
    guarantor: words(
      'Guarantor',
      sql<string>`case when d.patient_id is null then d.name else d.name || ' (confidential)' end`,
    ),
    lastStatement: day('Last statement', sql`d.last_statement`),
    why: words('Why', sql`d.why`),
    amount: money('Amount due', sql<Cents>`d.due`),
  },
  hidden: {
    householdId: sql<number>`d.household_id`,
    patientId: sql<number | null>`d.patient_id`,
  },
  views: {
    due: {
      label: 'Due',
      waits: {
        words: ['statement is due', 'statements are due'],
        sum: 'amount',
      },
    },
  },
  search: (like) => sql`lower(d.name) like ${like} or ${textLike(sql`d.account`, like)}`,
  order: sql`d.due desc, d.id`,
});

/** How many pieces of a batch are in a state. */
const inState = (...states: PieceState[]) =>
  sql<number>`
    (
      select count(*)
      from mail_piece p
      where p.batch_id = m.id and p.status in (${sql.join(states.map((state) => sql.lit(state)))})
    )`;

/** Batches of pieces of a kind, newest first. */
const batchesOf = (
  kind: PieceKind,
  name: string,
  station: string,
  path: string,
  waiting: readonly [one: string, many: string],
  rail?: true,
) =>
  list({
    name,
    noun: ['batch', 'batches'],
    permission: 'read accounts',
    station,
    path,
    always: () => sql`m.kind = ${kind}`,
    from: sql`mail_batch m`,
    household: null,
    id: sql`m.id`,
    columns: {
      title: words('Batch', sql`m.title`),
      madeOn: day('Prepared', sql`m.made_on`),
      by: words('By', sql`m.user_name`),
      pieces: number('Pieces', sql<number>`(select count(*) from mail_piece p where p.batch_id = m.id)`),
      drafts: number('Drafts', inState('draft')),
      made: number('To go out', inState('made')),
      sent: number('Sent', inState('sent')),
      failed: number('Failed', inState('failed')),
      taken: number('Taken out', inState('taken-out', 'void'), { extra: true }),
      pages: number(
        'Pages',
        sql<number>`(select coalesce(sum(p.pages), 0) from mail_piece p where p.batch_id = m.id and p.status = 'sent')`,
        { extra: true },
      ),
      amount: money(
        'Amount due',
        sql<Cents>`
          (
            select coalesce(sum(p.amount), 0)
            from mail_piece p
            where p.batch_id = m.id and p.status not in ('taken-out', 'void')
          )`,
      ),
    },
    views: {
      open: {
        label: 'Not all out',
        where: () =>
          sql`exists (select 1 from mail_piece p where p.batch_id = m.id and p.status in ('draft', 'made', 'failed'))`,
        waits: {
          words: waiting,
          sum: 'amount',
          ...(rail ? { rail } : {}),
        },
      },
      all: { label: 'All' },
    },
    search: (like) => sql`lower(m.title) like ${like} or lower(m.user_name) like ${like}`,
    order: sql`m.id desc`,
  });

/** Batches of statements, newest first. */
export const batchesList = batchesOf('statement', 'batches', 'Statements', '/statements', [
  'batch of statements is not all out',
  'batches of statements are not all out',
]);
/** Batches of letters, newest first. */
export const letterBatchesList = batchesOf(
  'letter',
  'letter-batches',
  'Overdue',
  '/overdue/letters',
  ['batch of letters is not all out', 'batches of letters are not all out'],
  true,
);

/** The pieces of a batch, in mailing order. */
export const piecesList = list({
  name: 'pieces',
  noun: ['piece', 'pieces'],
  permission: 'read accounts',
  station: 'Statements',
  path: '/statements/batches',
  from: sql`mail_piece p join household h on h.id = p.household_id left join patient a on a.id = p.patient_id`,
  within: (of) => sql`p.batch_id::text = ${of}`,
  household: sql`p.household_id`,
  id: sql`p.id`,
  columns: {
    number: number('No.', sql<number>`p.number`),
    account: words('Account', sql`h.number`),
    guarantor: words(
      'Guarantor',
      sql<string>`
        case
          when a.id is not null then a.last || ', ' || a.first || ' (confidential)'
          when p.joined <> '{}' then h.last || ', ' || h.first || ' +' || cardinality(p.joined)
          else h.last || ', ' || h.first
        end`,
    ),
    delivery: words('How', called('p.delivery', DELIVERIES)),
    state: words('State', called('p.status', PIECE_STATES)),
    said: words(
      'What became of it',
      sql<string>`
        case when p.why <> '' then p.why when p.outcome <> '' then ${called('p.outcome', OUTCOMES)} when p.status = 'draft' and piece_due(p) <> p.amount
        then 'changed since it was drafted' when p.status = 'sent' then p.sent_by else '' end`,
    ),
    dueDate: day('Due', sql`p.due_date`),
    amount: money('Amount due', sql`p.amount`),
    note: words('Note', sql`p.note`, { extra: true }),
    pages: number('Pages', sql<number>`coalesce(p.pages, 0)`, { extra: true }),
  },
  hidden: {
    kind: sql<PieceKind>`p.kind`,
    householdId: sql<number>`h.id`,
    status: sql<PieceState>`p.status`,
    way: sql<'mail' | 'print-shop' | 'email' | 'in-person'>`p.delivery`,
  },
  views: {
    all: { label: 'All' },
    draft: { label: 'Drafts', where: () => sql`p.status = 'draft'` },
    changed: {
      label: 'Changed',
      where: () => sql`p.status = 'draft' and piece_due(p) <> p.amount`,
    },
    made: { label: 'To go out', where: () => sql`p.status = 'made'` },
    sent: { label: 'Sent', where: () => sql`p.status = 'sent'` },
    failed: { label: 'Failed', where: () => sql`p.status = 'failed'` },
    out: { label: 'Taken out', where: () => sql`p.status in ('taken-out', 'void')` },
  },
  search: byHousehold,
  order: sql`p.number, p.id`,
});
