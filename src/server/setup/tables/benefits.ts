import { z } from 'zod';
import {
  BENEFIT_KINDS,
  type BenefitKind,
  CONDITIONS,
  COPAY_ORDERS,
  COUNTED,
  COUNTED_FOR,
  HOLDERS,
  PERIODS,
  REDUCTIONS,
  THEN_PAYS,
  WARNINGS,
} from '../../../core/estimates/benefits';
import {
  type FieldRule,
  amount,
  choice,
  date,
  openCode,
  percent,
  percents,
  pick,
  reference,
  text,
  whole,
  yesNo,
} from '../../../core/setup/fields';
import type { Db } from '../../../db/connect';
import { Refused } from '../../access';
import { checkAgain } from '../changed';
import { type SetupTable, setupTable } from '../table';
import { categories } from './categories';

interface Words {
  key: string;
  title: string;
  noun: readonly [one: string, many: string];
  about: string;
}

const words = <T extends string>(all: readonly T[], of: Record<T, string>): Record<T, string> =>
  Object.fromEntries(all.map((one) => [one, of[one]])) as Record<T, string>;
const WHOSE = words(HOLDERS, { person: 'each person', household: 'all whom the policy insures' });
const OVER = words(PERIODS, {
  year: 'a year',
  day: 'a day',
  month: 'a calendar month',
  months: 'so many months back',
  coverage: 'as long as the coverage',
  life: 'for life',
});
const ORDER = words(COPAY_ORDERS, {
  between: 'after the deductible, before the share',
  before: 'before deductible and share',
  after: 'after deductible and share',
  instead: 'in place of deductible and share',
});
const THEN = words(THEN_PAYS, { next: 'the next payer, if there is one', patient: 'the patient' });

const WARNING = words(WARNINGS, { none: 'shown in the estimate', confirm: 'has to be meant' });

const holder = choice('Counted for', WHOSE, { fixed: true });
const anchor = date('Year begins', { hint: 'empty: on 1 January' });
const over = {
  every: choice('Over', OVER, { fixed: true }),
  months: whole('Months', 1, 600, { open: true, hint: 'how many, looked back', fixed: true }),
  anchor,
};

type OwnPage = Exclude<BenefitKind, (typeof CONDITIONS | typeof REDUCTIONS)[number]>;

/** What rules of a kind say beside their plan, day and category. */
const SAYS: Readonly<Record<OwnPage, Readonly<Record<string, FieldRule>>>> = {
  share: { share: percent('Pays') },
  deductible: { amount: amount('Amount'), holder, anchor },
  copay: {
    amount: amount('Amount'),
    counted_for: choice('Once', COUNTED_FOR),
    copay_order: choice('Taken', ORDER),
  },
  maximum: {
    amount: amount('Amount', { open: true, hint: 'empty: none' }),
    holder,
    ...over,
    then_pays: choice('Beyond it pays', THEN),
    warning: choice('Going beyond', WARNING),
  },
  'out-of-pocket': { amount: amount('Amount', { open: true, hint: 'empty: none' }), holder, anchor },
  limit: {
    quantity: whole('Number', 0, 9999, { open: true, hint: 'empty: no limit' }),
    measure: choice('Counted', COUNTED, { fixed: true }),
    holder,
    ...over,
    by_tooth: yesNo('Each tooth by itself', { fixed: true }),
    then_pays: choice('Beyond it pays', THEN),
    warning: choice('Going beyond', WARNING),
  },
};

/** Which fields of a period belong together. */
function ofOnePeriod(parsed: Readonly<Record<string, unknown>>): void {
  if (!('every' in parsed)) return;
  const back = parsed['every'] === 'months';
  if (back !== (parsed['months'] !== null))
    throw new Refused(
      'invalid',
      back ? 'Say how many months' : 'Months are for “so many months back” alone',
      'months',
    );
  if (parsed['every'] !== 'year' && parsed['anchor'] !== null)
    throw new Refused('invalid', 'Only a year begins on a day of its own', 'anchor');
}

