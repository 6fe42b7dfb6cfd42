import { amount, choice, date, reference, several } from '../../../core/setup/fields';
import { Refused } from '../../access';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { categories } from './categories';

/** The benefit terms of plans, each from a day on. */
export const terms = setupTable({
  key: 'terms',
  title: 'Plan terms',
  noun: ['terms', 'terms'],
  about: 'The benefit terms of a plan, from a day on; the earlier ones hold for services before it.',
  table: 'insurance_terms',
  keys: ['insurance_plan_id', 'valid_from'],
  order: 'insurance_plan_id',
  fields: {
    insurance_plan_id: reference('Plan', { fixed: true }),
    valid_from: date('From', { fixed: true, hint: 'empty: from the beginning' }),
    deductible: amount('Deductible'),
    copay: amount('Copay'),
    copay_per: choice('Copay per', ['visit', 'service']),
    maximum: amount('Yearly maximum', { open: true, hint: 'empty: none' }),
    deductible_waived: several('Deductible waived'),
  },
  refers: { insurance_plan_id: 'insurance_plan' },
  choices: { deductible_waived: categories },
  parent: { table: 'plans', field: 'insurance_plan_id' },
  async verify(db, { deductible_waived }) {
    const known = new Set((await categories(db)).map(({ value }) => value));
    const unknown = (deductible_waived as string[]).find((name) => !known.has(name));
    if (unknown)
      throw new Refused('invalid', `“${unknown}” is not a category of services`, 'deductible_waived');
  },
  changed: checkAgain,
});
