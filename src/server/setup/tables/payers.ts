import {
  CONTACT_PURPOSES,
  CORRECTIONS,
  FILING_CODES,
  GROUP_QUALIFIERS,
  INDIVIDUAL_QUALIFIERS,
  NEW_CLAIMS,
  PAYER_REFERENCES,
  TRANSACTIONS,
  WAYS,
} from '../../../core/payers/words';
import { CLAIM_NEEDS } from '../../../core/claims/needs';
import { OPEN_RULES } from '../../../core/claims/rules';
import { PAYER_SETTINGS } from '../../../core/payers/settings';
import { isNpi } from '../../../core/claims/npi';
import { ZERO } from '../../../core/money';
import {
  type FieldRule,
  amount,
  choice,
  date,
  openZip,
  reference,
  state,
  text,
  whole,
  yesNo,
} from '../../../core/setup/fields';
import { Refused } from '../../access';
import { checkAgain } from '../changed';
import { setupTable } from '../table';
import { connectionChoices } from './connections';
import { z } from 'zod';

/** Number of a provider that passes its check digit, or nothing. */
const openNpi = (label: string): FieldRule =>
  text(label, {
    form: z
      .string()
      .trim()
      .refine((value) => value === '' || isNpi(value), 'does not pass its check digit'),
  });

/** A place is said whole, or not at all. */
function wholeAddress(parsed: Readonly<Record<string, unknown>>, prefix: '' | 'own_'): void {
  const parts = ['line1', 'city', 'state', 'zip'].map((part) => `${prefix}${part}`);
  const missing = parts.find((part) => parsed[part] === '');
  // A town is known before the street is.
  if (missing !== undefined && parsed[`${prefix}line1`] !== '')
    throw new Refused('missing', 'An address has a street, a city, a state and a ZIP', missing);
}

const filing = choice(
  'Kind of payer',
  Object.fromEntries(Object.entries(FILING_CODES).map(([code, words]) => [code, `${words} (${code})`])),
  { begins: 'CI' },
);

/** Nothing is let pass where nothing is said. */
const tolerance = amount('Lets pass on a line', {
  open: true,
  hint: 'So much less or more than its contract says is no difference',
});

/** Who is billed. */
export const payers = setupTable({
  key: 'payers',
  title: 'Payers',
  noun: ['payer', 'payers'],
  about: 'Who is billed, how, and what each demands.',
  table: 'payer',
  keys: ['id'],
  order: 'name',
  page: '/payers/',
  fields: {
    name: text('Name', { needed: true }),
    accepts: choice('Claims go', WAYS, { under: 'How its claims leave' }),
    connection_id: reference('Connection', { open: true }),
    payer_id: text('Payer id', { hint: 'As its connection knows it' }),
    filing_code: { ...filing, choices: filing.choices!.toSorted((a, b) => (a.label < b.label ? -1 : 1)) },
    new_claims: choice('A new claim', NEW_CLAIMS),
    bills_as: choice('Bills as', ['group', 'individual']),
    corrections: choice('Put right by', CORRECTIONS, { under: 'What it demands' }),
    accepts_assignment: yesNo('Assignment accepted', { begins: true }),
    takes_tax: yesNo('Takes tax', {
      hint: 'Tax on a service is in what its claims ask for; else the patient owes it',
    }),
    no_surcharge: yesNo('No surcharge on cards', {
      hint: 'its contract keeps patients’ shares from it; Medicare and Medicaid always do',
    }),
    short_tolerance: { ...tolerance, schema: tolerance.schema.transform((kept) => kept ?? ZERO) },
    tells_patient_paid: yesNo('Told what the patient paid', { hint: '2300 AMT*F5' }),
    timely_filing_days: whole('Filing limit, days', 1, 9999, { begins: '365' }),
    later_filing_days: whole('as a next payer', 1, 9999, {
      open: true,
      hint: 'Days from the first decision of the payer before it; empty: as many',
    }),
    requires_referring: yesNo('Needs referral'),
    requires_authorization: yesNo('Needs authorization'),
    phone: text('Phone'),
    claim_name: text('Name on claims', { hint: 'Where it is another', under: 'On its claims' }),
    line1: text('Street'),
    line2: text('Street, second line'),
    city: text('City'),
    state: state('State'),
    zip: openZip('ZIP'),
    clearinghouse_mails: yesNo('Printed and mailed by the clearinghouse'),
    paper_form: choice('On paper', { form: 'into the pre-printed form', plain: 'in a layout of our own' }),
    paper_continues: yesNo('A claim goes on over several forms'),
    own_name: text('Our name there', {
      hint: 'Where it knows us by another',
      under: 'Where it knows us by others',
    }),
    own_npi: openNpi('Our NPI there'),
    own_taxonomy: text('Our taxonomy there'),
    own_tax_id: text('Our tax id there', {
      form: z
        .string()
        .trim()
        .regex(/^(\d{9}|\d{2}-\d{7}|\d{3}-\d{2}-\d{4})?$/, 'has nine digits, such as 91-1234567'),
    }),
    own_line1: text('Our street there'),
    own_city: text('Our city there'),
    own_state: state('Our state there'),
    own_zip: openZip('Our ZIP there'),
    unfinished: yesNo('Not set up yet', { under: 'Where it stands' }),
    retired_on: date('Retired on'),
  },
  refers: { connection_id: 'connection' },
  choices: { connection_id: connectionChoices('clearinghouse') },
  verify: async (_, parsed) => {
    wholeAddress(parsed, '');
    wholeAddress(parsed, 'own_');
  },
  changed: checkAgain,
});

