import { z } from 'zod';
import { choice, date, pick, text, whole, yesNo } from '../../../core/setup/fields';
import { Refused } from '../../access';
import { setupTable } from '../table';

/** What each adjustment of a payer means. */
export const reasons = setupTable({
  key: 'reasons',
  title: 'Reason codes',
  noun: ['reason code', 'reason codes'],
  about: 'What each adjustment of a payer means: for the books, for the desk and for the patient.',
  table: 'reason_code',
  keys: ['group_code', 'code'],
  order: 'code',
  fields: {
    group_code: choice(
      'Group',
      { CO: 'CO', PR: 'PR', OA: 'OA', PI: 'PI', CR: 'CR', '*': 'every group' },
      { fixed: true },
    ),
    code: text('Code', { fixed: true, needed: true }),
    words: text('Words for the desk', { needed: true }),
    patient_words: text('Words for the patient'),
    denial: yesNo('Denial'),
    follow_up: choice('Follow up', {
      never: 'never',
      'while-money': 'while money is open',
      always: 'always, even at zero',
    }),
    travels_as: text('Goes on as', {
      form: z
        .string()
        .trim()
        .toUpperCase()
        .regex(/^((CO|PR|OA|PI|CR)-[A-Z0-9]{1,5})?$/, 'is a group and a standard code, such as CO-192'),
      hint: 'To the next payer, where it is a code of our own: such as CO-192',
    }),
    reduction_account: { ...text('Reduction account', { needed: true }), kind: 'choice' },
    follow_up_owner: pick('Followed up by', {
      open: true,
      under: 'Who follows it up, and of which days it is',
      hint: 'Whoever takes it, where nobody is named',
    }),
    follow_up_days: whole('Within days', 0, 365, {
      open: true,
      hint: 'As its kind has it, where nothing is said',
    }),
    valid_from: date('Valid from'),
    valid_to: date('until'),
  },
  leads: { path: '/remittances/reasons/', words: 'Uses' },
  async verify(_db, { valid_from: from, valid_to: to }) {
    if (typeof from === 'string' && typeof to === 'string' && from > to)
      throw new Refused('date', 'It ends before it begins', 'valid_to');
  },
  choices: {
    follow_up_owner: async (db) => {
      const rows = await db
        .selectFrom('user')
        .select('name')
        .where('disabled_at', 'is', null)
        .orderBy('name')
        .execute();
      return rows.map(({ name }) => ({ value: name, label: name }));
    },
    reduction_account: async (db) => {
      const rows = await db
        .selectFrom('book_account')
        .select(['code', 'words'])
        .where('part', '=', 'reduced')
        .orderBy('words')
        .execute();
      return rows.map((row) => ({ value: row.code, label: row.words }));
    },
  },
});
