/** Correcting a claim as a whole, on the draft that takes its place: who did it and where, lines left out and added, and telling it without a file. */
import { sql } from 'kysely';
import { CLAIM_LIMITS } from '../../core/claims/build';
import { addLinesInput, correctInput, lineInput, toldByHandInput } from '../../core/claims/input';
import { isOurs } from '../../core/claims/life';
import { counted } from '../../core/words';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { decidedOn } from '../books/decided';
import { noteContract } from '../estimates/door';
import { type Act, useCase } from '../use-case';
import { refreshClaims } from './check';
import { byUser, moveClaims } from './life';
import { closeAnswered, lockClaim } from './replace';

/** Lines that are left out stand behind all others. */
const LEFT_OUT = 900;

/** A draft that corrects or is sent anew, locked after its household. @throws Refused for any other claim */
async function lockCorrection(act: Act, claimId: number) {
  const claim = await lockClaim(act, claimId);
  if (claim.replaces === null || claim.frequency === '8')
    throw new Refused('state', 'Only on a claim that corrects another one is it put right as a whole');
  if (!isOurs(claim.status)) throw new Refused('state', 'This claim was sent: what it says stays as it is');
  return claim;
}

/** Numbers the lines of a claim anew, in their order; those left out behind the others. */
async function number(tx: Tx, claimId: number): Promise<void> {
  const lines = await tx
    .selectFrom('claim_line')
    .select(['id', 'left_out'])
    .where('claim_id', '=', claimId)
    .orderBy('number')
    .orderBy('id')
    .execute();
  await sql`update claim_line set number = number + 10000 where claim_id = ${claimId}`.execute(tx);
  for (const out of [false, true])
    for (const [at, { id }] of lines.filter(({ left_out }) => left_out === out).entries())
      await tx
        .updateTable('claim_line')
        .set({ number: (out ? LEFT_OUT : 0) + at + 1 })
        .where('id', '=', id)
        .execute();
}

/**
 * Puts right who did what a claim bills, and where, on the claim that corrects it. What moved until now counted for who stood there, and
 * goes over to the right one today; what payers decided and patients paid stays as it is.
 * @throws Refused where nothing changes, or the provider is not there
 */
export const correctProvider = useCase({
  name: 'correct provider',
  permission: 'work claims',
  input: correctInput,
  async run(act, { claimId, providerId, locationId }) {
    const tx = act.db;
    const claim = await lockCorrection(act, claimId);
    const provider = await tx
      .selectFrom('provider')
      .select(['id', 'location_id', 'last', 'first'])
      .where('id', '=', providerId)
      .executeTakeFirst();
    if (!provider) throw new Refused('unknown', 'There is no such provider', 'providerId');
    const site = locationId ?? provider.location_id;
    const location = await tx
      .selectFrom('location')
      .select(['id', 'name'])
      .where('id', '=', site)
      .executeTakeFirst();
    if (!location) throw new Refused('unknown', 'There is no such site', 'locationId');
    if (claim.provider_id === provider.id && claim.location_id === site)
      throw new Refused('already', 'It says so already', 'providerId');
    const charges = await tx
      .selectFrom('charge as c')
      .innerJoin('claim_line as l', 'l.charge_id', 'c.id')
      .select(['c.id', 'c.provider_id', 'c.location_id'])
      .where('l.claim_id', '=', claimId)
      .where('l.left_out', '=', false)
      .orderBy('c.id')
      .forNoKeyUpdate('c')
      .execute();
    const ids = charges.map(({ id }) => id);
    await sql`
      insert into charge_change (charge_id, provider_id, location_id, after_entry, last_entry, on_day, claim_id)
      select c.id, c.provider_id, c.location_id,
        coalesce((select max(h.last_entry) from charge_change h where h.charge_id = c.id), 0),
        (select coalesce(max(e.id), 0) from entry e), ${act.today}::date, ${claimId}
      from charge c
      where c.id = any(${ids}::bigint[])`.execute(tx);
    await tx
      .updateTable('charge')
      .set({ provider_id: provider.id, location_id: site })
      .where('id', '=', sql<number>`any(${ids}::bigint[])`)
      .execute();
    await tx
      .updateTable('claim')
      .set({ provider_id: provider.id, location_id: site })
      .where('id', '=', claimId)
      .execute();
    await noteContract(tx, act, ids);
    const words = `Done by ${provider.first} ${provider.last}, ${location.name}`;
    await moveClaims(tx, act, [claim], claim.status, byUser(act), words);
    await refreshClaims(tx, act, [claimId]);
    for (const id of ids) await act.note('changed', { kind: 'charge', id }, { provider: provider.id, site });
  },
});

