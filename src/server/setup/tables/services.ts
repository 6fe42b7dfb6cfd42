import {
  choice,
  date,
  ndc,
  pick,
  several,
  text,
  thousandths,
  whole,
  yesNo,
} from '../../../core/setup/fields';
import { NDC_MEASURES } from '../../../core/accounts/drugs';
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
    needs_area: choice('Needs', { '': 'no quadrant or arch', quadrant: 'a quadrant', arch: 'an arch' }),
    modifiers: several('Usual modifiers'),
    valid_from: date('Valid from'),
    valid_to: date('until'),
    unit_minutes: whole('Minutes of a unit', 1, 240, {
      open: true,
      hint: 'empty: it is not billed by time',
    }),
    discipline: text('Counted with', { hint: 'such as PT: their minutes are counted together' }),
    taxable: yesNo('Taxable'),
    ndc: text('Drug code', { form: ndc, hint: 'eleven digits (NDC)' }),
    ndc_measure: choice('measured in', NDC_MEASURES),
    ndc_thousandths: thousandths('so much by unit', { hint: 'such as 0.5' }),
    needs_clia: yesNo('Needs the laboratory’s number'),
    needs_drug: yesNo('Needs the drug code'),
    needs_ordering: yesNo('Needs who ordered it'),
    active: yesNo('Active'),
    patient_words: text('Words for the patient'),
  },
  choices: { category: categories },
  changed: checkAgain,
});
