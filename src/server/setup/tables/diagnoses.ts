import { date, text } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** Diagnoses in use. */
export const diagnoses = setupTable({
  key: 'diagnoses',
  title: 'Diagnoses',
  noun: ['diagnosis', 'diagnoses'],
  about: 'ICD-10-CM codes in use.',
  table: 'diagnosis',
  keys: ['code'],
  order: 'code',
  fields: {
    code: text('Code', { fixed: true, needed: true }),
    description: text('Description', { needed: true }),
    valid_from: date('Valid from'),
    valid_to: date('Valid to'),
  },
  changed: checkAgain,
});