/**
 * Leaves a line out of a correction: the payer is not told of it any more. Once what the payer has decided of it is taken back it is on no
 * claim, and somebody voids it or bills it otherwise.
 * @throws Refused when it is the last line, or not there
 */
export const leaveOutLine = useCase({
  name: 'leave out line',
  permission: 'work claims',
  input: lineInput,
  async run(act, { claimId, line }) {
    const claim = await lockCorrection(act, claimId);
    const lines = await act.db
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .select(['l.id', 'l.number', 'c.code'])
      .where('l.claim_id', '=', claimId)
      .where('l.left_out', '=', false)
      .execute();
    const one = lines.find((item) => item.number === line);
    if (!one) throw new Refused('unknown', 'The claim has no such line');
    if (lines.length === 1)
      throw new Refused('limit', 'It is the only line: void the claim with the payer instead');
    await act.db.updateTable('claim_line').set({ left_out: true }).where('id', '=', one.id).execute();
    await afterLines(act, claim, `${one.code} is left out`);
    await act.note('left out line', { kind: 'claim', id: claimId }, { line });
  },
});

/** Puts a line that was left out back on the correction. @throws Refused when it is not there */
export const putBackLine = useCase({
  name: 'put back line',
  permission: 'work claims',
  input: lineInput,
  async run(act, { claimId, line }) {
    const claim = await lockCorrection(act, claimId);
    const one = await act.db
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .select(['l.id', 'c.code'])
      .where('l.claim_id', '=', claimId)
      .where('l.number', '=', line)
      .where('l.left_out', '=', true)
      .executeTakeFirst();
    if (!one) throw new Refused('unknown', 'The claim has no such line');
    await act.db.updateTable('claim_line').set({ left_out: false }).where('id', '=', one.id).execute();
    await afterLines(act, claim, `${one.code} is on it again`);
    await act.note('put back line', { kind: 'claim', id: claimId }, { line });
  },
});

/**
 * Adds done services that are on no claim to a correction, as further lines.
 * @throws Refused when they are of another person, case, insurer, form, provider or site, are on a claim, or are too many
 */
export const addLines = useCase({
  name: 'add lines',
  permission: 'work claims',
  input: addLinesInput,
  async run(act, { claimId, chargeIds }) {
    const tx = act.db;
    const claim = await lockCorrection(act, claimId);
    const fitting = await addable(tx, claim);
    const chosen = fitting.filter(({ id }) => chargeIds.includes(id));
    if (chosen.length < new Set(chargeIds).size)
      throw new Refused(
        'invalid',
        'Only a done service of the same person, case, insurer, provider and site that is on no claim can be added',
        'chargeIds',
      );
    const { n, most } = await tx
      .selectFrom('claim_line')
      .select(({ fn }) => [fn.countAll<number>().as('n'), fn.max('number').as('most')])
      .where('claim_id', '=', claimId)
      .where('left_out', '=', false)
      .executeTakeFirstOrThrow();
    if (n + chosen.length > CLAIM_LIMITS[claim.form].lines)
      throw new Refused('limit', `A ${claim.form} claim holds ${CLAIM_LIMITS[claim.form].lines} lines`);
    await tx
      .insertInto('claim_line')
      .values(
        chosen.map(({ id }, at) => ({
          claim_id: claimId,
          number: most + at + 1,
          charge_id: id,
          coverage_id: claim.coverage_id,
        })),
      )
      .execute();
    await afterLines(act, claim, `${counted(chosen.length, 'line')} added`);
    await act.note('added lines', { kind: 'claim', id: claimId }, { charges: chosen.map(({ id }) => id) });
  },
});

/** A service that can be added to a correction. Fee in cents. */
export interface Addable {
  id: number;
  date: string;
  code: string;
  description: string;
  billed: number;
}

/** Done services that wait with the payer of a correction and fit on it. */
export const addable = (
  tx: Pick<Tx, 'selectFrom'>,
  claim: {
    patient_id: number;
    case_id: number;
    coverage_id: number;
    form: string;
    provider_id: number;
    location_id: number;
  },
): Promise<Addable[]> =>
  tx
    .selectFrom('charge as c')
    .innerJoin('payer_balance as b', (join) =>
      join.onRef('b.charge_id', '=', 'c.id').on('b.coverage_id', '=', claim.coverage_id),
    )
    .select(['c.id', 'c.service_date as date', sql<string>`c.code`.as('code'), 'c.description', 'c.billed'])
    .where('c.status', '=', 'done')
    .where('c.kind', '=', 'service')
    .where('b.with_payer', '>', sql<never>`0`)
    .where('c.patient_id', '=', claim.patient_id)
    .where('c.case_id', '=', claim.case_id)
    .where('c.form', '=', sql<never>`${claim.form}`)
    .where('c.provider_id', '=', claim.provider_id)
    .where('c.location_id', '=', claim.location_id)
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('claim_line as l')
            .select('l.id')
            .whereRef('l.charge_id', '=', 'c.id')
            .where('l.coverage_id', '=', claim.coverage_id)
            .where('l.bills', '=', true),
        ),
      ),
    )
    .orderBy('c.service_date')
    .orderBy('c.id')
    .execute();

