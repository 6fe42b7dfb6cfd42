/** Osprey Landing Health: the invented practice's setup. */
import { npiCheckDigit } from '../core/claims/npi';
import { type Cents, cents, times, toDecimal } from '../core/money';
import { FIRST_ROWS } from '../core/statements/sets';
import type { Db } from '../db/connect';
import { type Context, systemContext } from '../server/access';
import { raised } from '../core/fees/raise';
import { changeFees } from '../server/fees/change';
import { addSetupRows, saveSetup } from '../server/setup/save';
import type { SetupValues } from '../server/setup/table';
import { setupTable } from '../server/setup/tables';
import { saveSet } from '../server/statements/sets';
import { STANDIN_CATEGORIES, STANDIN_PAYERS } from '../standins/payer-book';

/** What is agreed with the simulated agency. */
export const AGENCY_CONTRACT = { contingency: '25', pays: 'net' } as const;

/** A made-up NPI that passes the check digit. */
export const npi = (nine: string): string => nine + npiCheckDigit(nine);

/** Office fees in cents with descriptions of our own wording and what each service needs. */
const SERVICES: readonly [code: string, description: string, fee: number, needs?: 'tooth' | 'surface'][] = [
  ['99203', 'Office visit, new patient, 30 minutes', 19500],
  ['99212', 'Office visit, short', 9200],
  ['99213', 'Office visit, 20 minutes', 14500],
  ['99214', 'Office visit, 30 minutes', 20500],
  ['99395', 'Yearly check-up, age 18 to 39', 21000],
  ['99396', 'Yearly check-up, age 40 to 64', 23000],
  ['36415', 'Blood draw', 2000],
  ['80053', 'Blood panel, metabolism', 4800],
  ['85025', 'Blood count', 3400],
  ['87880', 'Rapid strep test', 4200],
  ['12001', 'Closing of a small wound', 26500],
  ['93000', 'Heart tracing with reading', 6500],
  ['97110', 'Exercise therapy, 15 minutes', 6500],
  ['97140', 'Manual therapy, 15 minutes', 6000],
  ['97161', 'Therapy evaluation', 16500],
  ['97530', 'Activity training, 15 minutes', 7000],
  ['99051', 'Evening visit surcharge', 3500],
  ['D0120', 'Check of teeth and gums', 6200],
  ['D0140', 'Check of one problem', 8800],
  ['D0150', 'First full examination', 9900],
  ['D0210', 'Full set of X-rays', 14500],
  ['D0220', 'X-ray of one tooth', 3400, 'tooth'],
  ['D0274', 'Four bitewing X-rays', 7600],
  ['D1110', 'Cleaning, adult', 11200],
  ['D1120', 'Cleaning, child', 8200],
  ['D1206', 'Fluoride varnish', 4600],
  ['D2330', 'Filling, front tooth, one surface', 18500, 'surface'],
  ['D2391', 'Filling, back tooth, one surface', 20500, 'surface'],
  ['D2392', 'Filling, back tooth, two surfaces', 26500, 'surface'],
  ['D2740', 'Crown, ceramic', 134000, 'tooth'],
  ['D2950', 'Core build-up', 31000, 'tooth'],
  ['D3310', 'Root canal, front tooth', 91000, 'tooth'],
  ['D4341', 'Deep cleaning of a quadrant', 28500],
  ['D4910', 'Cleaning after gum treatment', 15800],
  ['D7140', 'Removal of a tooth', 21500, 'tooth'],
  ['D9110', 'Emergency pain relief', 14000],
];

/** Services that are billed by the quarter of an hour. */
const TIMED: readonly string[] = ['97110', '97140', '97530'];

/** Charge sets: what is usually entered together. */
const SETS = {
  'Therapy hour': [
    { code: '97110', minutes: '30', modifiers: 'GP' },
    { code: '97140', minutes: '15', modifiers: 'GP' },
    { code: '97530', minutes: '15', modifiers: 'GP' },
  ],
  'Check and cleaning': [{ code: 'D0120' }, { code: 'D0274' }, { code: 'D1110' }, { code: 'D1206' }],
  Crown: [{ code: 'D2950' }, { code: 'D2740' }],
} satisfies Record<string, readonly Record<string, string>[]>;