const of = { table: 'payers', field: 'payer_id' } as const;
const shared = { parent: of, partOf: 'payers', changed: checkAgain } as const;
const payer_id = reference('Payer');

/** Who takes part with a payer, how each is billed, and by what numbers. */
export const payerProviders = setupTable({
  ...shared,
  key: 'payer-providers',
  title: 'Providers at a payer',
  noun: ['provider of this payer', 'providers of this payer'],
  about: 'Since when each takes part, how each is billed, and by what numbers the payer knows them.',
  table: 'payer_provider',
  keys: ['id'],
  order: 'id',
  fields: {
    payer_id,
    provider_id: reference('Provider'),
    valid_from: date('Takes part from'),
    valid_to: date('until'),
    bills_as: choice('Billed as', { '': 'as the payer says', group: 'group', individual: 'individual' }),
    individual_qualifier: choice('Own number is', INDIVIDUAL_QUALIFIERS),
    individual_id: text('Own number', { hint: 'Claims say it with who did it (2310B REF)' }),
    group_qualifier: choice('Group number is', GROUP_QUALIFIERS),
    group_id: text('Group number', {
      hint: 'G2, LU with the payer (2010BB REF), 0B, 1G with who bills (2010AA)',
    }),
  },
  refers: { payer_id: 'payer', provider_id: 'provider' },
  verify: async (_, parsed) => {
    for (const which of ['individual', 'group'] as const)
      if ((parsed[`${which}_qualifier`] === '') !== (parsed[`${which}_id`] === ''))
        throw new Refused('missing', 'A number and what it is go together', `${which}_id`);
  },
});

/** Whom one asks at a payer, and for what. */
export const payerContacts = setupTable({
  ...shared,
  key: 'payer-contacts',
  title: 'Contacts at a payer',
  noun: ['contact', 'contacts'],
  about: 'Whom one calls, for what, and when somebody is there.',
  table: 'payer_contact',
  keys: ['id'],
  order: 'purpose',
  fields: {
    payer_id,
    purpose: choice('For', CONTACT_PURPOSES),
    name: text('Name'),
    phone: text('Telephone'),
    hours: text('Hours'),
    email: text('E-mail'),
    active: yesNo('Active', { begins: true }),
  },
  refers: { payer_id: 'payer' },
});

