import { BENEFIT_KINDS, COUNTED_FOR, type BenefitKind } from '../../../core/estimates/benefits';
import { amount, choice, date, percent, pick, reference } from '../../../core/setup/fields';
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

/** The rules of one kind that plans say, each from a day on. */
function rules(kind: BenefitKind, words: Words): SetupTable {
  const { gives, category, counts } = BENEFIT_KINDS[kind];
  const ofOne = category === 'may';
  return setupTable({
    ...words,
    about: counts === null ? words.about : `${words.about} Counted is ${counts}.`,
    table: 'benefit_rule',
    keys: ['id'],
    order: 'insurance_plan_id',
    fields: {
      insurance_plan_id: reference('Plan', { fixed: true }),
      ...(category === 'always' ? { category: pick('Category', { fixed: true }) } : {}),
      valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
      ...(gives === 'share'
        ? { share: percent('Pays') }
        : {
            amount: amount('Amount', gives === 'amount' ? {} : { open: true, hint: 'empty: none' }),
          }),
      ...(ofOne
        ? {
            category: pick('Spares', {
              fixed: true,
              open: true,
              hint: 'a category of services that is spared it, with 0.00',
            }),
          }
        : {}),
      ...(kind === 'copay'
        ? {
            counted_for: choice(
              'Once',
              COUNTED_FOR.map((of) => of),
            ),
          }
        : {}),
    },
    refers: { insurance_plan_id: 'insurance_plan' },
    ...(category === 'never' ? {} : { choices: { category: categories } }),
    rowsWith: { column: 'kind', value: kind },
    parent: { table: 'plans', field: 'insurance_plan_id' },
    ...(ofOne
      ? {
          verify: (_db, parsed) => {
            if (parsed['category'] !== null && Number(parsed['amount']) !== 0)
              throw new Refused('invalid', 'A category that is spared has no amount: say 0.00', 'amount');
            return Promise.resolve();
          },
        }
      : {}),
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
  about: 'What a person pays first in a calendar year; a category of services may be spared it.',
});
/** What a person pays for each visit or service. */
export const copays = rules('copay', {
  key: 'copays',
  title: 'Copays',
  noun: ['copay', 'copays'],
  about: 'What a person pays once a visit, or once a service.',
});
/** What plans pay for a person in a year at most. */
export const maximums = rules('maximum', {
  key: 'maximums',
  title: 'Yearly maximums',
  noun: ['maximum', 'maximums'],
  about: 'What a plan pays for a person in a calendar year at most.',
});
