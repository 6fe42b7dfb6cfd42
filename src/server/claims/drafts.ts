/** Changing drafts as a whole: two made one, one made two, why one is late; and a claim that the payer says it does not have. */
import { sql } from 'kysely';
import { CLAIM_LIMITS } from '../../core/claims/build';
import { delayInput, mergeInput, notOnFileInput, splitInput } from '../../core/claims/input';
import { WAITING, isIn, isOurs, mayMove } from '../../core/claims/life';
import { counted } from '../../core/words';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { controlNumbers } from './build';
import { refreshClaims } from './check';
import { byUser, moveClaims } from './life';

/** Claims with what they would have to share to be one, locked after their households, in the order of their ids. */
async function lockDrafts(act: Act, claimIds: readonly number[]) {
  const ids = sql<number>`any(${[...claimIds]}::bigint[])`;
  const whose = await act.db
    .selectFrom('claim')
    .select('household_id')
    .distinct()
    .where('id', '=', ids)
    .execute();
  await lockHouseholds(
    act.db,
    whose.map(({ household_id }) => household_id).sort((a, b) => a - b),
  );
  const drafts = await act.db
    .selectFrom('claim')
    .selectAll()
    .where('id', '=', ids)
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  if (drafts.length < new Set(claimIds).size) throw new Refused('unknown', 'There is no such claim');
  for (const { status, replaces, control_number } of drafts) {
    if (!isOurs(status) || !mayMove(status, 'withdrawn') || status === 'rejected')
      throw new Refused(
        'state',
        `Claim ${control_number} was sent: only drafts are put together or taken apart`,
      );
    if (replaces !== null)
      throw new Refused(
        'state',
        `Claim ${control_number} stands in the place of another one and keeps its lines`,
      );
  }
  return drafts;
}

type Draft = Awaited<ReturnType<typeof lockDrafts>>[number];

/** What claims share that are one. */
const SHARED = {
  patient_id: 'of different people',
  case_id: 'of different cases',
  coverage_id: 'to different insurers',
  form: 'on different forms',
  provider_id: 'of different providers',
  location_id: 'of different sites',
} as const satisfies Partial<Record<keyof Draft, string>>;

/**
 * Makes one draft of several: the first keeps its number and has the lines of all by day, the others are withdrawn. @returns its id
 * @throws Refused where they are of different people, insurers, providers or sites, or too much for one form
 */
export const mergeClaims = useCase({
  name: 'merge claims',
  permission: 'work claims',
  input: mergeInput,
  async run(act, { claimIds }) {
    const tx = act.db;
    const drafts = await lockDrafts(act, claimIds);
    const [kept, ...others] = drafts;
    if (!kept || others.length === 0) throw new Refused('limit', 'Choose two claims');
    for (const [column, words] of Object.entries(SHARED))
      if (
        others.some((other) => other[column as keyof typeof SHARED] !== kept[column as keyof typeof SHARED])
      )
        throw new Refused('invalid', `These claims are ${words}: they stay apart`);
    const gone = others.map(({ id }) => id);
    const lines = await tx
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .select(['l.id', 'l.claim_id', 'l.charge_id', 'l.coverage_id', 'c.service_date', 'c.diagnoses'])
      .where('l.claim_id', 'in', [kept.id, ...gone])
      .where('l.current', '=', true)
      .orderBy('c.service_date')
      .orderBy('c.id')
      .execute();
    const { lines: most, diagnoses } = CLAIM_LIMITS[kept.form];
    if (lines.length > most)
      throw new Refused('limit', `A ${kept.form} claim holds ${most} lines; these have ${lines.length}`);
    const codes = new Set(lines.flatMap((line) => line.diagnoses));
    if (codes.size > diagnoses)
      throw new Refused(
        'limit',
        `A ${kept.form} claim holds ${diagnoses} diagnoses; these have ${codes.size}`,
      );
    await tx.updateTable('claim_line').set({ current: false }).where('claim_id', 'in', gone).execute();
    await moveClaims(
      tx,
      act,
      others,
      'withdrawn',
      byUser(act),
      `Put together with claim ${kept.control_number}`,
    );
    for (const { id } of others) await moveAnswered(act, id, kept.id);
    // Its own lines go beyond the others' numbers first, so that none is there twice meanwhile.
    await sql`update claim_line set number = number + 1000 where claim_id = ${kept.id}`.execute(tx);
    for (const [at, line] of lines.entries())
      if (line.claim_id === kept.id)
        await tx
          .updateTable('claim_line')
          .set({ number: at + 1 })
          .where('id', '=', line.id)
          .execute();
    await tx
      .insertInto('claim_line')
      .values(
        lines.flatMap((line, at) =>
          line.claim_id === kept.id
            ? []
            : [
                {
                  claim_id: kept.id,
                  number: at + 1,
                  charge_id: line.charge_id,
                  coverage_id: line.coverage_id,
                },
              ],
        ),
      )
      .execute();
    await tx
      .updateTable('claim')
      .set({ service_date: lines[0]!.service_date })
      .where('id', '=', kept.id)
      .execute();
    const words = `Put together with ${others.map(({ control_number }) => control_number).join(', ')}`;
    await moveClaims(tx, act, [kept], kept.status, byUser(act), words);
    await refreshClaims(tx, act, [kept.id]);
    await act.note('merged claims', { kind: 'claim', id: kept.id }, { claims: gone });
    return kept.id;
  },
});