/** A group of codes in place of a category. */
const codes: FieldRule = {
  ...openCode('Codes', { hint: 'of these instead, with commas', fixed: true }),
  schema: z
    .string()
    .trim()
    .max(2000, 'are too many')
    .transform((value) => {
      const all = value
        .toUpperCase()
        .split(/[\s,;]+/)
        .filter(Boolean);
      return all.length === 0 ? null : [...new Set(all)].sort();
    }),
  show: (kept) => (Array.isArray(kept) ? kept.join(', ') : ''),
};

/** Of a category or of codes, and known ones. */
async function ofOneScope(db: Db, parsed: Readonly<Record<string, unknown>>, needed: boolean): Promise<void> {
  const group = parsed['codes'] as string[] | null | undefined;
  const category = parsed['category'] ?? null;
  if (category !== null && group) throw new Refused('invalid', 'A category, or codes: not both', 'codes');
  if (needed && category === null && !group) throw new Refused('missing', 'Category is missing', 'category');
  if (!group) return;
  const known = await db.selectFrom('service_code').select('code').where('code', 'in', group).execute();
  const missing = group.find((code) => !known.some((one) => one.code === code));
  if (missing !== undefined)
    throw new Refused('unknown', `Code ${missing} is not in the list of services`, 'codes');
}

/** The rules of one kind that plans say, each from a day on. */
function rules(kind: OwnPage, said: Words): SetupTable {
  const { category, counts } = BENEFIT_KINDS[kind];
  return setupTable({
    ...said,
    about: counts === null ? said.about : `${said.about} Counted is ${counts}.`,
    table: 'benefit_rule',
    keys: ['id'],
    order: 'insurance_plan_id',
    fields: {
      insurance_plan_id: reference('Plan', { fixed: true }),
      ...(category === 'never'
        ? {}
        : {
            category: pick('Category', {
              fixed: true,
              open: true,
              hint: category === 'may' ? 'empty: all services' : 'or codes',
            }),
          }),
      ...(kind === 'out-of-pocket' ? {} : { codes }),
      valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
      ...SAYS[kind],
    },
    refers: { insurance_plan_id: 'insurance_plan' },
    ...(category === 'never' ? {} : { choices: { category: categories } }),
    rowsWith: { column: 'kind', value: kind },
    parent: { table: 'plans', field: 'insurance_plan_id' },
    partOf: 'plans',
    verify: async (db, parsed) => {
      ofOnePeriod(parsed);
      await ofOneScope(db, parsed, category === 'always');
    },
    changed: checkAgain,
  });
}

/** What plans pay of each category of services. */
export const shares = rules('share', {
  key: 'shares',
  title: 'Plan shares',
  noun: ['share', 'shares'],
  about: 'What a plan pays of each category of services. A category that is not here is not covered.',
});
/** What a person pays first in a year. */
export const deductibles = rules('deductible', {
  key: 'deductibles',
  title: 'Deductibles',
  noun: ['deductible', 'deductibles'],
  about:
    'What is paid first in a year. Of a person and of the household: either met is enough; of the household alone: only that. A category of services with 0.00 is spared it.',
});
/** What a person pays for each visit or service. */
export const copays = rules('copay', {
  key: 'copays',
  title: 'Copays',
  noun: ['copay', 'copays'],
  about: 'What a person pays once a visit, a day or a service.',
});
/** What plans pay at most. */
export const maximums = rules('maximum', {
  key: 'maximums',
  title: 'Maximums',
  noun: ['maximum', 'maximums'],
  about: 'What a plan pays at most: a year, for life, a day, for all services or a category.',
});
/** What a person pays at most. */
export const outOfPocket = rules('out-of-pocket', {
  key: 'out-of-pocket',
  title: 'Out-of-pocket limits',
  noun: ['limit', 'limits'],
  about:
    'What a person or a household pays at most in a year: once it is met the plan pays all that is allowed, and copays stop.',
});
/** How many visits, days, units or services plans pay for. */
export const limits = rules('limit', {
  key: 'limits',
  title: 'Limits of services',
  noun: ['limit', 'limits'],
  about: 'How many visits, days, units or services a plan pays for, and over which time.',
});

const kindOf = (kinds: readonly BenefitKind[]): FieldRule =>
  choice('Rule', Object.fromEntries(kinds.map((kind) => [kind, BENEFIT_KINDS[kind].words])), { fixed: true });
