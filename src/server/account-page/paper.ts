/** The ledger of an account on paper: any view of it over a period, planned services as an estimate, an itemized receipt. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { LEDGER_VIEWS } from '../../core/accounts/ledger-views';
import { paperInput } from '../../core/accounts/paper';
import { chargedIn, openIn } from '../../core/books/strip';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, formatMoneyPlain, sum } from '../../core/money';
import { tellCharge } from '../../core/statements/story';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { estimatePlanned } from '../estimates/door';
import { parseInput } from '../input';
import { type PrintColumn, heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';
import { asStory, collectToday, readChargesOf, readConfidential, type ToldCharge } from '../accounts/door';

type Asked = z.output<typeof paperInput>;

/** Who and what a document is about. */
interface About {
  practice: {
    name: string;
    line1: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    tax_id: string;
    npi: string;
  };
  account: string;
  guarantor: string;
  /** The person that it is about; empty for the whole account. */
  person: string;
  period: string;
  site: string;
  /** The case that it is about; empty for all of them. */
  of: string;
}

/** How the period is said on paper. */
function periodWords(
  { what: of, from, to }: Pick<Asked, 'what' | 'from' | 'to'>,
  today: CalendarDate,
): string {
  if (from && to) return `${formatDate(from)} to ${formatDate(to)}`;
  // What is planned lies ahead.
  if (of === 'planned')
    return from || to
      ? `${from ? 'from' : 'up to'} ${formatDate((from ?? to)!)}`
      : `as of ${formatDate(today)}`;
  if (from) return `from ${formatDate(from)} to ${formatDate(today)}`;
  return to ? `up to ${formatDate(to)}` : `up to ${formatDate(today)}`;
}

const within = (day: CalendarDate, { from, to }: Pick<Asked, 'from' | 'to'>): boolean =>
  (from === null || day >= from) && (to === null || day <= to);

/**
 * Prints what of an account is asked for. What concerns a patient with a confidential address is on a paper of its own, when
 * that patient is asked for, and on no other. @throws Refused when it is not there, or Refused when there is nothing to print
 */
export async function accountPaper(
  context: Context,
  input: unknown,
): Promise<{ name: string; bytes: Buffer }> {
  allow(context, 'read accounts');
  const asked = parseInput(paperInput, input);
  const { db } = context;
  const [household, practice, all, confidential, members, site, one] = await Promise.all([
    db.selectFrom('household').selectAll().where('id', '=', asked.householdId).executeTakeFirst(),
    db.selectFrom('practice').selectAll().executeTakeFirst(),
    readChargesOf(db, [asked.householdId]),
    readConfidential(db, asked.householdId),
    db
      .selectFrom('patient')
      .select(['id', 'first', 'last', 'birth_date'])
      .where('household_id', '=', asked.householdId)
      .where('merged_into', 'is', null)
      .orderBy('birth_date')
      .orderBy('id')
      .execute(),
    asked.siteId === null
      ? null
      : db.selectFrom('location').select('name').where('id', '=', asked.siteId).executeTakeFirst(),
    asked.caseId === null
      ? null
      : db
          .selectFrom('care_case')
          .select(['name', 'patient_id as patientId'])
          .where('id', '=', asked.caseId)
          .executeTakeFirst(),
  ]);
  if (!household) throw new Refused('unknown', 'There is no such account');
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  if (one === undefined) throw new Refused('unknown', 'There is no such case', 'caseId');
  if (site === undefined) throw new Refused('unknown', 'This site is not in Setup', 'siteId');
  if (asked.patientId !== null && !members.some(({ id }) => id === asked.patientId))
    throw new Refused('invalid', 'This person is no member of the household', 'patientId');
  if (one && !members.some(({ id }) => id === one.patientId && (asked.patientId ?? id) === id))
    throw new Refused('others', 'This case is not one of theirs', 'caseId');
  const apart = new Set(confidential.map(({ patientId }) => patientId));
  const charges = (all.get(asked.householdId) ?? [])
    .filter(({ patientId }) =>
      asked.patientId === null ? patientId === null || !apart.has(patientId) : patientId === asked.patientId,
    )
    .filter(({ locationId }) => asked.siteId === null || locationId === asked.siteId)
    .filter(({ caseId }) => asked.caseId === null || caseId === asked.caseId);
  const about: Omit<About, 'person'> = {
    practice,
    account: household.number,
    guarantor: `${household.first} ${household.last}`,
    period: periodWords(asked, context.today),
    site: site?.name ?? '',
    of: one?.name ?? '',
  };
  const paper = await Paper.open(practice.paper, `Account ${household.number}`, practice.name);
  const named = (id: number | null): string => {
    const member = members.find((one) => one.id === id);
    return member ? `${member.first} ${member.last}, born ${formatDate(member.birth_date)}` : '';
  };
  const people = asked.each
    ? [...members.map(({ id }) => id), null].filter((id) => charges.some(({ patientId }) => patientId === id))
    : [asked.patientId];
  let drawn = 0;
  if (asked.what === 'collect') {
    drawn = await drawCollect(context, paper, { ...about, person: named(asked.patientId) }, asked, apart);
    paper.foot(
      (page, pages) =>
        `Account ${household.number} · ${formatDate(context.today)} · page ${page} of ${pages}`,
    );
  }
  for (const id of asked.what === 'collect' ? [] : people) {
    const own = asked.each ? charges.filter(({ patientId }) => patientId === id) : charges;
    const document = { ...about, person: named(id) };
    const before = drawn;
    const begin = (): void => {
      if (before > 0) paper.turn();
      drawn += 1;
    };
    const done =
      asked.what === 'receipt'
        ? await drawReceipt(context, paper, document, own, asked, begin)
        : asked.what === 'planned'
          ? await drawPlanned(context, paper, document, own, asked, begin)
          : drawLedger(paper, document, own, asked, begin);
    if (done)
      paper.foot(
        (page, pages) =>
          `Account ${household.number} · ${formatDate(context.today)} · page ${page} of ${pages}`,
      );
  }
  if (drawn === 0)
    throw new Refused(
      'state',
      asked.what === 'receipt' ? 'Nothing was paid in this time' : 'There is nothing like that in this time',
    );
  await opened(context, { kind: 'household', id: asked.householdId }, 'printed');
  return { name: `account-${household.number}-${asked.what}.pdf`, bytes: await paper.finish() };
}

