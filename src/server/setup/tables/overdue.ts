import { amount, percent, reference, text, whole, yesNo } from '../../../core/setup/fields';
import type { Choice } from '../../../core/setup/fields';
import type { Db } from '../../../db/connect';
import { Refused } from '../../access';
import { setupTable } from '../table';
import { connectionChoices } from './connections';

const letterChoices = async (db: Db): Promise<Choice[]> => {
  const rows = await db
    .selectFrom('letter_template')
    .select(['id', 'name'])
    .where('active', '=', true)
    .orderBy('name')
    .execute();
  return rows.map((row) => ({ value: String(row.id), label: row.name }));
};

/** How what is overdue is worked. */
export const overduePolicy = setupTable({
  key: 'overdue-policy',
  title: 'Overdue policy',
  noun: ['overdue policy', 'overdue policies'],
  about:
    'Who is written to, spared and called, and when an agency is proposed. The limits of calls are those of Regulation F (12 CFR 1006.14(b)(2) and 1006.6(b)); they bind agencies, and a practice sets its own.',
  table: 'overdue_policy',
  keys: ['id'],
  order: 'id',
  single: true,
  fields: {
    least: amount('Least past due', { hint: 'Less is left in peace' }),
    between_letters: whole('Days between letters', 0, 366),
    recent_days: whole('Spared when paid in', 0, 366, { hint: 'Days; 0: nobody for it' }),
    spare_claims: yesNo('Spared while a claim is out', { begins: true }),
    spare_plans: yesNo('Spared while a plan is in good order', { begins: true }),
    dispute_reason: reference('A dispute stops', {
      open: true,
      hint: 'As this reason of the account stops says',
    }),
    hardship_reason: reference('Hardship stops', { open: true }),
    bankrupt_reason: reference('Bankruptcy stops', { open: true, hint: 'When an agency says so' }),
    calls: whole('Calls at most', 1, 99),
    call_days: whole('Within days', 1, 99),
    quiet_days: whole('No call after talking, days', 0, 99, {
      hint: 'The day of the conversation is the first',
    }),
    call_from: whole('Calls from, o’clock', 0, 23, { hint: 'Where the person is' }),
    call_to: whole('Calls until, o’clock', 1, 24),
    small_below: amount('Small balance below'),
    small_days: whole('Small balance after days', 0, 3650),
    agency_days: whole('Agency after days', 0, 999, { hint: 'After the last letter' }),
    agency_least: amount('Agency from'),
    agency_id: reference('Agency proposed each morning', {
      open: true,
      hint: 'For whom it is due; empty: a person proposes',
    }),
  },
  refers: {
    dispute_reason: 'stop_reason',
    hardship_reason: 'stop_reason',
    bankrupt_reason: 'stop_reason',
    agency_id: 'connection',
  },
  choices: { agency_id: connectionChoices('agency') },
  verify: (_, parsed) => {
    if (Number(parsed.call_from) >= Number(parsed.call_to))
      throw new Refused('date', 'Calls end before they begin', 'call_to');
    return Promise.resolve();
  },
});

/** The stages of letters, in their order. */
export const overdueStages = setupTable({
  key: 'overdue-stages',
  title: 'Overdue stages',
  noun: ['stage', 'stages'],
  about:
    'Letters in their order, each from so many days past due. None is skipped; a debt that was cured begins anew.',
  table: 'overdue_stage',
  keys: ['id'],
  order: 'position',
  fields: {
    position: whole('Order', 1, 20),
    name: text('Name', { needed: true }),
    days: whole('Days past due', 0, 999),
    template_id: reference('Letter'),
  },
  refers: { template_id: 'letter_template' },
  choices: { template_id: letterChoices },
  verify: async (db, parsed) => {
    const position = Number(parsed.position);
    const others = await db.selectFrom('overdue_stage').select(['position', 'days', 'name']).execute();
    const wrong = others.find(
      (other) =>
        other.name !== parsed.name &&
        ((other.position < position && other.days > Number(parsed.days)) ||
          (other.position > position && other.days < Number(parsed.days))),
    );
    if (wrong)
      throw new Refused('invalid', `“${wrong.name}” is at ${wrong.days} days: later stages have more days`, {
        field: 'days',
        facts: { name: wrong.name },
      });
  },
});

/** The federal poverty level, as the practice enters it. */
export const povertyLevels = setupTable({
  key: 'poverty-levels',
  title: 'Poverty levels',
  noun: ['poverty level', 'poverty levels'],
  about:
    'The federal poverty level by size of household, as published each year by the Department of Health and Human Services; larger households count on by the last step.',
  table: 'poverty_level',
  keys: ['year', 'size'],
  order: 'year',
  fields: {
    year: whole('Year', 2000, 2200, { fixed: true }),
    size: whole('Persons', 1, 20, { fixed: true }),
    amount: amount('A year'),
  },
});

/** What is reduced for whom. */
export const hardshipBands = setupTable({
  key: 'hardship-bands',
  title: 'Hardship reductions',
  noun: ['reduction', 'reductions'],
  about: 'What comes off for who has up to so many percent of the poverty level; a manager decides each.',
  table: 'hardship_band',
  keys: ['id'],
  order: 'up_to',
  fields: { up_to: whole('Up to percent of the level', 1, 2000), reduction: percent('Reduction') },
});