/** A table of several kinds of rules, with what each of them says. @param needs the fields of each kind, and no others */
const several = (
  kinds: readonly BenefitKind[],
  said: Words,
  fields: Readonly<Record<string, FieldRule>>,
  needs: (parsed: Readonly<Record<string, unknown>>) => void,
): SetupTable =>
  setupTable({
    ...said,
    table: 'benefit_rule',
    keys: ['id'],
    order: 'insurance_plan_id',
    fields: {
      insurance_plan_id: reference('Plan', { fixed: true }),
      kind: kindOf(kinds),
      category: pick('Category', { fixed: true, open: true, hint: 'empty: all services' }),
      codes,
      valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
      ...fields,
    },
    refers: { insurance_plan_id: 'insurance_plan' },
    choices: { category: categories },
    rowsWith: { column: 'kind', values: kinds },
    parent: { table: 'plans', field: 'insurance_plan_id' },
    partOf: 'plans',
    verify: async (db, parsed) => {
      needs(parsed);
      await ofOneScope(db, parsed, false);
    },
    changed: checkAgain,
  });

/** Refuses a field that is missing, or said where its kind has none. */
function needed(
  parsed: Readonly<Record<string, unknown>>,
  field: string,
  label: string,
  wanted: boolean,
): void {
  const said = parsed[field] !== null && parsed[field] !== '';
  if (said !== wanted)
    throw new Refused('invalid', wanted ? `${label} is missing` : `${label} is not for this rule`, field);
}

/** Whether services are covered, and as what. */
export const conditions = several(
  CONDITIONS,
  {
    key: 'conditions',
    title: 'Conditions',
    noun: ['condition', 'conditions'],
    about:
      'When services are not covered: in the first months of a coverage, at some ages, where a tooth was lost before, without an approval; or as which other service they are paid.',
  },
  {
    quantity: whole('Months', 1, 600, { open: true, hint: 'of waiting' }),
    age_from: whole('Age from', 0, 150, { open: true }),
    age_through: whole('Age through', 0, 150, { open: true }),
    paid_as: openCode('Paid as', { hint: 'the code of the other service' }),
  },
  (parsed) => {
    const { kind, age_from: from, age_through: through } = parsed;
    needed(parsed, 'quantity', 'Months', kind === 'waiting');
    needed(parsed, 'paid_as', 'Paid as', kind === 'lesser-service');
    if (kind !== 'ages') {
      needed(parsed, 'age_from', 'Age from', false);
      needed(parsed, 'age_through', 'Age through', false);
    } else if (from === null && through === null)
      throw new Refused('invalid', 'Say from or through which age', 'age_from');
    else if (from !== null && through !== null && Number(from) > Number(through))
      throw new Refused('invalid', 'It ends before it begins', 'age_through');
  },
);
/** Two letters or digits, or none. */
const MODIFIER = z
  .string()
  .trim()
  .toUpperCase()
  .regex(/^([A-Z0-9]{2})?$/, 'has two letters or digits');

/** What lessens the allowed amount. */
export const reductions = several(
  REDUCTIONS,
  {
    key: 'reductions',
    title: 'Reductions',
    noun: ['reduction', 'reductions'],
    about:
      'What is allowed of the second and further services of a visit, or of a service with a modifier, as shares of the scheduled fee.',
  },
  {
    shares: percents('Shares', { hint: 'of the first, the second …, as 100, 50, 25' }),
    modifier: text('Modifier', { fixed: true, form: MODIFIER }),
    share: percent('Share', { open: true, hint: 'with the modifier' }),
  },
  (parsed) => {
    const ofSeveral = parsed['kind'] === 'several';
    needed(parsed, 'shares', 'Shares', ofSeveral);
    needed(parsed, 'modifier', 'Modifier', !ofSeveral);
    needed(parsed, 'share', 'Share', !ofSeveral);
  },
);

/** The tables of rules of what policies cover, by the last part of their addresses. */
export const RULE_TABLES = {
  shares,
  deductibles,
  copays,
  maximums,
  'out-of-pocket': outOfPocket,
  limits,
  conditions,
  reductions,
} as const;
/** One of them. */
export type RuleTable = keyof typeof RULE_TABLES;