/** Diagnoses (ICD-10-CM codes) with short descriptions of our own. */
const DIAGNOSES: readonly [string, string][] = [
  ['Z00.00', 'Check-up without findings'],
  ['J06.9', 'Cold'],
  ['J02.0', 'Strep throat'],
  ['I10', 'High blood pressure'],
  ['E11.9', 'Type 2 diabetes'],
  ['E78.5', 'High blood fats'],
  ['M54.50', 'Low back pain'],
  ['M25.511', 'Pain in the right shoulder'],
  ['M17.11', 'Arthrosis of the right knee'],
  ['S61.411A', 'Cut on the right hand, first visit'],
  ['R07.9', 'Chest pain'],
  ['K02.9', 'Tooth decay'],
  ['K05.10', 'Gum inflammation'],
  ['G43.909', 'Migraine'],
  ['F41.1', 'Anxiety'],
  ['M79.671', 'Pain in the right foot'],
];

/** What a new row of a table begins with, as its form shows it. */
function beginning(table: string): SetupValues {
  const fields = Object.entries(setupTable(table)!.fields);
  return Object.fromEntries(
    fields.map(([name, { begins, choices, kind }]) => [
      name,
      begins ?? (kind === 'choice' ? (choices?.[0]?.value ?? '') : ''),
    ]),
  );
}

/** Adds a row to one of Setup's tables as its form does. @returns its id */
export const add = async (context: Context, table: string, values: SetupValues): Promise<number> =>
  Number(await saveSetup(context, { table, values: { ...beginning(table), ...values } }));

/** Adds rows to one of Setup's tables as its grid does. */
async function addAll(context: Context, table: string, rows: readonly SetupValues[]): Promise<void> {
  const begins = beginning(table);
  const whole = rows.map((values) => ({ ...begins, ...values }));
  await addSetupRows(context, {
    table,
    rows: whole,
    key: `setup ${table} ${JSON.stringify(rows[0])}`.slice(0, 80),
  });
}

/** Changes the one row of a table that has but one. */
async function change(context: Context, table: string, row: number, values: SetupValues): Promise<void> {
  await saveSetup(context, { table, row: String(row), values });
}

const money = (amount: number): string => toDecimal(cents(amount));
const percent = (points: number): string => `${points / 100} %`;

