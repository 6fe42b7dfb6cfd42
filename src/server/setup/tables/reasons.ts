import { z } from 'zod';
import { choice, text, yesNo } from '../../../core/setup/fields';
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
      always: 'always',
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
  },
  choices: {
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
