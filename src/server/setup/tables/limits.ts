import { z } from 'zod';
import { type FieldRule, text, whole, yesNo } from '../../../core/setup/fields';
import { checkAgain } from '../changed';
import { setupTable } from '../table';

/** A code of a service, ours or not. */
const serviceCode = (label: string): FieldRule =>
  text(label, {
    fixed: true,
    form: z
      .string()
      .trim()
      .toUpperCase()
      .regex(/^[A-Z0-9]{5}$/, 'is a code of five letters and digits'),
  });

/** How many units of a service a day allows. */
export const unitLimits = setupTable({
  key: 'unit-limits',
  title: 'Units of a day',
  noun: ['limit of units', 'limits of units'],
  about: 'More units of a service on one day stop its claim. Brought in by the practice.',
  table: 'unit_limit',
  keys: ['code'],
  order: 'code',
  fields: {
    code: serviceCode('Code'),
    units: whole('Units of a day', 1, 999),
    active: yesNo('In force', { begins: true }),
  },
  changed: checkAgain,
});

/** Services that are not billed together on one day. */
export const notTogether = setupTable({
  key: 'not-together',
  title: 'Not billed together',
  noun: ['pair', 'pairs'],
  about: 'Two services of one person and day that stop a claim. Brought in by the practice.',
  table: 'not_together',
  keys: ['code', 'other'],
  order: 'code',
  fields: {
    code: serviceCode('Code'),
    other: serviceCode('Not with it'),
    unless_modifier: yesNo('Unless a modifier sets it apart'),
    active: yesNo('In force', { begins: true }),
  },
  changed: checkAgain,
});