/** Fills Setup, as people do: nothing is written but through its use cases. @returns the ids that the scenario needs */
export async function setUpPractice(db: Db): Promise<{
  providers: Record<'family' | 'family2' | 'therapy' | 'dental' | 'dental2', number>;
  insurancePlans: Record<string, number>;
}> {
  const context = await systemContext(db);
  await add(context, 'practice', {
    name: 'Osprey Landing Health',
    npi: npi('123456701'),
    taxonomy: '261QM1300X',
    tax_id: '91-5550101',
    line1: '12 Harbor Street',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199-0001',
    phone: '206-555-0100',
    contact: 'Billing desk',
    // The demo is served on loopback alone, to people who are to look around at once.
    second_factor: 'nobody',
  });
  const site = { place_of_service: '11', city: 'Osprey Landing', state: 'WA' };
  const harbor = await add(context, 'locations', {
    ...site,
    name: 'Harbor Street',
    line1: '12 Harbor Street',
    zip: '98199-0001',
    phone: '555-0100',
  });
  const mill = await add(context, 'locations', {
    ...site,
    name: 'Mill Lane',
    line1: '4 Mill Lane',
    zip: '98199-0002',
    phone: '555-0101',
  });
  const provider = (
    last: string,
    first: string,
    suffix: string,
    nine: string,
    taxonomy: string,
    at: number,
  ) =>
    add(context, 'providers', {
      last,
      first,
      suffix,
      npi: npi(nine),
      taxonomy,
      location_id: String(at),
      active: true,
    });
  const providers = {
    family: await provider('Okafor', 'Ngozi', 'MD', '123456711', '207Q00000X', harbor),
    family2: await provider('Lindqvist', 'Per', 'NP', '123456712', '363LF0000X', harbor),
    therapy: await provider('Tamura', 'Emi', 'PT', '123456713', '225100000X', harbor),
    dental: await provider('Brandt', 'Ilse', 'DDS', '123456714', '1223G0001X', mill),
    dental2: await provider('Achebe', 'Tobi', 'RDH', '123456715', '124Q00000X', mill),
  };
  const tideline = await setUpConnections(context);
  // Made-up levels, in their shape like those that are published each year.
  await addAll(
    context,
    'poverty-levels',
    [1_560_000, 2_110_000, 2_660_000, 3_210_000].map((amount, index) => ({
      year: '2026',
      size: String(index + 1),
      amount: money(amount),
    })),
  );
  await addAll(context, 'hardship-bands', [
    { up_to: '100', reduction: '100 %' },
    { up_to: '150', reduction: '75 %' },
    { up_to: '200', reduction: '50 %' },
  ]);
  await setUpMoney(context, harbor, mill);
  await setUpStatements(context, mill);
  const shared = STANDIN_PAYERS.flatMap(({ groups }) =>
    Object.values(groups).flatMap(({ terms }) => [
      ...Object.keys(terms.percentages),
      ...terms.deductibleWaived,
    ]),
  );
  await addAll(
    context,
    'categories',
    [...new Set([...Object.values(STANDIN_CATEGORIES), ...shared])].sort().map((name) => ({ name })),
  );
  await addAll(
    context,
    'services',
    SERVICES.map(([code, description, , needs]) => ({
      code,
      description,
      category: STANDIN_CATEGORIES[code]!,
      form: code.startsWith('D') ? 'dental' : 'professional',
      needs_tooth: needs !== undefined,
      needs_surface: needs === 'surface',
      ...(TIMED.includes(code) ? { unit_minutes: '15', discipline: 'PT' } : {}),
      active: true,
    })),
  );
  await addAll(
    context,
    'diagnoses',
    DIAGNOSES.map(([code, description]) => ({ code, description })),
  );
  const office = await add(context, 'schedules', { name: 'Office fees', kind: 'office' });
  await feesOf(
    context,
    office,
    SERVICES.map(([code, , amount]) => [code, amount]),
  );
  // What those pay who have no insurance and joined the practice's own program: a fifth less, in whole dollars.
  const discount = await add(context, 'schedules', { name: 'Members’ rates', kind: 'discount' });
  await feesOf(
    context,
    discount,
    SERVICES.map(([code, , amount]) => [
      code,
      raised(cents(amount), { share: -2000, rounding: '100', way: 'nearest' }),
    ]),
  );
  await add(context, 'account-categories', { name: 'member', fee_schedule_id: String(discount) });
  await addAll(
    context,
    'charge-sets',
    Object.keys(SETS).map((name) => ({ name, active: true })),
  );
  const sets = await context.db.selectFrom('charge_set').select(['id', 'name']).execute();
  await addAll(
    context,
    'charge-set-lines',
    sets.flatMap(({ id, name }) =>
      SETS[name as keyof typeof SETS].map((line, index) => ({
        charge_set_id: String(id),
        position: String(index + 1),
        ...line,
      })),
    ),
  );
  await addAll(
    context,
    'provider-shares',
    [
      { provider_id: providers.family, basis: 'service', share: '42 %' },
      { provider_id: providers.family2, basis: 'answer', share: '40 %' },
      { provider_id: providers.therapy, basis: 'answer', share: '45 %' },
      { provider_id: providers.dental, basis: 'collected', share: '35 %' },
      { provider_id: providers.dental, category: 'major', basis: 'collected', share: '32 %' },
      { provider_id: providers.dental2, basis: 'service', share: '30 %' },
    ].map((share) => ({
      category: '',
      valid_from: '',
      active: true,
      ...share,
      provider_id: String(share.provider_id),
    })),
  );
  return { providers, insurancePlans: await setUpPayers(context, tideline) };
}