/** The head of a document: the practice, what it is, whose account, who and when. */
function drawHead(paper: Paper, about: About, title: string, more: readonly string[] = []): void {
  letterhead(paper, about.practice);
  paper.y += 10;
  heading(paper, title);
  const lines = [
    `Account ${about.account}, ${about.guarantor}`,
    ...(about.person ? [about.person] : []),
    [about.of, about.period, about.site].filter(Boolean).join(' · '),
    ...more,
  ];
  for (const line of lines) paper.paragraph(line, paper.left, paper.y, paper.width, { size: 10 });
  paper.y += 8;
}

const what = (charge: ToldCharge, person: string): string =>
  [
    formatDate(charge.date),
    [charge.code, charge.description].filter(Boolean).join(' '),
    charge.tooth && `tooth ${charge.tooth}${charge.surfaces}`,
    person === '' && charge.patient,
    charge.provider,
  ]
    .filter(Boolean)
    .join(' · ');

/** What to ask people for today, a line each. @param apart whose own address is confidential @returns how many were drawn */
async function drawCollect(
  context: Context,
  paper: Paper,
  about: About,
  asked: Asked,
  apart: ReadonlySet<number>,
): Promise<number> {
  const rows = (await collectToday(context, asked.householdId, asked.caseId)).filter(({ patientId }) =>
    asked.patientId === null ? !apart.has(patientId) : patientId === asked.patientId,
  );
  drawHead(paper, { ...about, period: formatDate(context.today) }, 'To collect today');
  table(
    paper,
    [
      { title: 'Who', share: 2, words: ({ name }) => name },
      {
        title: 'For',
        share: 4,
        words: ({ parts, why }) =>
          [
            ...parts.map(({ words, amount }) => `${words} ${formatMoneyPlain(amount)}`),
            ...(why ? [why] : []),
          ].join(', ') || 'nothing',
      },
      { title: 'Together', share: 1.1, amount: ({ total }) => total },
    ],
    rows,
  );
  return rows.length;
}

/** A view of the ledger: each charge with its amounts, and what happened to it. */
function drawLedger(
  paper: Paper,
  about: About,
  charges: readonly ToldCharge[],
  asked: Asked,
  begin: () => void,
): boolean {
  const { holds, words } = LEDGER_VIEWS[asked.what as 'all'];
  const rows = charges.filter(
    (charge) => charge.status === 'done' && holds(charge) && within(charge.date, asked),
  );
  if (rows.length === 0) return false;
  begin();
  drawHead(paper, about, words);
  const amount = (title: string, of: (charge: ToldCharge) => Cents): PrintColumn<ToldCharge> => ({
    title,
    share: 1.05,
    amount: of,
  });
  table(
    paper,
    [
      { title: 'What for', share: 2.7, words: (charge) => what(charge, about.person) },
      amount('Charge', chargedIn),
      amount('Insurer paid', ({ payerPaid }) => payerPaid),
      amount('Taken off', ({ reduced }) => reduced),
      amount('You paid', ({ patientPaid, agencyPaid }) => sum([patientPaid, agencyPaid])),
      amount('Open', openIn),
    ],
    rows,
    {
      under: (charge) =>
        tellCharge(asStory(charge))
          .sentences.slice(1)
          .map(({ words: said }) => said),
    },
  );
  return true;
}

