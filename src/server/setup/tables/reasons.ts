import { z } from 'zod';
import { choice, date, pick, several, text, whole, yesNo } from '../../../core/setup/fields';
import { COMBINED_GROUPS, SCENARIOS } from '../../../core/remittances/combinations';
import { Refused } from '../../access';
import { setupTable } from '../table';

const upper = z.string().trim().toUpperCase();
const reasonForm = upper.regex(/^[A-Z0-9]{1,5}$/, 'is no reason code');
const remarkForm = upper.regex(/^[A-Z0-9]{0,6}$/, 'is no remark code');

/** Which reasons and remarks go together. */
export const combinations = setupTable({
  key: 'combinations',
  title: 'Reasons that go together',
  noun: ['combination', 'combinations'],
  about:
    'Reasons, remarks and groups of the four scenarios of CAQH CORE 360. A denial outside them is said, as information. Brought in by the practice.',
  table: 'reason_combination',
  keys: ['scenario', 'reason', 'remark'],
  order: 'reason',
  fields: {
    scenario: choice('Scenario', SCENARIOS, { fixed: true }),
    reason: text('Reason', { fixed: true, needed: true, form: reasonForm }),
    remark: text('Remark', { fixed: true, hint: 'Empty: it needs none', form: remarkForm }),
    groups: several('Under the groups'),
    active: yesNo('In force', { begins: true }),
  },
  async verify(_db, { groups }) {
    if (!Array.isArray(groups) || groups.length === 0)
      throw new Refused('missing', 'It goes under one group at least', 'groups');
    const strange = groups.find((group) => !COMBINED_GROUPS.includes(String(group)));
    if (strange !== undefined) throw new Refused('invalid', `${String(strange)} is no group`, 'groups');
  },
});

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
