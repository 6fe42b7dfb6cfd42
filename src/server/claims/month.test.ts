/**
 * A simulated month: visits of people with one insurer or two, three payers, some claims rejected by the clearinghouse, some denied, some
 * handed on by the payer itself. After it no claim is without a state, a next step or an end, and every second payer's claim balances.
 */
import { addDays } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  secondCoverage,
} from '../../testing/desk';
import { FULL } from '../../testing/runs';
import { foreign, otherForeign, transmission } from '../../testing/x12';
import { inTransaction } from '../use-case';
import { startWork } from '../jobs/work';
import { doWork } from '../../testing/desk';
import { addCoverage } from '../accounts/coverage';
import { moveClaims } from './life';
import { claimText, readClaim } from './read';
import { sendClaims } from './send';

const t = fileDatabase();
/** All of them where volumes run whole; each tenth else. */
const CLAIMS = FULL ? 500 : 50;

/** The remainder of a claim by what is said of it, by own arithmetic: line = paid + adjusted of each payer before. */
function balances({ lines, total, otherPayers = [], coverageOrder }: ClaimContent): boolean {
  return otherPayers
    .filter((other) => other.coverageOrder < coverageOrder)
    .every(({ decided: word }) => {
      if (!word) return false;
      const byLine = lines.every(({ number, charge: fee }) => {
        let of = 0;
        for (const one of word.lines)
          if (one.number === number) {
            of += one.paid;
            for (const { amount } of one.adjustments) of += amount;
          }
        return of === fee;
      });
      let all = word.paid as number;
      for (const { amount } of word.adjustments) all += amount;
      for (const one of word.lines) for (const { amount } of one.adjustments) all += amount;
      return byLine && all === total;
    });
}

/** Cents of an amount as a file has it. */
const inCents = (text: string | undefined): number => Math.round(Number(text) * 100);

/** Whether the segments of a claim balance, whoever read them: each line = SVD02 + its CAS, AMT*D = all SVD02, CLM02 = all lines. */
function balancesOnTheWire(segments: readonly (readonly string[])[]): boolean {
  let [total, told, lines, paid, line, decided, open] = [0, 0, 0, 0, 0, 0, false];
  let holds = true;
  const close = (): void => {
    if (open && decided !== line) holds = false;
    open = false;
  };
  for (const [tag, ...e] of segments) {
    if (tag === 'CLM') total = inCents(e[1]);
    else if (tag === 'AMT' && e[0] === 'D') told += inCents(e[1]);
    else if (tag === 'SV1') {
      close();
      line = inCents(e[1]);
      lines += line;
    } else if (tag === 'SVD') {
      close();
      open = true;
      decided = inCents(e[1]);
      paid += decided;
    } else if (tag === 'CAS' && open)
      for (let at = 2; at < e.length; at += 3) decided += inCents(e[at] ?? '0');
  }
  close();
  return holds && total === lines && told === paid;
}

const evening = async (): Promise<void> => {
  await inTransaction(t.context, (act) => startWork(act, 'claims of the evening', {}));
  await doWork(t);
};

/** The last sent claims that wait, with their lines. */
const waiting = () =>
  t.db
    .selectFrom('claim as m')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .select([
      'm.id',
      'm.control_number as number',
      'm.position',
      'm.status',
      'y.name as payer',
      'y.payer_id as code',
    ])
    .where('m.status', '=', 'sent')
    .orderBy('m.id')
    .execute();

/** What a payer says of a claim: the first allows two thirds and leaves a part, the next pays half of what is left; every twelfth is denied. */
async function answerOf(claim: { id: number; number: string; position: number }, at: number) {
  const { content } = await readClaim(t.context, claim.id);
  const denied = at % 12 === 5;
  const before = content.otherPayers?.find(
    ({ coverageOrder }) => coverageOrder < content.coverageOrder,
  )?.decided;
  const lines = content.lines.map(({ control, charge: fee, number, code }) => {
    if (denied) return { control, code, charge: fee, paid: 0, reasons: [`CO-16:${(fee / 100).toFixed(2)}`] };
    const told = before?.lines.find((one) => one.number === number);
    const left = told
      ? told.adjustments.filter(({ group }) => group === 'PR').reduce((all, { amount }) => all + amount, 0)
      : Math.floor(fee / 3);
    const off = told ? fee - left : Math.floor(fee / 4);
    const paid = told ? Math.floor(left / 2) : fee - off - left;
    return {
      control,
      code,
      charge: fee,
      paid,
      reasons: [
        `${told ? 'OA-23' : 'CO-45'}:${(off / 100).toFixed(2)}`,
        `PR-2:${((fee - off - paid) / 100).toFixed(2)}`,
      ],
    };
  });
  const status = denied ? '4' : claim.position === 2 ? '2' : at % 9 === 2 ? '19' : '1';
  return decided(claim.number, lines, status);
}