/** The fees of a schedule from the beginning, in cents by code. */
const feesOf = (context: Context, scheduleId: number, fees: readonly (readonly [string, number])[]) =>
  changeFees(context, {
    scheduleId,
    from: '',
    lines: fees.map(([code, amount]) => ({ code, amount: money(amount) })),
    words: 'as it was agreed',
    sure: true,
    key: `fees-of-schedule-${scheduleId}`,
  });

/** The ways to payers, a print shop, a gateway and an agency. @returns the way to payers */
async function setUpConnections(context: Context): Promise<number> {
  const tideline = await add(context, 'clearinghouses', {
    name: 'Tideline Exchange (stand-in)',
    folder: 'tideline',
    senderId: 'OSPREYLANDING',
    receiverId: 'TIDELINE',
    receiverName: 'Tideline Exchange',
    usage: 'test',
  });
  await add(context, 'print-shops', {
    name: 'Shoreline Print & Mail (stand-in)',
    folder: 'shoreline',
    customerId: 'OSPREY',
  });
  await add(context, 'gateways', {
    name: 'Pelican Messages (stand-in)',
    folder: 'pelican',
    from: 'billing@example.com',
  });
  const gannet = await add(context, 'agencies', {
    name: 'Gannet Recovery (stand-in)',
    folder: 'gannet',
    clientId: 'OSPREY',
    ...AGENCY_CONTRACT,
  });
  const { id } = await context.db.selectFrom('overdue_policy').select('id').executeTakeFirstOrThrow();
  await change(context, 'overdue-policy', id, { agency_id: String(gannet) });
  return tideline;
}

/** The payers with their contracts and insurance plans. @returns plans by their group */
async function setUpPayers(context: Context, tideline: number): Promise<Record<string, number>> {
  const insurancePlans: Record<string, number> = {};
  for (const payer of STANDIN_PAYERS) {
    const id = await add(context, 'payers', {
      name: payer.name,
      payer_id: payer.payerId,
      connection_id: String(tideline),
      filing_code: 'CI',
      timely_filing_days: payer.payerId === 'NLM02' ? '180' : '365',
      phone: '555-0110',
    });
    const schedule = await add(context, 'schedules', { name: `${payer.name} contract`, kind: 'contract' });
    await feesOf(context, schedule, Object.entries(payer.fees));
    for (const [group, { plan, terms }] of Object.entries(payer.groups)) {
      const made = await add(context, 'plans', {
        payer_id: String(id),
        name: plan,
        fee_schedule_id: String(schedule),
        contracted: terms.contracted,
        coordination: terms.coordination,
      });
      insurancePlans[group] = made;
      const of = { insurance_plan_id: String(made) };
      await addAll(
        context,
        'shares',
        Object.entries(terms.percentages).map(([category, share]) => ({
          ...of,
          category,
          share: percent(share),
        })),
      );
      await addAll(context, 'deductibles', [
        { ...of, amount: money(terms.deductible) },
        ...terms.deductibleWaived.map((category) => ({ ...of, category, amount: '0.00' })),
      ]);
      await add(context, 'copays', { ...of, amount: money(terms.copay), counted_for: terms.copayPer });
      if (terms.maximum !== null) await add(context, 'maximums', { ...of, amount: money(terms.maximum) });
      if (group === COUNTED_PLAN) await countMore(context, of, terms.deductible);
    }
  }
  await setUpInjuries(context, tideline, insurancePlans);
  return insurancePlans;
}

