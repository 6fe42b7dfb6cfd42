/** The agreement of a plan on paper: what the law asks to be told, the schedule, the terms in plain words, a place to sign. */
import { sql } from 'kysely';
import { formatDate } from '../../core/calendar';
import { type Cents, add, formatMoneyPlain, minus } from '../../core/money';
import { needsDisclosure } from '../../core/plans/quote';
import { EVERY, EXTRA, type Every, type Extra } from '../../core/plans/terms';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { heading, letterhead, signature, table } from '../print/blocks';
import { Paper } from '../print/paper';
import type { Printed } from '../print/statement';

/** What an agreement says. Amounts in cents. */
interface Agreement {
  number: string;
  status: string;
  practice: {
    name: string;
    line1: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    paper: 'LETTER' | 'A4';
  };
  account: string;
  who: string;
  agreedOn: string;
  amount: Cents;
  down: Cents;
  rate: number;
  every: Every;
  extra: Extra;
  interestBy: 'period' | 'days';
  lateCharges: boolean;
  financeCharge: Cents;
  total: Cents;
  apr: number;
  before: string | null;
  signedBy: string;
  signedOn: string | null;
  drawn: Buffer | null;
  installments: {
    number: number;
    date: string;
    amount: Cents;
    principal: Cents;
    interest: Cents;
    left: Cents;
  }[];
  charges: { date: string; words: string; amount: Cents }[];
}

