/** Asking payers for what their contracts say: letters with their lists, what came back of them, and differences that are let be. */
import { sql } from 'kysely';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import { type Cents, formatMoneyPlain, minus } from '../../core/money';
import {
  type LetterLine,
  askedFor,
  contractLetterDocument,
  contractLetterInput,
  contractLetterWords,
  letBeInput,
  lookAgainInput,
} from '../../core/remittances/contract-letter';
import { counted } from '../../core/words';
import { type Context, Refused, allow, audit } from '../access';
import { allowOpen } from '../closed';
import { day, list, money, number, textLike, words } from '../lists/list';
import { noteBeside } from '../notes/notes';
import { addressWindow, factsBeside, heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';
import { type Act, useCase } from '../use-case';
import { type ContractLine, readContractLines } from './contract-check';

const m = formatMoneyPlain;

/** Days that a payer has to answer a letter, and until which the follow-ups of its lines rest. */
const ANSWER_DAYS = 30;

type Named = readonly { chargeId: number; coverageId: number }[];

/** Lines that are named, as they stand now; their charges are locked. @throws Refused where one of them differs no more */
async function linesNamed(act: Act, named: Named, payerId: number | null): Promise<ContractLine[]> {
  const { rows } = await sql<{ service_date: CalendarDate }>`
    select service_date from charge where id = any(${named.map(({ chargeId }) => chargeId)}::bigint[])
    order by id for no key update`.execute(act.db);
  const days = rows.map((row) => row.service_date).toSorted();
  const [from, to] = [days[0], days.at(-1)];
  const there =
    from === undefined || to === undefined ? [] : await readContractLines(act, { from, to, payerId });
  const byKey = new Map(there.map((line) => [`${line.chargeId}/${line.coverageId}`, line]));
  const keys = [...new Set(named.map(({ chargeId, coverageId }) => `${chargeId}/${coverageId}`))];
  const found = keys.flatMap((key) => byKey.get(key) ?? []);
  if (found.length < keys.length)
    throw new Refused(
      'state',
      `${counted(keys.length - found.length, 'line differs', 'lines differ')} from the contract no more, or went to another payer: look again`,
      'lines',
    );
  return found;
}

/** Asks a payer by letter for what its contract says of some lines; their follow-ups rest until it has had time to answer. @returns the letter */
export const writeContractLetter = useCase({
  name: 'write contract letter',
  permission: 'work follow-ups',
  input: contractLetterInput,
  once: (data) => data.key,
  async run(act, { payerId, lines: named }): Promise<number> {
    const [practice, payer] = await Promise.all([
      act.db.selectFrom('practice').selectAll().executeTakeFirst(),
      act.db.selectFrom('payer').selectAll().where('id', '=', payerId).executeTakeFirst(),
    ]);
    if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
    if (!payer) throw new Refused('unknown', 'There is no such payer', 'payerId');
    const lines = await linesNamed(act, named, payerId);
    const over = lines.find(({ allowed, expected }) => allowed >= expected);
    if (over)
      throw new Refused(
        'state',
        `Claim ${over.claim}, ${over.code}: it was allowed more than the contract says, nothing can be asked for`,
        'lines',
      );
    const rests = lines.find(({ letBe }) => letBe !== '');
    if (rests)
      throw new Refused(
        'state',
        `Claim ${rests.claim}, ${rests.code}: it is let be (${rests.letBe}); look at it again first`,
        'lines',
      );
    const answerBy = addDays(act.today, ANSWER_DAYS);
    const { id } = await act.db
      .insertInto('contract_letter')
      .values({
        payer_id: payerId,
        date: act.today,
        user_name: act.user.name,
        content: contractLetterDocument.write({
          paper: practice.paper,
          practice: {
            name: practice.name,
            line1: practice.line1,
            line2: '',
            city: practice.city,
            state: practice.state,
            zip: practice.zip,
            phone: practice.phone,
            npi: practice.npi,
          },
          to: {
            name: payer.claim_name || payer.name,
            line1: payer.line1,
            line2: payer.line2,
            city: payer.city,
            state: payer.state,
            zip: payer.zip,
          },
          date: act.today,
          answerBy,
          lines: lines.map((line): LetterLine => ({
            claim: line.claim,
            payerClaim: line.payerClaim,
            patient: line.patient,
            memberId: line.memberId,
            serviceDate: line.serviceDate,
            code: line.code,
            units: line.units,
            charge: line.charge,
            expected: line.expected,
            allowed: line.allowed,
            pays: line.pays,
            paid: line.paid,
            cause: line.cause.words,
          })),
        }),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.db
      .insertInto('contract_letter_line')
      .values(
        lines.map((line) => ({
          letter_id: id,
          charge_id: line.chargeId,
          coverage_id: line.coverageId,
          expected: line.expected,
          allowed: line.allowed,
          pays: line.pays,
          paid: line.paid,
        })),
      )
      .execute();
    const { rows } = await sql<{ id: number; household_id: number }>`
      update follow_up f set due_date = greatest(f.due_date, ${answerBy}::date)
      from contract_letter_line l
      where l.letter_id = ${id}
        and f.charge_id = l.charge_id
        and f.coverage_id = l.coverage_id
        and f.kind = 'short-payment'
        and f.closed_at is null
      returning f.id, f.household_id`.execute(act.db);
    for (const row of rows)
      await noteBeside(
        act,
        { follow_up_id: row.id, household_id: row.household_id },
        `${payer.name} was asked by letter; an answer by ${formatDate(answerBy)}`,
      );
    await act.note(
      'wrote to payer',
      { kind: 'payer', id: payerId },
      { lines: lines.length, asked: m(askedFor(lines)) },
    );
    return id;
  },
});

/** Lets differences be: they are looked at no more, and their follow-ups for it end. @returns how many lines */
export const letContractLinesBe = useCase({
  name: 'let contract lines be',
  permission: 'work follow-ups',
  input: letBeInput,
  async run(act, { lines: named, why }): Promise<number> {
    const lines = (await linesNamed(act, named, null)).filter(({ letBe }) => letBe === '');
    if (lines.length === 0) throw new Refused('already', 'They are let be already', 'lines');
    await act.db
      .insertInto('contract_let_be')
      .values(
        lines.map(({ chargeId, coverageId }) => ({
          charge_id: chargeId,
          coverage_id: coverageId,
          why,
          date: act.today,
          user_name: act.user.name,
        })),
      )
      .execute();
    const { rows } = await sql<{ id: number; household_id: number }>`
      update follow_up f set closed_at = desk_now(), outcome = ${why}, owner = ${act.user.name}
      from unnest(
        ${lines.map(({ chargeId }) => chargeId)}::bigint[], ${lines.map(({ coverageId }) => coverageId)}::bigint[]
      ) l (charge_id, coverage_id)
      where f.charge_id = l.charge_id
        and f.coverage_id = l.coverage_id
        and f.kind = 'short-payment'
        and f.closed_at is null
      returning f.id, f.household_id`.execute(act.db);
    for (const row of rows)
      await noteBeside(act, { follow_up_id: row.id, household_id: row.household_id }, why);
    await act.note('let be', { kind: 'payer', id: lines[0]!.payerId }, { lines: lines.length, why });
    return lines.length;
  },
});

/** Looks again at differences that were let be. @returns how many lines */
export const lookAgainAtContractLines = useCase({
  name: 'look again at contract lines',
  permission: 'work follow-ups',
  input: lookAgainInput,
  async run(act, { lines }): Promise<number> {
    const { rows } = await sql<{ id: number }>`
      update contract_let_be e set ended_on = ${act.today}::date
      from unnest(
        ${lines.map(({ chargeId }) => chargeId)}::bigint[], ${lines.map(({ coverageId }) => coverageId)}::bigint[]
      ) l (charge_id, coverage_id)
      where e.charge_id = l.charge_id and e.coverage_id = l.coverage_id and e.ended_on is null
      returning e.id`.execute(act.db);
    if (rows.length === 0) throw new Refused('already', 'None of these is let be', 'lines');
    await act.note('looked again', { kind: 'report', id: 'contract check' }, { lines: rows.length });
    return rows.length;
  },
});

/** What stands as paid by the payer of a letter's line now: by its decisions, on whichever claim. */
const PAID_NOW = sql`
  (
    select coalesce(sum(p.amount), 0)
    from posting p
      join book_account r on r.code = p.account
      join claim x on x.id = p.claim_id
    where p.charge_id = l.charge_id
      and x.coverage_id = l.coverage_id
      and (r.class = 'cash' or p.account = 'credit/payer')
      and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
  )`;

/** Letters to payers, with what was asked for and what came of it since. */
export const contractLettersList = list({
  name: 'contract-letters',
  noun: ['letter', 'letters'],
  permission: 'read remittances',
  station: 'Remittances',
  path: '/remittances/contract/letters',
  from: sql`
    contract_letter w
      join payer y on y.id = w.payer_id
      cross join lateral (
        select count(*) as lines, sum(l.expected - l.allowed)::bigint as below, sum(l.pays - l.paid)::bigint as asked,
          -- As much as it paid more since, up to what it owed then.
          sum(greatest(0, least(${PAID_NOW} - l.paid, l.pays - l.paid)))::bigint as recovered
        from contract_letter_line l
        where l.letter_id = w.id
      ) s`,
  household: null,
  id: sql`w.id`,
  columns: {
    date: day('Date', sql`w.date`),
    payer: words('Payer', sql`y.name`),
    by: words('Written by', sql`w.user_name`),
    lines: number('Lines', sql`s.lines`),
    below: money('Below contract', sql`s.below`),
    asked: money('Asked for', sql`s.asked`),
    recovered: money('Came back', sql`s.recovered`),
    left: money('Still owed', sql<Cents>`(s.asked - s.recovered)`),
  },
  hidden: { payerId: sql<number>`w.payer_id` },
  filters: { payer: sql`w.payer_id` },
  views: {
    open: { label: 'Not answered in full', where: () => sql`s.recovered < s.asked` },
    done: { label: 'Came back whole', where: () => sql`s.recovered >= s.asked` },
    all: { label: 'All' },
  },
  search: (like) => textLike(sql`y.name`, like),
  order: sql`w.date desc, w.id desc`,
});

/** A letter to a payer with its list as PDF, the same however often it is printed. */
export async function contractLetterPaper(
  context: Context,
  letterId: number,
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'read remittances');
  const letter = await context.db
    .selectFrom('contract_letter')
    .select(['id', 'payer_id', 'content'])
    .where('id', '=', letterId)
    .executeTakeFirst();
  if (!letter) throw new Refused('unknown', 'There is no such letter');
  const { rows } = await sql<{ households: number[] }>`
    select coalesce(array_agg(distinct c.household_id), '{}') as households
    from contract_letter_line l
      join charge c on c.id = l.charge_id
    where l.letter_id = ${letterId}`.execute(context.db);
  await allowOpen(context, { householdIds: rows[0]!.households });
  const content = contractLetterDocument.read(letter.content);
  const { practice, to, lines } = content;
  const title = `What the contract says: ${to.name}, ${formatDate(content.date)}`;
  const paper = await Paper.open(content.paper, title, practice.name);
  letterhead(paper, practice);
  addressWindow(
    paper,
    [to.name, to.line1, to.line2, to.city && `${to.city}, ${to.state} ${to.zip}`].filter(Boolean),
  );
  factsBeside(paper, [
    ['Date', formatDate(content.date)],
    ['Our NPI', practice.npi],
    ['Services', String(lines.length)],
    ['Asked for', m(askedFor(lines))],
  ]);
  paper.paragraph(
    'Paid at less than our contract says',
    paper.left,
    paper.y,
    paper.width,
    { size: 13, strong: true },
    'H2',
  );
  paper.y += 8;
  for (const text of contractLetterWords(content)) {
    paper.paragraph(text, paper.left, paper.y, paper.width, { size: 10.5 });
    paper.y += 8;
  }
  paper.turn();
  heading(paper, `The ${counted(lines.length, 'service')}`);
  table(
    paper,
    [
      {
        title: 'Claim',
        share: 1.6,
        words: ({ claim, payerClaim }: LetterLine) => (payerClaim ? `${payerClaim} · ${claim}` : claim),
      },
      {
        title: 'Patient',
        share: 2,
        words: ({ patient, memberId }) => (memberId ? `${patient} · ${memberId}` : patient),
      },
      { title: 'Service', share: 1.2, words: ({ serviceDate }) => formatDate(serviceDate) },
      { title: 'Code', share: 0.7, words: ({ code }) => code },
      { title: 'Units', share: 0.5, right: true, words: ({ units }) => String(units) },
      { title: 'Contract', share: 1, amount: ({ expected }) => expected },
      { title: 'Allowed', share: 1, amount: ({ allowed }) => allowed },
      { title: 'Should pay', share: 1.2, amount: ({ pays }) => pays },
      { title: 'Paid', share: 1, amount: ({ paid }) => paid },
      { title: 'Owed', share: 1, amount: ({ pays, paid }) => minus(pays, paid) },
    ],
    lines,
  );
  await audit(context.db, context, 'exported', { kind: 'payer', id: letter.payer_id }, { letter: letterId });
  return {
    name: `contract-letter-${letterId}.pdf`,
    bytes: await paper.finish((page, pages) => `${title} · page ${page} of ${pages}`),
  };
}
