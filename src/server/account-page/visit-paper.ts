/** A visit on paper: what was done, with its fees, as it stands. */
import { ORAL_AREAS } from '../../core/accounts/oral-areas';
import { formatDate } from '../../core/calendar';
import { add, sum } from '../../core/money';
import { type Context, Refused } from '../access';
import { readVisit } from '../accounts/door';
import { heading, letterhead, table } from '../print/blocks';
import { Paper } from '../print/paper';

/** The visit of which a charge is, on one paper. @throws Refused when there is none, or Setup has no practice */
export async function visitPaper(
  context: Context,
  chargeId: number,
): Promise<{ name: string; bytes: Buffer }> {
  const visit = await readVisit(context, chargeId);
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const paper = await Paper.open(practice.paper, `Visit of ${formatDate(visit.date)}`, practice.name);
  letterhead(paper, practice);
  paper.y += 10;
  heading(paper, `Visit of ${formatDate(visit.date)}`);
  for (const line of [
    `${visit.patient}, born ${formatDate(visit.birthDate)}, account ${visit.account}`,
    [visit.provider, visit.site, visit.caseName].filter(Boolean).join(' · '),
  ])
    paper.paragraph(line, paper.left, paper.y, paper.width, { size: 10 });
  paper.y += 8;
  table(
    paper,
    [
      {
        title: 'Service',
        share: 4,
        words: (line) =>
          [
            `${[line.code, ...line.modifiers].join(' ')} ${line.description}`,
            line.tooth && `tooth ${line.tooth}${line.surfaces}`,
            line.area && ORAL_AREAS[line.area],
          ]
            .filter(Boolean)
            .join(' · '),
      },
      { title: 'Diagnoses', share: 2, words: (line) => line.diagnoses.join(', ') },
      { title: 'Units', share: 0.8, right: true, words: (line) => String(line.units) },
      { title: 'Fee', share: 1.1, amount: (line) => line.fee },
      ...(sum(visit.lines.map(({ tax }) => tax)) > 0
        ? [
            { title: 'Tax', share: 1, amount: (line: (typeof visit.lines)[number]) => line.tax },
            {
              title: 'Together',
              share: 1.1,
              amount: (line: (typeof visit.lines)[number]) => add(line.fee, line.tax),
            },
          ]
        : []),
    ],
    visit.lines,
  );
  paper.foot(
    (page, pages) => `Account ${visit.account} · ${formatDate(context.today)} · page ${page} of ${pages}`,
  );
  return { name: `visit-${visit.account}-${visit.date}.pdf`, bytes: await paper.finish() };
}