/** Further numbers of a payer that its claims bear. */
export const payerReferences = setupTable({
  ...shared,
  key: 'payer-references',
  title: 'Numbers of a payer',
  noun: ['number', 'numbers'],
  about: 'Further numbers that its claims bear (2010BB REF).',
  table: 'payer_reference',
  keys: ['id'],
  order: 'qualifier',
  fields: {
    payer_id,
    qualifier: choice('It is', PAYER_REFERENCES),
    value: text('Number', { needed: true }),
    active: yesNo('On its claims', { begins: true }),
  },
  refers: { payer_id: 'payer' },
});

/** Agreements about kinds of transactions. */
export const payerAgreements = setupTable({
  ...shared,
  key: 'payer-agreements',
  title: 'Agreements with a payer',
  noun: ['agreement', 'agreements'],
  about: 'Which transactions somebody of ours may exchange, since when.',
  table: 'payer_agreement',
  keys: ['id'],
  order: 'transaction',
  fields: {
    payer_id,
    transaction: choice('For', TRANSACTIONS),
    provider_id: reference('Provider', { open: true, hint: 'Empty for the practice' }),
    since: date('Since'),
    active: yesNo('In force', { begins: true }),
  },
  refers: { payer_id: 'payer', provider_id: 'provider' },
  verify: async (_, parsed) => {
    if (parsed.since === null) throw new Refused('missing', 'Since is missing', 'since');
  },
});

/** What a payer wants otherwise, each one element of its claims. */
export const payerSettings = setupTable({
  ...shared,
  key: 'payer-settings',
  title: 'What a payer wants otherwise',
  noun: ['setting', 'settings'],
  about: 'Each changes one element of its claims.',
  table: 'payer_setting',
  keys: ['payer_id', 'setting'],
  order: 'setting',
  fields: {
    payer_id: { ...payer_id, fixed: true },
    setting: choice(
      'Its claims have',
      Object.fromEntries(
        Object.entries(PAYER_SETTINGS).map(([name, { words, place }]) => [name, `${words} (${place})`]),
      ),
      { fixed: true },
    ),
    active: yesNo('In force', { begins: true }),
  },
  refers: { payer_id: 'payer' },
});

const SEVERITIES = { stop: 'stops', warn: 'warns', off: 'is not asked' };

/** How a payer has rules of claims, where it has them otherwise. */
export const payerRules = setupTable({
  ...shared,
  key: 'payer-rules',
  title: 'Rules of a payer',
  noun: ['rule of its own', 'rules of its own'],
  about: 'Which rules stop, warn or say nothing with this payer alone.',
  table: 'payer_rule',
  keys: ['payer_id', 'rule'],
  order: 'rule',
  fields: {
    payer_id: { ...payer_id, fixed: true },
    rule: choice(
      'Rule',
      Object.fromEntries(
        OPEN_RULES.map(({ id, title, severity }) => [id, `${title} (else ${SEVERITIES[severity]})`]),
      ),
      { fixed: true },
    ),
    severity: choice('Here it', SEVERITIES),
  },
  refers: { payer_id: 'payer' },
});

/** What a payer asks for that others do not. */
export const payerNeeds = setupTable({
  ...shared,
  key: 'payer-needs',
  title: 'What a payer asks for',
  noun: ['thing it asks for', 'things it asks for'],
  about: 'Each is a rule for its claims alone.',
  table: 'payer_need',
  keys: ['payer_id', 'need'],
  order: 'need',
  fields: {
    payer_id: { ...payer_id, fixed: true },
    need: choice(
      'Its claims need',
      Object.fromEntries(
        Object.entries(CLAIM_NEEDS).map(([name, { words, reference: where }]) => [
          name,
          `${words} (${where})`,
        ]),
      ),
      { fixed: true },
    ),
    severity: choice('Without it', { stop: 'it stops', warn: 'it warns', off: 'it is not asked any more' }),
  },
  refers: { payer_id: 'payer' },
});