test('after a month no claim is lost, and every second payer’s claim balances', async () => {
  const others = await t.db
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select(({ fn }) => ['y.name', fn.min('n.id').as('id')])
    .where('y.name', 'not in', ['Cedar Sound Health', 'Ironwood Casualty'])
    .groupBy('y.name')
    .orderBy('y.name')
    .execute();
  expect(others.length).toBeGreaterThan(1);
  for (let at = 0; at < CLAIMS; at += 1) {
    const { patientId } = await household(t, true);
    if (at % 3 === 0) {
      if (at % 4 === 0) await secondCoverage(t, patientId);
      else
        await addCoverage(t.context, {
          patientId,
          insurancePlanId: others[at % 2]!.id,
          memberId: `THIRD${1000 + at}`,
          position: 2,
          key: `month-second-${at}`,
        });
    }
    await charge(t, t.context, patientId, `${100 + (at % 50)}.00`, '99213', addDays(TODAY, -(at % 20)));
  }
  for (let week = 0; week < 4; week += 1) {
    await evening();
    await sendClaims(t.context, {});
    const sent = await waiting();
    // One in twenty is refused by the clearinghouse; it is mended and sent again.
    const refused = sent.filter((_, at) => at % 20 === 7);
    await inTransaction(t.context, (act) =>
      moveClaims(act.db, act, refused, 'rejected', { kind: 'file', name: 'month' }, 'Rejected', {
        holdReason: 'member id',
      }),
    );
    if (refused.length > 0) await sendClaims(t.context, { claimIds: refused.map(({ id }) => id) });
    const answers = new Map<string, Awaited<ReturnType<typeof answerOf>>[]>();
    for (const [at, claim] of sent.entries()) {
      const key = `${claim.payer}|${claim.code}`;
      answers.set(key, [...(answers.get(key) ?? []), await answerOf(claim, at + week)]);
    }
    for (const [key, claims] of answers) {
      const [name = '', id = ''] = key.split('|');
      await postedRemittance(t, claims, { payer: { name, id } });
    }
  }
  await evening();
  const claims = await t.db.selectFrom('claim').select(['id', 'status', 'position', 'content']).execute();
  expect(claims.length).toBeGreaterThan(CLAIMS);
  const later = claims.filter(({ position }) => position === 2);
  expect(later.length).toBeGreaterThan(CLAIMS / 10);
  for (const { id } of later) {
    const claim = await readClaim(t.context, id);
    expect(balances(claim.content)).toBe(true);
    // Two other programs read the same, and it balances as they read it.
    const text = (await claimText(t.context, claim)).replaceAll('\n', '');
    const file = text.includes('IEA*') ? text : transmission('professional', [claim.content]);
    const one = await foreign(file);
    const other = otherForeign(file);
    expect(other.map(([tag]) => tag)).toEqual(
      one.map(({ name }) => name).filter((name) => !['ISA', 'GS', 'ST', 'SE', 'GE', 'IEA'].includes(name!)),
    );
    expect(balancesOnTheWire(other)).toBe(true);
  }
  // What waits with a payer is on a current claim of it, and what a claim waits for is followed or on a list.
  const { rows: lost } = await t.pool.query(`
    select b.charge_id
    from payer_balance b
      join charge c on c.id = b.charge_id
    where b.with_payer > 0
      and not exists (
        select from claim_line l where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
      )`);
  expect(lost).toEqual([]);
  const { rows: stuck } = await t.pool.query(`
    select m.id, m.status
    from claim m
    where m.status not in ('closed', 'withdrawn', 'ready', 'sent', 'accepted')
      and not (m.status = 'decided' and exists (
        select from follow_up f join claim_line l on l.charge_id = f.charge_id
        where l.claim_id = m.id and f.closed_at is null
      ))`);
  expect(stuck).toEqual([]);
  const { rows: asked } = await t.pool.query(
    `select f.id from follow_up f where f.kind = 'next-payer' and f.closed_at is null`,
  );
  expect(asked).toEqual([]);
  expect(await brokenInvariants(t)).toEqual([]);
});