/** What follows when a correction has other lines. */
async function afterLines(
  act: Act,
  claim: Awaited<ReturnType<typeof lockCorrection>>,
  words: string,
): Promise<void> {
  await number(act.db, claim.id);
  await moveClaims(act.db, act, [claim], claim.status, byUser(act), words);
  await refreshClaims(act.db, act, [claim.id]);
}

/**
 * What was left out of corrections that went is on no claim any more, once nothing stands of what the payer decided of it: somebody voids
 * it or bills it otherwise.
 */
export async function freeLeftOut(
  tx: Tx,
  context: Context,
  of: { chargeIds: readonly number[] } | { claimIds: readonly number[] },
): Promise<void> {
  const { rows } = await sql<{ line: number; id: number; code: string }>`
    select l.id as line, m.id, c.code
    from claim_line l
      join claim m on m.id = l.claim_id
      join charge c on c.id = l.charge_id
    where l.left_out
      and l.current
      and m.status in ('sent', 'accepted', 'decided', 'closed')
      and ${'claimIds' in of ? sql`m.id = any(${[...of.claimIds]}::bigint[])` : sql`l.charge_id = any(${[...of.chargeIds]}::bigint[])`}
      and not exists (
        select
        from claim t
          cross join lateral ${decidedOn(sql`l.charge_id`, sql<number>`t.coverage_id`)} s
        where t.id = m.id and (coalesce(s.paid, 0), coalesce(s.reduced, 0), coalesce(s.passed_on, 0)) <> (0, 0, 0)
      )
    order by l.id`.execute(tx);
  for (const { line, id, code } of rows) {
    await tx.updateTable('claim_line').set({ current: false }).where('id', '=', line).execute();
    const { status } = await tx
      .selectFrom('claim')
      .select('status')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    await moveClaims(
      tx,
      context,
      [{ id, status }],
      status,
      { kind: 'rule', name: 'left out' },
      `${code}, which was left out, is on no claim any more: void it or bill it otherwise`,
    );
  }
}

/**
 * Notes that a correction or a void was told to the payer by telephone or form, which takes neither in a file.
 * @throws Refused when the payer takes them in files, or something stops the claim
 */
export const toldByHand = useCase({
  name: 'tell by hand',
  permission: 'work claims',
  input: toldByHandInput,
  async run(act, { claimId, why }) {
    const tx = act.db;
    const claim = await tx
      .selectFrom('claim as m')
      .innerJoin('payer as y', 'y.id', 'm.payer_id')
      .select(['m.id', 'm.status', 'm.frequency', 'm.hold_reason', 'y.corrections', 'y.name'])
      .where('m.id', '=', claimId)
      .forNoKeyUpdate('m')
      .executeTakeFirst();
    if (!claim) throw new Refused('unknown', 'There is no such claim');
    if (!isOurs(claim.status)) throw new Refused('state', 'This claim was sent');
    if (claim.frequency === '1' || claim.corrections === 'replaced')
      throw new Refused('state', `${claim.name} takes this claim in a file: send it`);
    const [checked] = await refreshClaims(tx, act, [claimId]);
    const stop = checked!.findings.find(
      ({ severity, rule }) => severity === 'stop' && rule !== 'payer-corrections',
    );
    if (stop) throw new Refused('state', `It cannot be told as it is: ${stop.words}`);
    const steps = {
      draft: ['ready', 'sent'],
      held: ['draft', 'ready', 'sent'],
      ready: ['sent'],
      rejected: ['sent'],
    } as const;
    let status = checked!.status;
    for (const to of steps[status as keyof typeof steps] ?? []) {
      await moveClaims(
        tx,
        act,
        [{ id: claimId, status }],
        to,
        byUser(act),
        `Told by telephone or form: ${why}`,
        {
          holdReason: '',
          ...(to === 'sent' ? { sentBy: 'telephone', sentDate: act.today } : {}),
        },
      );
      status = to;
    }
    await closeAnswered(act, [claimId]);
    await freeLeftOut(tx, act, { claimIds: [claimId] });
    await act.note('told by hand', { kind: 'claim', id: claimId }, { why });
  },
});