/** What building one claim had answered is answered by another one. */
const moveAnswered = (act: Act, from: number, to: number) =>
  act.db.updateTable('follow_up').set({ answered_by: to }).where('answered_by', '=', from).execute();

/**
 * Makes a claim of its own of some lines of a draft. @returns its id
 * @throws Refused where nothing would be left on one of them
 */
export const splitClaim = useCase({
  name: 'split claim',
  permission: 'work claims',
  input: splitInput,
  async run(act, { claimId, lines: numbers }) {
    const tx = act.db;
    const [draft] = await lockDrafts(act, [claimId]);
    const lines = await tx
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .select(['l.id', 'l.number', 'c.service_date', 'c.billed'])
      .where('l.claim_id', '=', claimId)
      .where('l.current', '=', true)
      .orderBy('l.number')
      .execute();
    const chosen = lines.filter(({ number }) => numbers.includes(number));
    const left = lines.filter(({ number }) => !numbers.includes(number));
    if (!draft || chosen.length < new Set(numbers).size)
      throw new Refused('unknown', 'The claim has no such line');
    if (left.length === 0) throw new Refused('limit', 'One line stays on the claim');
    const { id, control_number: number } = await tx
      .insertInto('claim')
      .values({
        control_number: (await controlNumbers(tx, 1))[0]!,
        household_id: draft.household_id,
        patient_id: draft.patient_id,
        case_id: draft.case_id,
        coverage_id: draft.coverage_id,
        purpose: draft.purpose,
        position: draft.position,
        payer_id: draft.payer_id,
        location_id: draft.location_id,
        provider_id: draft.provider_id,
        form: draft.form,
        total: draft.total,
        service_date: chosen[0]!.service_date,
        delay_reason: draft.delay_reason,
      })
      .returning(['id', 'control_number'])
      .executeTakeFirstOrThrow();
    for (const [at, line] of chosen.entries())
      await tx
        .updateTable('claim_line')
        .set({ claim_id: id, number: at + 1 })
        .where('id', '=', line.id)
        .execute();
    for (const [at, line] of left.entries())
      await tx
        .updateTable('claim_line')
        .set({ number: at + 1 })
        .where('id', '=', line.id)
        .execute();
    await tx
      .updateTable('claim')
      .set({ service_date: left[0]!.service_date })
      .where('id', '=', claimId)
      .execute();
    const cause = byUser(act);
    await tx
      .insertInto('claim_event')
      .values({
        claim_id: id,
        business_date: act.today,
        status: 'draft',
        cause_kind: cause.kind,
        cause: cause.name,
        words: `${counted(chosen.length, 'line')} of claim ${draft.control_number}`,
      })
      .execute();
    await moveClaims(
      tx,
      act,
      [draft],
      draft.status,
      cause,
      `${counted(chosen.length, 'line')} went to claim ${number}`,
    );
    await refreshClaims(tx, act, [claimId, id]);
    await act.note('split claim', { kind: 'claim', id: claimId }, { into: id });
    return id;
  },
});

/** Says why a claim is late, or that it is not. @throws Refused when it was sent */
export const sayDelay = useCase({
  name: 'say delay',
  permission: 'work claims',
  input: delayInput,
  async run(act, { claimId, reason }) {
    const claim = await act.db
      .selectFrom('claim')
      .select(['id', 'status', 'delay_reason'])
      .where('id', '=', claimId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!claim) throw new Refused('unknown', 'There is no such claim');
    if (!isOurs(claim.status)) throw new Refused('state', 'A claim that was sent says what it said');
    if (claim.delay_reason === reason) return;
    await act.db.updateTable('claim').set({ delay_reason: reason }).where('id', '=', claimId).execute();
    await refreshClaims(act.db, act, [claimId]);
    await act.note('said delay', { kind: 'claim', id: claimId }, { reason });
  },
});

/**
 * Takes a claim back that the payer says it does not have: it is ours again, and is sent anew as an original.
 * @throws Refused unless it waits with the payer
 */
export const notOnFile = useCase({
  name: 'note not on file',
  permission: 'work claims',
  input: notOnFileInput,
  async run(act, { claimId, why }) {
    const claim = await act.db
      .selectFrom('claim')
      .select(['id', 'status'])
      .where('id', '=', claimId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!claim) throw new Refused('unknown', 'There is no such claim');
    if (!isIn(WAITING, claim.status))
      throw new Refused('state', 'Only a claim that waits with its payer can be unknown there');
    const words = `Not on file with the payer: ${why}`;
    await moveClaims(act.db, act, [claim], 'rejected', byUser(act), words, { holdReason: words });
    await refreshClaims(act.db, act, [claimId]);
    await act.note('noted not on file', { kind: 'claim', id: claimId }, { why });
  },
});
