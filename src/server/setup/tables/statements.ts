import { z } from 'zod';
import {
  amount,
  choice,
  percent,
  reference,
  several,
  state,
  text,
  whole,
  yesNo,
} from '../../../core/setup/fields';
import { LATE_KINDS } from '../../../core/statements/policy';
import { DUE_STATES, WHETHER } from '../../../core/statements/messages';
import { BrokenWords, VARIABLE_NAMES, readWords } from '../../../core/statements/variables';
import { Refused } from '../../access';
import { setupTable } from '../table';
import { isOfKind } from './schedules';

/** How statements are made, for the practice and for sites that do otherwise. */
export const statementPolicies = setupTable({
  key: 'statement-policy',
  title: 'Statement policy',
  noun: ['policy', 'policies'],
  about:
    'Who gets a statement how often, and what it says of paying. The row without a site is for the whole practice; a site’s own row takes its place there.',
  table: 'statement_policy',
  keys: ['id'],
  order: 'id',
  fields: {
    location_id: reference('Site', { open: true, fixed: true, hint: 'Empty: the whole practice' }),
    least: amount('Least to send'),
    cycle: choice('Cycle', { days: 'every so many days', monthly: 'on a day of the month' }),
    cycle_number: whole('Days, or day', 1, 366),
    due_days: whole('Days to pay', 0, 120),
    grace_days: whole('Days of grace', 0, 120),
    aging_from: choice('Age from', {
      responsible: 'when it became the patient’s',
      service: 'the date of service',
    }),
    tenders: several('Can be paid by'),
    messages: whole('Messages at most', 0, 9),
    late_kind: choice('Late charge', LATE_KINDS, {
      hint: 'A charge for paying late can be a finance charge: Regulation Z, 12 CFR 1026.4(c)(2) and its comment',
    }),
    late_flat: amount('Flat late charge'),
    late_rate: percent('Late charge, yearly rate'),
    late_least: amount('Late charge, least'),
    late_most: amount('Late charge, most', { open: true }),
    remit_name: text('Payments to: name', { hint: 'Empty: the practice’s own address' }),
    remit_line1: text('Payments to: street'),
    remit_city: text('Payments to: city'),
    remit_state: state('Payments to: state'),
    remit_zip: text('Payments to: ZIP'),
    phone: text('Telephone for questions', { hint: 'Empty: the practice’s own' }),
    hours: text('Hours'),
  },
  refers: { location_id: 'location' },
  verify: async (_, parsed) => {
    if (parsed.cycle === 'monthly' && Number(parsed.cycle_number) > 28)
      throw new Refused('invalid', 'A day of the month is 1 to 28', 'cycle_number');
    if (parsed.late_kind === 'yearly' && Number(parsed.late_rate) === 0)
      throw new Refused('missing', 'The yearly rate of the late charge is missing', 'late_rate');
    if (parsed.late_kind === 'flat' && Number(parsed.late_flat) === 0)
      throw new Refused('missing', 'The flat late charge is missing', 'late_flat');
    if (parsed.late_most !== null && Number(parsed.late_most) < Number(parsed.late_least))
      throw new Refused('limit', 'The most is less than the least', 'late_most');
    const remit = ['remit_line1', 'remit_city', 'remit_state', 'remit_zip'].filter(
      (name) => parsed[name] === '',
    );
    if (remit.length > 0 && remit.length < 4)
      throw new Refused('invalid', 'The address for payments is incomplete', remit[0]!);
  },
});

/** Why something is not done with an account. */
export const stopReasons = setupTable({
  key: 'stop-reasons',
  title: 'Account stops',
  noun: ['reason', 'reasons'],
  about: 'Why something is not done with an account, and what each reason stops.',
  table: 'stop_reason',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Reason', { needed: true }),
    statements: yesNo('Statements'),
    late_charges: yesNo('Late charges'),
    letters: yesNo('Letters'),
    calls: yesNo('Calls'),
    agency: yesNo('Agency'),
  },
});

/** Messages on statements, tried in their order. */
export const statementMessages = setupTable({
  key: 'statement-messages',
  title: 'Statement messages',
  noun: ['message', 'messages'],
  about:
    'Words on statements: of those whose condition holds the first are printed, as many as the policy says. What a field leaves empty holds always.',
  table: 'statement_message',
  keys: ['id'],
  order: 'position',
  fields: {
    position: whole('Order', 1, 9999),
    name: text('Name', { needed: true }),
    words: text('Words', {
      form: z.string().trim().min(1, 'are missing').max(500, 'may have 500 characters'),
      hint: `Variables: ${VARIABLE_NAMES.map((name) => `{${name}}`).join(' ')}`,
    }),
    age_from: whole('Days from', 0, 9999, { open: true, hint: 'How old the oldest amount is' }),
    age_to: whole('Days up to', 0, 9999, { open: true }),
    due: choice('What is due', DUE_STATES),
    insured: choice('Insurers still to pay', WHETHER),
    on_plan: choice('On a plan', WHETHER),
    location_id: reference('Site', { open: true }),
    month_from: whole('From month', 1, 12, { open: true }),
    month_to: whole('Through month', 1, 12, { open: true }),
    active: yesNo('Active', { begins: true }),
  },
  refers: { location_id: 'location' },
  verify: async (_, parsed) => {
    try {
      readWords(String(parsed.words));
    } catch (error) {
      if (error instanceof BrokenWords) throw new Refused('state', error.message, 'words');
      throw error;
    }
    if (parsed.age_from !== null && parsed.age_to !== null && Number(parsed.age_to) < Number(parsed.age_from))
      throw new Refused('invalid', 'It ends before it begins', 'age_to');
  },
});

/** What accounts are sorted by. */
export const accountCategories = setupTable({
  key: 'account-categories',
  title: 'Account categories',
  noun: ['category', 'categories'],
  about:
    'What accounts are sorted by when statements are chosen, and what they pay where no insurer is asked.',
  table: 'account_category',
  keys: ['name'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true, fixed: true }),
    fee_schedule_id: reference('Pays by', { open: true, hint: 'empty: the office fees' }),
  },
  refers: { fee_schedule_id: 'fee_schedule' },
  verify: isOfKind('discount'),
});

/** How patients come to the practice. */
export const referralSources = setupTable({
  key: 'referral-sources',
  title: 'How patients come',
  noun: ['way', 'ways'],
  about: 'How patients come to the practice: cases choose from them.',
  table: 'referral_source',
  keys: ['name'],
  order: 'name',
  fields: { name: text('Name', { needed: true, fixed: true }) },
});

/** What is often noted. */
export const commonNotices = setupTable({
  key: 'common-notices',
  title: 'Common notices',
  noun: ['notice', 'notices'],
  about: 'What is often noted on accounts, people, cases and payers: notes choose from it.',
  table: 'common_notice',
  keys: ['words'],
  order: 'words',
  fields: { words: text('Words', { needed: true, fixed: true }) },
});
