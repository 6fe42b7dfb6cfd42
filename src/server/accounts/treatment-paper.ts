/** An estimate of treatment on one page, in words that a patient understands, to hand over and to sign. */
import type { Selectable } from 'kysely';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { givenAnewBy } from '../../core/estimates/good-faith';
import { type Cents, ZERO, add, formatMoneyPlain, sum } from '../../core/money';
import type { DB } from '../../db/views';
import { heading, letterhead, signature, table } from '../print/blocks';
import { Paper } from '../print/paper';
import type { TreatmentLine } from './treatment';

/** What an estimate says. */
export interface EstimateFacts {
  practice: Selectable<DB['practice']>;
  account: string;
  patient: string;
  birthDate: CalendarDate;
  caseName: string;
  /** The way of treating; empty where it is what is chosen. */
  option: string;
  /** Nobody insures it: a good faith estimate (45 CFR 149.610). */
  goodFaith: boolean;
  madeOn: CalendarDate;
  validUntil: CalendarDate;
  bookedFor: CalendarDate | null;
  lines: readonly TreatmentLine[];
  /** By installments; null where it is too little for any. */
  plan: { installments: number; level: Cents } | null;
}

const m = formatMoneyPlain;

/** What all of it comes to, in one sentence. */
function together({ lines }: EstimateFacts): string {
  const total = (of: 'fee' | 'writeOff' | 'payers' | 'patient'): Cents => sum(lines.map((line) => line[of]));
  const payers = new Map<string, Cents>();
  for (const { payer, pays } of lines.flatMap(({ each }) => each))
    payers.set(payer, add(payers.get(payer) ?? ZERO, pays));
  return [
    `The fee is ${m(total('fee'))}`,
    ...(total('writeOff') > 0 ? [`our contract with your insurer saves you ${m(total('writeOff'))}`] : []),
    ...[...payers].map(([payer, pays]) => `${payer} is expected to pay ${m(pays)}`),
    `your part is ${m(total('patient'))}`,
  ].join('; ');
}

/** How a paper says who may dispute a bill (45 CFR 149.610(c)(1), in our words). */
const DISPUTE =
  'This is a good faith estimate of what is expected to be charged for the services listed. The actual charges may differ, as needs change while you are treated. If you are billed 400.00 or more above this estimate for one provider, you may dispute the bill: ask us first, or begin the federal dispute process within 120 days of the bill (www.cms.gov/nosurprises). Services that are booked apart from these, such as by another provider, have estimates of their own. This is no contract, and it does not oblige you to be treated. Keep a copy.';

/** Draws an estimate. @returns its bytes and how many pages it has */
export async function estimatePaper(
  facts: EstimateFacts & { number: string },
): Promise<{ bytes: Buffer; pages: number }> {
  const { practice, lines, goodFaith } = facts;
  const title = goodFaith ? 'Good faith estimate' : 'What your treatment is expected to cost';
  const paper = await Paper.open(practice.paper, `${title} ${facts.number}`, practice.name);
  letterhead(paper, practice);
  paper.y += 10;
  heading(paper, title);
  const say = (words: string, size = 10): void => {
    paper.paragraph(words, paper.left, paper.y, paper.width, { size });
  };
  say(
    [
      `${facts.patient}, born ${formatDate(facts.birthDate)}, account ${facts.account}`,
      facts.caseName,
      facts.option,
    ]
      .filter(Boolean)
      .join(' · '),
  );
  say(
    `Estimate ${facts.number} of ${formatDate(facts.madeOn)}, valid until ${formatDate(facts.validUntil)}${facts.bookedFor ? `, booked for ${formatDate(facts.bookedFor)}` : ''}`,
  );
  if (goodFaith)
    for (const provider of new Set(lines.map((line) => line.provider)))
      say(
        `By ${provider}, ${practice.name}, ${practice.line1}, ${practice.city} ${practice.state}; NPI ${practice.npi}, tax number ${practice.tax_id}`,
        9,
      );
  paper.y += 6;
  const phases = new Set(lines.map(({ phase }) => phase)).size > 1;
  table(
    paper,
    [
      {
        title: 'Service',
        share: 3.6,
        words: (line) =>
          [
            phases && `Phase ${line.phase}:`,
            goodFaith && line.code,
            line.patientWords,
            line.tooth && `· tooth ${line.tooth}`,
            goodFaith && line.diagnoses.length > 0 && `(${line.diagnoses.join(', ')})`,
          ]
            .filter(Boolean)
            .join(' '),
      },
      { title: 'Fee', share: 1, amount: ({ fee }) => fee },
      ...(goodFaith
        ? []
        : [
            { title: 'Contract saves', share: 1.1, amount: ({ writeOff }: TreatmentLine) => writeOff },
            { title: 'Insurers', share: 1, amount: ({ payers }: TreatmentLine) => payers },
          ]),
      { title: 'Your part', share: 1, amount: ({ patient }) => patient },
    ],
    [...lines],
    { under: ({ reached }) => reached },
  );
  paper.y += 6;
  say(`${together(facts)}.`, 11);
  const patient = sum(lines.map((line) => line.patient));
  if (patient > 0)
    say(
      `You may pay ${m(patient)} at once${facts.plan ? `, or in ${facts.plan.installments} monthly installments of about ${m(facts.plan.level)}` : ''}.`,
    );
  paper.y += 4;
  if (goodFaith) {
    say(DISPUTE, 8);
    if (facts.bookedFor)
      say(`If something changes, you have a new estimate by ${formatDate(givenAnewBy(facts.bookedFor))}.`, 8);
  } else
    say(
      'This is an estimate by what is known of your coverage today. What the insurers decide may differ, and so may the services.',
      8,
    );
  signature(paper, `${facts.patient}, or who signs for the patient`);
  let pages = 0;
  const bytes = await paper.finish((page, all) => {
    pages = all;
    return `${facts.number} · ${formatDate(facts.madeOn)} · page ${page} of ${all}`;
  });
  return { bytes, pages };
}