/** An insurer of accidents, to which claims need an agreement that is not made yet; and what payers know of ours. */
async function setUpInjuries(
  context: Context,
  tideline: number,
  insurancePlans: Record<string, number>,
): Promise<void> {
  const id = await add(context, 'payers', {
    name: 'Ironwood Casualty',
    payer_id: 'IRW04',
    connection_id: String(tideline),
    filing_code: 'AM',
    line1: '900 Foundry Road',
    city: 'Tacoma',
    state: 'WA',
    zip: '984010900',
    phone: '555-0190',
    corrections: 'new',
  });
  const of = { payer_id: String(id) };
  insurancePlans['IW'] = await add(context, 'plans', { ...of, name: 'Car injuries', contracted: false });
  await add(context, 'shares', {
    insurance_plan_id: String(insurancePlans['IW']),
    category: 'therapy',
    share: '100 %',
  });
  await addAll(context, 'payer-contacts', [
    { ...of, purpose: 'adjuster', name: 'Dana Whitfield', phone: '555-0191', hours: 'Mon to Thu, 8 to 4' },
    { ...of, purpose: 'claims', phone: '555-0190', hours: 'weekdays, 7 to 6' },
  ]);
  await add(context, 'payer-references', { ...of, qualifier: 'FY', value: '0420' });
  await add(context, 'payer-settings', { ...of, setting: 'no-plan-name' });
  await add(context, 'payer-rules', { ...of, rule: 'patient-sex', severity: 'off' });
  await add(context, 'payer-needs', { ...of, need: 'injury-number', severity: 'warn' });
  // Made up: a practice brings in the tables of its payers.
  await addAll(context, 'unit-limits', [
    { code: '97161', units: '1' },
    { code: 'D0120', units: '1' },
  ]);
  await addAll(context, 'not-together', [
    { code: '97161', other: '97164', unless_modifier: true },
    { code: 'D0120', other: 'D0150', unless_modifier: false },
  ]);
  const payers = await context.db.selectFrom('payer').select('id').orderBy('id').execute();
  const providers = await context.db.selectFrom('provider').select('id').orderBy('id').execute();
  await addAll(
    context,
    'payer-providers',
    providers.map((provider) => ({
      payer_id: String(payers[0]!.id),
      provider_id: String(provider.id),
      valid_from: '2015-01-01',
    })),
  );
  await addAll(
    context,
    'payer-agreements',
    ['837P', '837D', '835'].map((transaction) => ({
      payer_id: String(payers[0]!.id),
      transaction,
      since: '2015-01-01',
    })),
  );
  await addAll(
    context,
    'common-notices',
    [
      'Ask for the new insurance card',
      'Needs an interpreter',
      'Send records before the claim',
      'Wheelchair: room 2',
    ].map((words) => ({ words })),
  );
}

/** The plan that counts more than the others: by household, out of pocket, and visits of therapy. */
const COUNTED_PLAN = 'CS-200';

/** Twice the deductible for a household, what is paid out of pocket at most, and so many visits of therapy, which have to be meant. */
async function countMore(context: Context, of: SetupValues, deductible: Cents): Promise<void> {
  const household = { ...of, holder: 'household' };
  await add(context, 'deductibles', { ...household, amount: money(times(deductible, 2)) });
  await add(context, 'out-of-pocket', { ...of, amount: '5000.00' });
  await add(context, 'out-of-pocket', { ...household, amount: '10000.00' });
  await add(context, 'limits', {
    ...of,
    category: 'therapy',
    quantity: '30',
    measure: 'visits',
    warning: 'confirm',
  });
}

/** Merchant accounts of the two sites, a surcharge on credit cards, drawers and checks that come back. */
async function setUpMoney(context: Context, harborStreet: number, millLane: number): Promise<void> {
  await addAll(context, 'places', [
    {
      name: 'Cards, Harbor Street',
      kind: 'clearing',
      location_id: String(harborStreet),
      merchant: 'HARBOR-01',
    },
    { name: 'Cards, Mill Lane', kind: 'clearing', location_id: String(millLane), merchant: 'MILL-02' },
  ]);
  const whole = await context.db
    .selectFrom('payment_policy')
    .select('id')
    .where('location_id', 'is', null)
    .executeTakeFirstOrThrow();
  await change(context, 'payment-policy', whole.id, {
    surcharge_rate: '2.5 %',
    card_cost: '2.9 %',
    drawer_opening: '100.00',
    returned_check: '35.00',
    refund_most: '200.00',
  });
  await addAll(context, 'card-brands', [
    { name: 'Visa', most: '3 %' },
    { name: 'Mastercard', most: '3 %' },
  ]);
  // Of states, from memory.
  await addAll(context, 'surcharge-states', [
    {
      state: 'WA',
      rule: 'allowed',
      most: '0 %',
      words: 'A surcharge is added to credit cards; none to debit cards.',
    },
    {
      state: 'CO',
      rule: 'capped',
      most: '2 %',
      words: 'A surcharge of at most 2 % is added to credit cards.',
    },
    { state: 'CT', rule: 'forbidden', most: '0 %', words: '' },
    { state: 'MA', rule: 'forbidden', most: '0 %', words: '' },
  ]);
  // A few, from memory: a practice brings in the list of the operating rule.
  await addAll(context, 'combinations', [
    { scenario: '1', reason: '252', remark: 'N706', groups: 'CO, PI' },
    { scenario: '2', reason: '16', remark: 'M76', groups: 'CO, PI' },
    { scenario: '2', reason: '16', remark: 'MA130', groups: 'CO, PI' },
    { scenario: '3', reason: '204', remark: 'N130', groups: 'CO, PI, PR' },
    { scenario: '4', reason: '97', remark: 'M15', groups: 'CO, PI' },
  ]);
  // From memory as well: a practice brings in what its states say.
  await addAll(context, 'dormancy', [
    { state: 'WA', months: '36', letter_days: '90', least: '75.00', source: 'from memory: ask the state' },
    { state: 'OR', months: '36', letter_days: '60', least: '100.00', source: 'from memory: ask the state' },
  ]);
}

