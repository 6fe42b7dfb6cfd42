/**
 * Households that are closed to all but named users: one condition for lists, the search, titles and whoever reads of a
 * household. What they owe counts in every sum; of themselves only that they are there is told.
 */
import { type RawBuilder, sql } from 'kysely';
import { CLOSED_ACCOUNT } from '../core/reports/lists';
import { type Context, NotAllowed, Refused } from './access';

/** Whether a household is closed to who asks; work in the background knows all of them. @param household its id in a query, null for none */
export const isClosed = (
  { user, background }: Pick<Context, 'user' | 'background'>,
  household: RawBuilder<unknown>,
): RawBuilder<boolean> =>
  background
    ? sql<boolean>`false`
    : sql<boolean>`
      coalesce(
        ${household} in (
          select o.household_id
          from household_open_to o
          group by o.household_id
          having not bool_or(o.user_id = ${user.id})
        ),
        false
      )`;

/** Fields of what is asked that name a thing of a household, by the kinds of the audit trail. */
export const NAMING: Readonly<Record<string, string>> = {
  householdId: 'household',
  householdIds: 'household',
  intoHouseholdId: 'household',
  patientId: 'patient',
  intoPatientId: 'patient',
  caseId: 'case',
  fromCaseId: 'case',
  coverageId: 'coverage',
  authorizationId: 'authorization',
  optionId: 'treatment option',
  estimateId: 'treatment estimate',
  chargeId: 'charge',
  chargeIds: 'charge',
  claimId: 'claim',
  claimIds: 'claim',
  remittanceClaimId: 'remittance claim',
  keyedClaimId: 'keyed claim',
  followUpId: 'follow-up',
  receiptId: 'receipt',
  tenderId: 'tender',
  refundRequestId: 'refund request',
  creditLetterId: 'credit letter',
  attemptId: 'attempt',
  toHouseholdId: 'household',
  fromHouseholdId: 'household',
  expectedVisitId: 'expected visit',
  entryId: 'entry',
  planId: 'payment plan',
  placementId: 'placement',
  placementIds: 'placement',
  pieceIds: 'mail piece',
  noteId: 'note',
  noteIds: 'note',
  stopId: 'stop',
  contactId: 'contact',
  promiseId: 'promise',
  paymentId: 'agency payment',
  hardshipId: 'hardship',
};

const notAllowed = (): NotAllowed =>
  new NotAllowed('This account is closed to all but the people who are named for it: ask a manager');

/** Things of households that are named in what is asked, also within its parts. */
function namedIn(asked: unknown): { kind: string; id: string }[] {
  if (typeof asked !== 'object' || asked === null) return [];
  return Object.entries(asked).flatMap(([field, value]: [string, unknown]) => {
    const kind = Object.hasOwn(NAMING, field) ? NAMING[field] : undefined;
    if (kind === undefined) return namedIn(value);
    return [value ?? []].flat().map((id) => ({ kind, id: String(id) }));
  });
}

/**
 * Makes sure that nothing that is asked about is of a household that is closed to who asks; what it names is known by the names
 * of its fields. Every use case and every reader of one household comes by here. One query, none where nothing is named.
 * @throws NotAllowed, or Refused where an account is named that was merged into another one
 */
export async function allowOpen(context: Context, asked: unknown): Promise<void> {
  if (context.background) return;
  const named = namedIn(asked);
  if (named.length === 0) return;
  const { rows } = await sql<{
    closed: boolean;
    merged: { from: string; id: number; number: string } | null;
  }>`
    select case
      when not exists (select from household_open_to) then false
      else exists (
        select
        from
          unnest(
            ${named.map(({ kind }) => kind)}::text[],
            ${named.map(({ id }) => id)}::text[]
          ) n (kind, id),
          whose(n.kind, n.id) w
        where ${isClosed(context, sql`w.of_household`)}
      )
    end as closed,
      (
        select json_build_object('from', h.number, 'id', o.id, 'number', o.number)
        from household h
          join household o on o.id = h.merged_into
        where h.id = any(${named.flatMap(({ kind, id }) => (kind === 'household' && /^\d{1,15}$/.test(id) ? Number(id) : []))}::bigint[])
        limit 1
      ) as merged`.execute(context.db);
  const { closed, merged } = rows[0]!;
  if (closed) throw notAllowed();
  if (merged)
    throw new Refused('state', `${merged.from} was merged into ${merged.number}: open that account`, {
      facts: { merged_into: merged.id, number: merged.number },
    });
}

/** Which of households are closed to who asks. One query. */
export async function closedOf(context: Context, ids: readonly number[]): Promise<ReadonlySet<number>> {
  const { rows } = await sql<{ id: number }>`
    select h.id from unnest(${[...new Set(ids)]}::bigint[]) h (id) where ${isClosed(context, sql`h.id`)}`.execute(
    context.db,
  );
  return new Set(rows.map(({ id }) => id));
}

/** Rows of households as who asks may see them: of what is closed to them, only what `kept` leaves. One query. */
export async function withheld<Row extends { householdId: number; account: string; name: string }>(
  context: Context,
  rows: readonly Row[],
  kept: (row: Row) => Row,
): Promise<(Row & { closed: boolean })[]> {
  const closed = await closedOf(
    context,
    rows.map(({ householdId }) => householdId),
  );
  return rows.map((row) =>
    closed.has(row.householdId)
      ? { ...kept(row), account: '', name: CLOSED_ACCOUNT, closed: true }
      : { ...row, closed: false },
  );
}

/**
 * Notes that something was read, once it is sure that who asks may; whoever reads of one household comes by here before
 * anything is told. One query.
 * @param subject what was read: a household, or something of one
 * @param action what was done, as the audit trail says it
 * @throws NotAllowed when its household is closed to who asks
 */
export async function opened(
  context: Context,
  subject: { kind: string; id: string | number },
  action = 'read',
): Promise<void> {
  const { user, from, db } = context;
  const { rows } = await sql`
    insert into audit (user_id, session_id, address, action, subject_kind, subject_id, detail)
    select ${user.id}, ${from?.session ?? ''}, ${from?.address ?? ''}, ${action}, ${subject.kind}, ${String(subject.id)}, '{}'
    from whose(${subject.kind}, ${String(subject.id)}) w
    where not ${isClosed(context, sql`w.of_household`)}
    returning id`.execute(db);
  if (rows.length === 0) throw notAllowed();
}