/** Planned services with what each is expected to cost whom. */
async function drawPlanned(
  context: Context,
  paper: Paper,
  about: About,
  charges: readonly ToldCharge[],
  asked: Asked,
  begin: () => void,
): Promise<boolean> {
  const rows = charges.filter((charge) => charge.status === 'planned' && within(charge.date, asked));
  if (rows.length === 0) return false;
  const estimates = await estimatePlanned(
    context,
    rows.map(({ id }) => id),
  );
  begin();
  drawHead(paper, about, LEDGER_VIEWS.planned.words);
  const of = (charge: ToldCharge) => estimates.get(charge.id)!;
  const amount = (title: string, read: (charge: ToldCharge) => Cents): PrintColumn<ToldCharge> => ({
    title,
    share: 1.1,
    amount: read,
  });
  table(
    paper,
    [
      { title: 'What for', share: 2.9, words: (charge) => what(charge, about.person) },
      amount('Fee', ({ plannedFee }) => plannedFee),
      amount('Taken off', (charge) => of(charge).writeOff),
      amount('Insurers', (charge) => of(charge).payers),
      amount('Yours', (charge) => of(charge).patient),
    ],
    rows,
    { under: (charge) => of(charge).steps },
  );
  paper.y += 6;
  paper.paragraph(
    'This is an estimate by what is known of the coverage today. What the insurers decide may differ, and so may the services.',
    paper.left,
    paper.y,
    paper.width,
    { size: 9, color: 'quiet' },
  );
  return true;
}

/** One payment towards one charge. */
interface PaidItem {
  charge: ToldCharge;
  date: CalendarDate;
  how: string;
  amount: Cents;
}

/** What was paid by the patient, by person and date, for the tax office or for reimbursement. */
async function drawReceipt(
  context: Context,
  paper: Paper,
  about: About,
  charges: readonly ToldCharge[],
  asked: Asked,
  begin: () => void,
): Promise<boolean> {
  const tenders = await tendersOf(context, charges);
  // What was taken back was not paid; what became credit again was not paid for that service.
  const items = charges.flatMap((charge) =>
    charge.entries
      .filter((entry) => !entry.undone && entry.kind !== 'reversal' && entry.paidByPatient !== 0)
      .filter(({ date }) => within(date, asked))
      .map((entry): PaidItem => ({
        charge,
        date: entry.date,
        how: entry.paidByPatient < 0 ? 'became credit' : (tenders.get(entry.receiptId ?? 0) ?? entry.memo),
        amount: entry.paidByPatient,
      })),
  );
  if (items.length === 0) return false;
  begin();
  drawHead(paper, about, 'Itemized receipt of payments', [
    `Provider of services: tax number ${about.practice.tax_id}, NPI ${about.practice.npi}`,
  ]);
  const byPerson = new Map<string, PaidItem[]>();
  for (const item of items)
    byPerson.set(item.charge.patient, [...(byPerson.get(item.charge.patient) ?? []), item]);
  for (const [person, own] of byPerson) {
    if (about.person === '') heading(paper, person || 'On the account');
    table(
      paper,
      [
        { title: 'Paid on', share: 1.1, words: ({ date }) => formatDate(date) },
        { title: 'How', share: 1.2, words: ({ how }) => how },
        {
          title: 'For',
          share: 3.6,
          words: ({ charge }) =>
            [
              formatDate(charge.date),
              [charge.code, charge.description].filter(Boolean).join(' '),
              charge.diagnoses.length > 0 && `diagnosis ${charge.diagnoses.join(', ')}`,
              charge.provider,
            ]
              .filter(Boolean)
              .join(' · '),
        },
        // A charge that was paid in two parts is no charge twice: this column is not summed.
        {
          title: 'Charge',
          share: 1,
          right: true,
          words: ({ charge }) => formatMoneyPlain(chargedIn(charge)),
        },
        { title: 'Paid', share: 1, amount: ({ amount }) => amount },
      ],
      [...own].sort((a, b) => (a.date < b.date ? -1 : a.date > b.date ? 1 : a.charge.id - b.charge.id)),
    );
    paper.y += 6;
  }
  paper.paragraph(
    `${formatMoneyPlain(sum(items.map(({ amount }) => amount)))} US dollars were paid by the patient in this time.`,
    paper.left,
    paper.y,
    paper.width,
    { size: 10.5, strong: true },
  );
  return true;
}

/** How receipts were paid, in words, by receipt. */
async function tendersOf(context: Context, charges: readonly ToldCharge[]): Promise<Map<number, string>> {
  const ids = [
    ...new Set(charges.flatMap(({ entries }) => entries.flatMap(({ receiptId }) => receiptId ?? []))),
  ];
  if (ids.length === 0) return new Map();
  const rows = await context.db
    .selectFrom('receipt_tender')
    .select(['receipt_id as id', 'how'])
    .where('receipt_id', '=', sql<number>`any(${ids}::bigint[])`)
    .execute();
  return new Map(rows.map(({ id, how }) => [id, how]));
}