/** How the two sites send statements, and what their accounts are sorted by. */
async function setUpStatements(context: Context, millLane: number): Promise<void> {
  const asked = { tenders: 'cash, check', hours: 'Monday to Friday, 8 am to 5 pm' };
  const whole = await context.db
    .selectFrom('statement_policy')
    .select('id')
    .where('location_id', 'is', null)
    .executeTakeFirstOrThrow();
  await change(context, 'statement-policy', whole.id, {
    ...asked,
    late_kind: 'yearly',
    late_rate: '12 %',
    late_least: '0.50',
    late_most: '25.00',
  });
  const message = (position: number, name: string, words: string, more: SetupValues = {}): SetupValues => ({
    position: String(position),
    name,
    words,
    ...more,
  });
  await addAll(context, 'statement-messages', [
    message(
      10,
      'All past due',
      'All of this amount is past due. Please call {phone} if you cannot pay it now.',
      { due: 'past' },
    ),
    message(20, 'Partly past due', '{past due} of this amount is past due since our earlier statement.', {
      due: 'partly',
    }),
    message(30, 'Old', 'The oldest amount has been open for {oldest days} days.', { age_from: '91' }),
    message(40, 'Insured', 'Your insurers still have {with insurers}; you need not pay that now.', {
      insured: 'yes',
      due: 'normal',
    }),
    message(90, 'Daily', 'Thank you for coming to {practice}.'),
  ]);
  // A site begins as the practice does, but for what it does otherwise.
  const [there] = (await setupTable('statement-policy')!.list.find(context, {})).rows;
  await saveSetup(context, {
    table: 'statement-policy',
    values: {
      ...there!.values,
      ...asked,
      location_id: String(millLane),
      least: '10.00',
      due_days: '21',
      late_kind: 'none',
      late_rate: '0 %',
      late_least: '0.00',
      late_most: '',
    },
  });
  await addAll(
    context,
    'referral-sources',
    ['Another patient', 'Referring practice', 'Website', 'Word of mouth'].map((name) => ({ name })),
  );
  await addAll(
    context,
    'account-categories',
    ['staff', 'courtesy'].map((name) => ({ name })),
  );
  await saveSet(context, { name: 'Every four weeks', standard: true, rows: [...FIRST_ROWS] });
  await saveSet(context, {
    name: 'Sooner: a payer has paid',
    rows: [
      { side: 'take', what: 'payer-paid' },
      { side: 'leave', what: 'claims-out' },
      { side: 'leave', what: 'unbilled', number: 6 },
      { side: 'leave', what: 'handed-over', number: 14 },
    ],
  });
  await saveSet(context, {
    name: 'Old balances',
    rows: [
      { side: 'take', what: 'oldest-over', number: 90 },
      { side: 'leave', what: 'category', choices: ['staff'] },
      { side: 'leave', what: 'balance-below', number: 2500 },
    ],
  });
}
