/** Claims drawn on paper: into the boxes of the pre-printed form or in a layout of our own, with what payers before have explained. */
import { sql } from 'kysely';
import { type CalendarDate, formatDate } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import { claimDocument } from '../../core/claims/document';
import { type Mark, formPages, testMarks } from '../../core/claims/form';
import { type Cents, formatMoneyPlain, sum } from '../../core/money';
import { remitClaimDocument } from '../../core/remittances/document';
import type { RemitClaim } from '../../core/x12/remittance835';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { isClosed, opened } from '../closed';
import { type Letterhead, addressWindow, factsBeside, heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';

/** Points of a tenth of a millimeter. */
const TENTH = 72 / 254;
/** Letters of capital words are so wide, in parts of their size; they are made smaller until they fit, down to so much. */
const WIDE = 0.68;
const SMALLEST = 6;

interface Offsets {
  form_right: number;
  form_down: number;
}

/** Prints values into their boxes, moved as the practice has found. */
function drawMarks(paper: Paper, marks: readonly Mark[], { form_right, form_down }: Offsets): void {
  for (const { text, x, y, width, right } of marks) {
    const size = Math.max(SMALLEST, Math.min(10, width / (Math.max(text.length, 1) * WIDE)));
    const fits = text.slice(0, Math.max(1, Math.floor(width / (size * WIDE)) + 1));
    const from = x + form_right * TENTH;
    paper.line(fits, right ? from + width : from, y + form_down * TENTH, { size }, right ? 'right' : 'left');
  }
}

/** A claim with what decides how it is printed. */
interface Printable {
  id: number;
  content: ClaimContent;
  plain: boolean;
  continues: boolean;
  sentOn: CalendarDate;
}

async function printables(context: Context, claimIds: readonly number[]): Promise<Printable[]> {
  const { rows } = await sql<{
    id: number;
    content: unknown;
    form: string;
    plain: boolean;
    continues: boolean;
    sentOn: CalendarDate;
  }>`
    select m.id, m.content, m.form, y.paper_form = 'plain' or m.form = 'dental' as plain,
      y.paper_continues as continues, coalesce(m.sent_date, ${context.today}::date) as "sentOn"
    from claim m
      join payer y on y.id = m.payer_id
    where m.id = any(${[...claimIds]}::bigint[]) and m.content is not null
      and not ${isClosed(context, sql`m.household_id`)}
    order by y.name, m.id`.execute(context.db);
  return rows.map(({ content, form: _, ...row }) => ({ ...row, content: claimDocument.read(content) }));
}

/** What a payer before has explained of services of a claim: one word, of this patient alone. */
interface Explained {
  claimId: number;
  payer: string;
  trace: string;
  date: CalendarDate;
  word: RemitClaim;
}

async function explanations(db: Db, claimIds: readonly number[]): Promise<Explained[]> {
  const { rows } = await sql<Omit<Explained, 'word'> & { id: number; content: unknown }>`
    select distinct m.id as "claimId", c.id, r.payer_name as payer, r.trace, r.payment_date as date, c.content
    from claim m
      join claim_line l on l.claim_id = m.id
      join claim_line e on e.charge_id = l.charge_id and e.coverage_id <> l.coverage_id
      join claim t on t.id = e.claim_id and t.position < m.position and t.purpose = 'bill'
      join remittance_claim c on c.claim_id = t.id and c.status = 'posted'
      join remittance r on r.id = c.remittance_id
    where m.id = any(${[...claimIds]}::bigint[])
    order by 1, 2`.execute(db);
  return rows.map(({ id: _, content, ...row }) => ({ ...row, word: remitClaimDocument.read(content) }));
}

const person = (one: { first: string; last: string }): string => `${one.first} ${one.last}`.trim();
const place = (one: { line1: string; line2?: string; city: string; state: string; zip: string }): string =>
  [one.line1, one.line2, `${one.city} ${one.state} ${one.zip}`].filter(Boolean).join(', ');

/** A claim in a layout of our own. */
function drawPlain(paper: Paper, practice: Letterhead, { content: c, sentOn }: Printable): void {
  const { payer, subscriber: s, patient, billing } = c;
  letterhead(paper, practice);
  addressWindow(paper, [
    payer.name,
    payer.address?.line1 ?? '',
    payer.address?.line2 ?? '',
    payer.address ? `${payer.address.city}, ${payer.address.state} ${payer.address.zip}` : '',
  ]);
  factsBeside(paper, [
    ['Claim', c.controlNumber],
    ['Date', formatDate(sentOn)],
    ['Total', formatMoneyPlain(c.total)],
  ]);
  const kind = { '1': '', '7': ', corrected', '8': ', void' }[c.frequency];
  heading(paper, `${c.form === 'dental' ? 'Dental claim' : 'Claim'}${kind}`);
  const say = (name: string, words: string): void => {
    if (words) paper.paragraph(`${name}: ${words}`, paper.left, paper.y, paper.width, { size: 10 });
  };
  say('Patient', `${person(patient)}, born ${formatDate(patient.birthDate)}, ${place(patient.address)}`);
  say(
    'Insured',
    `${s.organization ? s.last : person(s)}, member ${s.memberId}${s.groupNumber && `, group ${s.groupNumber}`}; the patient is ${c.relationship === 'self' ? 'the insured' : `${c.relationship} of the insured`}`,
  );
  for (const other of c.otherPayers ?? [])
    say(
      'Other insurance',
      `${other.payer.name}, member ${other.subscriber.memberId}${other.decided ? `, paid ${formatMoneyPlain(other.decided.paid)}` : ''}`,
    );
  say('Your number of the claim before', c.payerClaimNumber ?? '');
  say('Authorization', c.authorizationNumber ?? '');
  say('Referral', c.referralNumber ?? '');
  say(
    'Accident',
    c.accident ? `${c.accident.kind}${c.accident.date ? ` on ${formatDate(c.accident.date)}` : ''}` : '',
  );
  say('Diagnoses', c.diagnoses.map((code, index) => `${index + 1}. ${code}`).join('  '));
  say('Missing teeth', (c.lostTeeth ?? []).join(', '));
  paper.y += 8;
  table(
    paper,
    [
      { title: 'Date', share: 1.2, words: ({ date }) => formatDate(date) },
      { title: 'Place', share: 0.6, words: () => c.placeOfService },
      { title: 'Service', share: 1.4, words: ({ code, modifiers }) => [code, ...modifiers].join(' ') },
      {
        title: 'Tooth, area',
        share: 1.3,
        words: ({ tooth, surfaces, area, prosthesis }) =>
          [tooth + surfaces, area, prosthesis === 'R' && 'replacement'].filter(Boolean).join(' '),
      },
      { title: 'Points to', share: 0.9, words: ({ pointers }) => pointers.join(', ') },
      { title: 'Units', share: 0.6, right: true, words: ({ units }) => String(units) },
      { title: 'Charge', share: 1, amount: ({ charge }) => charge },
    ],
    c.lines,
  );
  paper.y += 10;
  say('Done by', c.rendering ? `${person(c.rendering)}, NPI ${c.rendering.npi}` : '');
  say('Done at', c.facility ? `${c.facility.name}, ${place(c.facility.address)}` : '');
  say(
    'Billed by',
    `${billing.organization ?? person({ first: billing.first ?? '', last: billing.last ?? '' })}, NPI ${billing.npi}, tax number ${billing.taxId}, ${place(billing.payTo ?? billing.address)}`,
  );
  const { accepted = true, benefits = true, signed = true } = c.assignment ?? {};
  paper.paragraph(
    [
      signed && 'Signature of the patient on file.',
      benefits ? 'Please pay the biller.' : 'Please pay the insured.',
      accepted ? 'Assignment is accepted.' : 'Assignment is not accepted.',
    ]
      .filter(Boolean)
      .join(' '),
    paper.left,
    paper.y + 6,
    paper.width,
    { size: 9 },
  );
}

/** What a payer before has explained, as far as it is about this patient. */
function drawExplained(
  paper: Paper,
  claim: ClaimContent,
  { payer, trace, date, word }: Explained,
  reasons: ReadonlyMap<string, string>,
): void {
  heading(paper, `What ${payer} explained`);
  const say = (words: string): void => {
    paper.paragraph(words, paper.left, paper.y, paper.width, { size: 10 });
  };
  say(
    `Beside claim ${claim.controlNumber} of ${person(claim.patient)}, born ${formatDate(claim.patient.birthDate)}.`,
  );
  say(
    `Its payment ${trace} of ${formatDate(date)}, its number ${word.payerClaimNumber || 'not given'}, our number ${word.controlNumber}.`,
  );
  paper.y += 6;
  const patients = (of: RemitClaim['lines'][number]): Cents =>
    sum(of.adjustments.filter(({ group }) => group === 'PR').map(({ amount }) => amount));
  const why = (list: RemitClaim['adjustments']): string[] =>
    list.map(({ group, reason, amount }) => {
      const words = reasons.get(`${group}-${reason}`) ?? reasons.get(`*-${reason}`);
      return `${group}-${reason} ${formatMoneyPlain(amount)}${words ? `: ${words}` : ''}`;
    });
  table(
    paper,
    [
      { title: 'Date', share: 1.2, words: (line) => (line.date ? formatDate(line.date) : '') },
      { title: 'Service', share: 1.4, words: ({ code, modifiers }) => [code, ...modifiers].join(' ') },
      { title: 'Charge', share: 1, amount: ({ charge }) => charge },
      { title: 'Paid', share: 1, amount: ({ paid }) => paid },
      { title: 'Patient', share: 1, amount: patients },
    ],
    word.lines,
    {
      under: ({ adjustments, remarks }) => [
        ...why(adjustments),
        ...(remarks.length > 0 ? [`Remarks ${remarks.join(', ')}`] : []),
      ],
    },
  );
  paper.y += 8;
  say(`Paid in all: ${formatMoneyPlain(word.paid)} of ${formatMoneyPlain(word.charge)}.`);
  for (const words of why(word.adjustments)) say(`Of the claim as a whole: ${words}.`);
  if (word.remarks.length > 0) say(`Remarks: ${word.remarks.join(', ')}.`);
}

/** Draws claims, each with what the payers before it explained. @returns the bytes of the PDF */
async function drawn(context: Context, claims: readonly Printable[], title: string): Promise<Buffer> {
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const explained = await explanations(
    context.db,
    claims.map(({ id }) => id),
  );
  const known = await context.db.selectFrom('reason_code').select(['group_code', 'code', 'words']).execute();
  const reasons = new Map(known.map(({ group_code, code, words }) => [`${group_code}-${code}`, words]));
  // The form is a US letter.
  const paper = await Paper.open('LETTER', title, practice.name);
  for (const claim of claims) {
    if (claim.plain) {
      paper.turn();
      drawPlain(paper, practice, claim);
    } else
      for (const marks of formPages(claim.content, claim.continues, claim.sentOn)) {
        paper.turn();
        drawMarks(paper, marks, practice);
        paper.y = paper.bottom;
      }
    for (const one of explained.filter(({ claimId }) => claimId === claim.id)) {
      paper.turn();
      drawExplained(paper, claim.content, one, reasons);
    }
  }
  return paper.finish();
}

/** A PDF with its name. */
type File = { file: string; body: Buffer };

/** The claims that were printed together, as they were. @throws Refused when there is no such print */
export async function printFile(context: Context, printId: number): Promise<File> {
  allow(context, 'work claims');
  const print = await context.db
    .selectFrom('claim_print')
    .selectAll()
    .where('id', '=', printId)
    .executeTakeFirst();
  if (!print) throw new Refused('unknown', 'There is no such print');
  await audit(
    context.db,
    context,
    'printed',
    { kind: 'claims', id: print.claims.length },
    { print: printId },
  );
  const body = await drawn(context, await printables(context, print.claims), `Claims ${printId}`);
  return { file: `claims-${printId}.pdf`, body };
}

/** One claim on paper, as it is now or was sent. @throws Refused when there is no such claim */
export async function claimFile(context: Context, claimId: number): Promise<File> {
  allow(context, 'read claims');
  await opened(context, { kind: 'claim', id: claimId }, 'printed');
  const claims = await printables(context, [claimId]);
  const [claim] = claims;
  if (!claim) throw new Refused('unknown', 'There is no such claim');
  const { controlNumber } = claim.content;
  return { file: `claim-${controlNumber}.pdf`, body: await drawn(context, claims, `Claim ${controlNumber}`) };
}

/** A test page for the pre-printed form: something in every box. */
export async function testPageFile(context: Context): Promise<File> {
  allow(context, 'work claims');
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const paper = await Paper.open('LETTER', 'Test page of claim forms', practice.name);
  drawMarks(paper, testMarks(), practice);
  return { file: 'claim-form-test.pdf', body: await paper.finish() };
}