/** Reads what an agreement says. @throws Refused when there is no such plan */
export async function readAgreement(db: Db, planId: number): Promise<Agreement> {
  const [practice, plan, installments, charges] = await Promise.all([
    db.selectFrom('practice').selectAll().executeTakeFirst(),
    db
      .selectFrom('payment_plan as l')
      .innerJoin('household as h', 'h.id', 'l.household_id')
      .leftJoin('payment_plan as o', 'o.id', 'l.replaces')
      .selectAll('l')
      .select(['h.number as account', 'h.first', 'h.last', 'o.number as before'])
      .where('l.id', '=', planId)
      .executeTakeFirst(),
    db
      .selectFrom('plan_installment')
      .select(['number', 'date', 'amount', 'principal', 'interest', 'left_after as left'])
      .where('plan_id', '=', planId)
      .orderBy('number')
      .execute(),
    db
      .selectFrom('plan_charge as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .leftJoin('patient as p', 'p.id', 'c.patient_id')
      .select([
        'c.service_date as date',
        // Of who is written to apart nothing is named to others.
        sql<string>`
          case
            when exists (
              select 1 from confidential_address a where a.patient_id = c.patient_id and a.ended_on is null
            ) then
              'A service'
            else c.description || coalesce(' · ' || p.first, '')
          end`.as('words'),
        'l.amount',
      ])
      .where('l.plan_id', '=', planId)
      .orderBy('c.service_date')
      .orderBy('c.id')
      .execute(),
  ]);
  if (!plan) throw new Refused('unknown', 'There is no such plan');
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  return {
    number: plan.number,
    status: plan.status,
    practice,
    account: plan.account,
    who: `${plan.first} ${plan.last}`,
    agreedOn: plan.agreed_on,
    amount: plan.amount,
    down: plan.down,
    rate: plan.rate,
    every: plan.every,
    extra: plan.extra,
    interestBy: plan.interest_by,
    lateCharges: plan.late_charges,
    financeCharge: plan.finance_charge,
    total: plan.total,
    apr: plan.apr,
    before: plan.before,
    signedBy: plan.signed_by,
    signedOn: plan.accepted_on,
    drawn: plan.signature,
    installments,
    charges,
  };
}

const m = formatMoneyPlain;

/** The installments in words: how many of which amount, and the last where it differs. */
function scheduleWords({ installments, every }: Agreement): string {
  const last = installments.at(-1)!;
  const level = installments[0]!;
  const same = installments.filter(({ amount }) => amount === level.amount).length;
  const words = `${same} of ${m(level.amount)}, ${EVERY[every].words} from ${formatDate(level.date)}`;
  return same === installments.length
    ? words
    : `${words}; the last of ${m(last.amount)} on ${formatDate(last.date)}`;
}

/**
 * What Regulation Z asks to be told of a credit that is not open-end, apart from everything else (12 CFR 1026.17(a), 1026.18):
 * amount financed, finance charge, annual percentage rate, total of payments, total sale price, schedule, prepayment, late payment.
 */
function drawDisclosure(paper: Paper, plan: Agreement): void {
  heading(paper, 'What this costs: disclosure before you sign');
  const financed = minus(plan.amount, plan.down);
  table(
    paper,
    [
      { title: 'What', share: 2.2, words: ([name]) => name },
      { title: 'What it means', share: 3.4, words: ([, what]) => what },
      { title: 'Here', share: 1.2, right: true, words: ([, , value]) => value },
    ],
    [
      [
        'Annual percentage rate',
        'The cost of your credit as a yearly rate',
        `${(plan.apr / 100).toFixed(2)} %`,
      ],
      ['Finance charge', 'What the credit will cost you, in US dollars', m(plan.financeCharge)],
      ['Amount financed', 'The credit that is given to you', m(financed)],
      ['Total of payments', 'What you will have paid after all payments as scheduled', m(plan.total)],
      [
        'Total sale price',
        `The cost of your services on credit, with your down payment of ${m(plan.down)}`,
        m(add(plan.total, plan.down)),
      ],
    ] as [string, string, string][],
    { sums: false },
  );
  paper.y += 4;
  const lines = [
    `Itemization of the amount financed: ${m(plan.amount)} for the services below, less ${m(plan.down)} paid down, is ${m(financed)}. Nothing of it is paid to others.`,
    `Your payments: ${scheduleWords(plan)}.`,
    'Prepayment: if you pay off early, you pay no penalty, and interest that is not earned is not asked for.',
    plan.lateCharges
      ? 'Late payment: a payment that is late may bear the late charge of the practice’s policy.'
      : 'Late payment: a payment that is late bears no charge.',
    'There is no security interest in anything that is yours, and no insurance is asked for.',
  ];
  for (const line of lines) {
    paper.paragraph(line, paper.left, paper.y, paper.width, { size: 9.5 });
    paper.y += 2;
  }
}

/** Draws the agreement. @param mark words at the head of one that is not accepted */
export async function agreementPdf(plan: Agreement, mark = ''): Promise<Printed> {
  const paper = await Paper.open(plan.practice.paper, `Payment plan ${plan.number}`, plan.practice.name);
  letterhead(paper, plan.practice);
  if (mark) paper.line(mark, paper.right, paper.left, { size: 11, strong: true, color: 'brick' }, 'right');
  paper.y += 10;
  heading(paper, `Payment plan ${plan.number}`);
  paper.paragraph(
    `${plan.who}, account ${plan.account} · ${formatDate(plan.agreedOn)}${plan.before ? ` · takes the place of plan ${plan.before}` : ''}`,
    paper.left,
    paper.y,
    paper.width,
    { size: 10 },
  );
  paper.y += 4;
  // Asked for by a finance charge or by more than four installments; told apart from all else, before the signature.
  const disclosed = needsDisclosure(plan);
  if (disclosed) {
    drawDisclosure(paper, plan);
    paper.next();
  }
  heading(paper, 'What we agree');
  const terms = [
    `You owe ${m(plan.amount)} for the services listed below.${plan.down > 0 ? ` You pay ${m(plan.down)} now.` : ''} You pay the rest in installments: ${scheduleWords(plan)}.`,
    plan.rate === 0
      ? 'There is no interest.'
      : `Interest is ${plan.rate / 100} % a year on what is still open, counted ${plan.interestBy === 'days' ? 'by days' : `for each ${EVERY[plan.every].one}`}; no interest is charged on interest.`,
    `You can pay more or earlier at any time; ${EXTRA[plan.extra]}.`,
    'Later services are not part of this plan. If an insurer pays more of these services, the plan has so much less.',
    'If installments are missed, the plan ends, and what is open is to be paid at once. Call us before that: a plan can be changed by a new agreement.',
  ];
  for (const words of terms) {
    paper.paragraph(words, paper.left, paper.y, paper.width, { size: 10 });
    paper.y += 3;
  }
  heading(paper, 'The services');
  table(
    paper,
    [
      { title: 'Date', share: 1, words: ({ date }) => formatDate(date) },
      { title: 'For', share: 4, words: ({ words }) => words },
      { title: 'On the plan', share: 1, amount: ({ amount }) => amount },
    ],
    plan.charges,
  );
  heading(paper, 'The installments');
  table(
    paper,
    [
      { title: 'No.', share: 0.5, right: true, words: ({ number }) => String(number) },
      { title: 'Due', share: 1.4, words: ({ date }) => formatDate(date) },
      { title: 'Installment', share: 1, amount: ({ amount }) => amount },
      { title: 'Of it principal', share: 1, amount: ({ principal }) => principal },
      { title: 'Of it interest', share: 1, amount: ({ interest }) => interest },
      { title: 'Then left', share: 1, right: true, words: ({ left }) => m(left) },
    ],
    plan.installments,
  );
  paper.y += 6;
  paper.paragraph(
    disclosed
      ? 'I have read this, and I was given the disclosure before I signed.'
      : 'I have read this and agree to it.',
    paper.left,
    paper.y,
    paper.width,
    { size: 10 },
  );
  paper.room(58);
  if (plan.drawn)
    paper.picture(plan.drawn, paper.left + 6, paper.y + 2, 150, 34, `Signature of ${plan.signedBy}`);
  signature(
    paper,
    plan.signedBy
      ? `Signed by ${plan.signedBy}${plan.signedOn ? ` on ${formatDate(plan.signedOn)}` : ''}`
      : 'Signature and date',
  );
  const pages = paper.foot((page, of) => `Payment plan ${plan.number} · page ${page} of ${of}`);
  return { bytes: await paper.finish(), pages };
}

/** The paper of a plan: the very one that was signed, or that of a proposal, marked as such. @throws Refused when it is not there */
export async function planPaper(context: Context, planId: number): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'read accounts');
  const row = await context.db
    .selectFrom('payment_plan as l')
    .leftJoin('document as d', 'd.sha256', 'l.agreement')
    .select(['l.number', 'd.bytes'])
    .where('l.id', '=', planId)
    .executeTakeFirst();
  if (!row) throw new Refused('unknown', 'There is no such plan');
  await opened(context, { kind: 'payment plan', id: planId });
  const name = `plan-${row.number}.pdf`;
  if (row.bytes) return { name, bytes: row.bytes };
  const plan = await readAgreement(context.db, planId);
  const { bytes } = await agreementPdf(
    plan,
    plan.status === 'proposed' ? 'Proposal · not accepted' : 'Given up',
  );
  return { name, bytes };
}
