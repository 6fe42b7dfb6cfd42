/** A coverage of which nothing is left, as its payer says in a letter: the next one is asked instead. */
import { createHash } from 'node:crypto';
import { exhaustInput, notExhaustedInput } from '../../core/accounts/input';
import { formatDate } from '../../core/calendar';
import { type Context, Refused } from '../access';
import { allowOpen } from '../closed';
import { type Act, useCase } from '../use-case';
import { followed, patientOf } from './coverage';

/** What a kept letter is, by its first bytes. */
const MEDIA = [
  { media: 'application/pdf', begins: [0x25, 0x50, 0x44, 0x46, 0x2d], extension: 'pdf' },
  { media: 'image/png', begins: [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a], extension: 'png' },
  { media: 'image/jpeg', begins: [0xff, 0xd8, 0xff], extension: 'jpg' },
] as const;

async function covered(act: Act, coverageId: number) {
  const known = await act.db
    .selectFrom('covered as c')
    .select(['c.patient_id', 'c.case_id', 'c.valid_from', 'c.valid_to'])
    .where('c.id', '=', coverageId)
    .executeTakeFirst();
  if (!known) throw new Refused('unknown', 'There is no such coverage');
  return { ...known, patient: await patientOf(act, known.patient_id, known.case_id) };
}

/**
 * Says that nothing is left of a coverage for services from a day on, and keeps the payer's letter. What it was billed for goes on
 * until it decides; what nobody was billed for yet goes to the next one, and so does what is entered from now on.
 * @returns how many charges followed, how many were left, and claims that went elsewhere
 */
export const exhaustCoverage = useCase({
  name: 'exhaust coverage',
  permission: 'register people',
  input: exhaustInput,
  async run(act, { coverageId, from, letter }) {
    const { patient, valid_from, valid_to } = await covered(act, coverageId);
    if (from > act.today)
      throw new Refused('date', 'The letter says what is so: a day that has come', 'from');
    if ((valid_from && from < valid_from) || (valid_to && from > valid_to))
      throw new Refused('date', `It was not in force on ${formatDate(from)}`, 'from');
    const kind = MEDIA.find(({ begins }) => begins.every((byte, at) => letter[at] === byte));
    if (!kind) throw new Refused('invalid', 'The letter is no PDF and no picture (PNG, JPEG)', 'letter');
    const sha256 = createHash('sha256').update(letter).digest('hex');
    await act.db
      .insertInto('document')
      .values({ sha256, media: kind.media, bytes: Buffer.from(letter), pages: null })
      .onConflict((conflict) => conflict.doNothing())
      .execute();
    await act.db
      .updateTable('coverage')
      .set({ exhausted_from: from, exhausted_letter: sha256 })
      .where('id', '=', coverageId)
      .execute();
    await act.note(
      'said that nothing is left',
      { kind: 'coverage', id: coverageId },
      { from, letter: sha256 },
    );
    return followed(act, patient);
  },
});

/** Says that something is left of a coverage after all; the letter stays kept. @returns what followed */
export const notExhausted = useCase({
  name: 'coverage not exhausted',
  permission: 'register people',
  input: notExhaustedInput,
  async run(act, { coverageId }) {
    const { patient } = await covered(act, coverageId);
    const gone = await act.db
      .updateTable('coverage')
      .set({ exhausted_from: null, exhausted_letter: null })
      .where('id', '=', coverageId)
      .where('exhausted_from', 'is not', null)
      .returning('id')
      .executeTakeFirst();
    if (gone) await act.note('said that something is left', { kind: 'coverage', id: coverageId });
    return followed(act, patient);
  },
});

/** The letter by which nothing is left of a coverage. @throws Refused when there is none */
export async function readLetter(context: Context, coverageId: number) {
  await allowOpen(context, { coverageId });
  const found = await context.db
    .selectFrom('coverage as c')
    .innerJoin('document as d', 'd.sha256', 'c.exhausted_letter')
    .select(['d.bytes', 'd.media'])
    .where('c.id', '=', coverageId)
    .executeTakeFirst();
  if (!found) throw new Refused('unknown', 'There is no letter about this coverage');
  const kind = MEDIA.find(({ media }) => media === found.media)!;
  return { name: `letter-coverage-${coverageId}.${kind.extension}`, ...found };
}
