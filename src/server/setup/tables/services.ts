import { choice, pick, text, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { categories } from './categories';

/** What can be charged. */
export const services = setupTable({
  key: 'services',
  title: 'Service codes',
  noun: ['service code', 'service codes'],
  about: 'What can be charged. Descriptions are the practice’s own words.',
  table: 'service_code',
  keys: ['code'],
  order: 'code',
  fields: {
    code: text('Code', { fixed: true, needed: true }),
    description: text('Description', { needed: true }),
    category: pick('Category'),
    form: choice('Form', ['professional', 'dental']),
    needs_tooth: yesNo('Needs tooth'),
    needs_surface: yesNo('Needs surface'),
    active: yesNo('Active'),
    patient_words: text('Words for the patient'),
  },
  choices: { category: categories },
  changed: checkAgain,
});
