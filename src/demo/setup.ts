/** Osprey Landing Health: the invented practice's setup. */
import { npiCheckDigit } from '../core/claims/npi';
import { CONNECTION_KINDS } from '../core/exchange/connections';
import { basisPoints, cents } from '../core/money';
import type { Db } from '../db/connect';
import { FIRST_ROWS, rowsDocument } from '../core/statements/sets';
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

/** Fills Setup. @returns the ids that the scenario needs */
export async function setUpPractice(db: Db): Promise<{
  providers: Record<'family' | 'family2' | 'therapy' | 'dental' | 'dental2', number>;
  plans: Record<string, number>;
}> {
  await db
    .insertInto('practice')
    .values({
      name: 'Osprey Landing Health',
      npi: npi('123456701'),
      taxonomy: '261QM1300X',
      tax_id: '91-5550101',
      line1: '12 Harbor Street',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199-0001',
      phone: '555-0100',
      contact: 'Billing desk',
      // The demo is served on loopback alone, to people who are to look around at once.
      second_factor: 'nobody',
    })
    .execute();
  const [harbor, mill] = await db
    .insertInto('location')
    .values([
      {
        name: 'Harbor Street',
        place_of_service: '11',
        line1: '12 Harbor Street',
        city: 'Osprey Landing',
        state: 'WA',
        zip: '98199-0001',
        phone: '555-0100',
      },
      {
        name: 'Mill Lane',
        place_of_service: '11',
        line1: '4 Mill Lane',
        city: 'Osprey Landing',
        state: 'WA',
        zip: '98199-0002',
        phone: '555-0101',
      },
    ])
    .returning('id')
    .execute();
  const people = await db
    .insertInto('provider')
    .values([
      {
        last: 'Okafor',
        first: 'Ngozi',
        suffix: 'MD',
        npi: npi('123456711'),
        taxonomy: '207Q00000X',
        location_id: harbor!.id,
      },
      {
        last: 'Lindqvist',
        first: 'Per',
        suffix: 'NP',
        npi: npi('123456712'),
        taxonomy: '363LF0000X',
        location_id: harbor!.id,
      },
      {
        last: 'Tamura',
        first: 'Emi',
        suffix: 'PT',
        npi: npi('123456713'),
        taxonomy: '225100000X',
        location_id: harbor!.id,
      },
      {
        last: 'Brandt',
        first: 'Ilse',
        suffix: 'DDS',
        npi: npi('123456714'),
        taxonomy: '1223G0001X',
        location_id: mill!.id,
      },
      {
        last: 'Achebe',
        first: 'Tobi',
        suffix: 'RDH',
        npi: npi('123456715'),
        taxonomy: '124Q00000X',
        location_id: mill!.id,
      },
    ])
    .returning('id')
    .execute();
  const connection = await db
    .insertInto('connection')
    .values({
      name: 'Tideline Exchange (stand-in)',
      folder: 'tideline',
      settings: CONNECTION_KINDS.clearinghouse.settings.write({
        senderId: 'OSPREYLANDING',
        receiverId: 'TIDELINE',
        receiverName: 'Tideline Exchange',
        usage: 'test',
      }),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await db
    .insertInto('connection')
    .values([
      {
        name: 'Shoreline Print & Mail (stand-in)',
        folder: 'shoreline',
        kind: 'print-shop',
        settings: CONNECTION_KINDS['print-shop'].settings.write({ customerId: 'OSPREY' }),
      },
      {
        name: 'Pelican Messages (stand-in)',
        folder: 'pelican',
        kind: 'message-gateway',
        settings: CONNECTION_KINDS['message-gateway'].settings.write({ from: 'billing@example.com' }),
      },
      {
        name: 'Gannet Recovery (stand-in)',
        folder: 'gannet',
        kind: 'agency',
        settings: CONNECTION_KINDS.agency.settings.write({ clientId: 'OSPREY', ...AGENCY_CONTRACT }),
      },
    ])
    .execute();
  await db
    .updateTable('overdue_policy')
    .set((one) => ({
      agency_id: one.selectFrom('connection').select('id').where('kind', '=', 'agency').limit(1),
    }))
    .execute();
  // Made-up levels, in their shape like those that are published each year.
  await db
    .insertInto('poverty_level')
    .values(
      [1_560_000, 2_110_000, 2_660_000, 3_210_000].map((amount, index) => ({
        year: 2026,
        size: index + 1,
        amount: cents(amount),
      })),
    )
    .execute();
  await db
    .insertInto('hardship_band')
    .values([
      { up_to: 100, reduction: basisPoints(10_000) },
      { up_to: 150, reduction: basisPoints(7500) },
      { up_to: 200, reduction: basisPoints(5000) },
    ])
    .execute();
  await setUpStatements(db, mill!.id);
  const shared = STANDIN_PAYERS.flatMap(({ groups }) =>
    Object.values(groups).flatMap(({ terms }) => [
      ...Object.keys(terms.percentages),
      ...terms.deductibleWaived,
    ]),
  );
  await db
    .insertInto('service_category')
    .values([...new Set([...Object.values(STANDIN_CATEGORIES), ...shared])].sort().map((name) => ({ name })))
    .execute();
  await db
    .insertInto('service_code')
    .values(
      SERVICES.map(([code, description, , needs]) => ({
        code,
        description,
        category: STANDIN_CATEGORIES[code]!,
        form: code.startsWith('D') ? 'dental' : 'professional',
        needs_tooth: needs !== undefined,
        needs_surface: needs === 'surface',
      })),
    )
    .execute();
  await db
    .insertInto('diagnosis')
    .values(DIAGNOSES.map(([code, description]) => ({ code, description })))
    .execute();
  const office = await db
    .insertInto('fee_schedule')
    .values({ name: 'Office fees', kind: 'office' })
    .returning('id')
    .executeTakeFirstOrThrow();
  await db
    .insertInto('fee')
    .values(SERVICES.map(([code, , amount]) => ({ fee_schedule_id: office.id, code, amount: cents(amount) })))
    .execute();
  const plans: Record<string, number> = {};
  for (const payer of STANDIN_PAYERS) {
    const row = await db
      .insertInto('payer')
      .values({
        name: payer.name,
        payer_id: payer.payerId,
        connection_id: connection.id,
        timely_filing_days: payer.payerId === 'NLM02' ? 180 : 365,
        phone: '555-0110',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const schedule = await db
      .insertInto('fee_schedule')
      .values({ name: `${payer.name} contract`, kind: 'contract' })
      .returning('id')
      .executeTakeFirstOrThrow();
    await db
      .insertInto('fee')
      .values(
        Object.entries(payer.fees).map(([code, amount]) => ({ fee_schedule_id: schedule.id, code, amount })),
      )
      .execute();
    for (const [group, { plan, terms }] of Object.entries(payer.groups)) {
      const made = await db
        .insertInto('plan')
        .values({
          payer_id: row.id,
          name: plan,
          fee_schedule_id: schedule.id,
          contracted: terms.contracted,
          coordination: terms.coordination,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      plans[group] = made.id;
      await db
        .insertInto('plan_terms')
        .values({
          plan_id: made.id,
          deductible: terms.deductible,
          deductible_waived: [...terms.deductibleWaived],
          copay: terms.copay,
          copay_per: terms.copayPer,
          maximum: terms.maximum,
        })
        .execute();
      await db
        .insertInto('plan_share')
        .values(
          Object.entries(terms.percentages).map(([category, share]) => ({
            plan_id: made.id,
            category,
            share,
          })),
        )
        .execute();
    }
  }
  const id = (index: number): number => people[index]!.id;
  return {
    providers: { family: id(0), family2: id(1), therapy: id(2), dental: id(3), dental2: id(4) },
    plans,
  };
}

/** How the two sites send statements, and what their accounts are sorted by. */
async function setUpStatements(db: Db, millLane: number): Promise<void> {
  const tenders = ['cash', 'check'];
  const hours = 'Monday to Friday, 8 am to 5 pm';
  await db
    .updateTable('statement_policy')
    .set({
      tenders,
      hours,
      late_kind: 'yearly',
      late_rate: basisPoints(1200),
      late_least: cents(50),
      late_most: cents(2500),
    })
    .where('location_id', 'is', null)
    .execute();
  const message = (position: number, name: string, words: string, more: object = {}) => ({
    position,
    name,
    words,
    ...more,
  });
  await db
    .insertInto('statement_message')
    .values([
      message(
        10,
        'All past due',
        'All of this amount is past due. Please call {phone} if you cannot pay it now.',
        {
          due: 'past',
        },
      ),
      message(20, 'Partly past due', '{past due} of this amount is past due since our earlier statement.', {
        due: 'partly',
      }),
      message(30, 'Old', 'The oldest amount has been open for {oldest days} days.', { age_from: 91 }),
      message(40, 'Insured', 'Your insurers still have {with insurers}; you need not pay that now.', {
        insured: 'yes',
        due: 'normal',
      }),
      message(90, 'Daily', 'Thank you for coming to {practice}.'),
    ])
    .execute();
  await db
    .insertInto('statement_policy')
    .values({ location_id: millLane, least: cents(1000), due_days: 21, tenders, hours })
    .execute();
  await db
    .insertInto('account_category')
    .values(['staff', 'courtesy'].map((name) => ({ name })))
    .execute();
  await db
    .insertInto('statement_set')
    .values([
      { name: 'Every four weeks', standard: true, rows: rowsDocument.write([...FIRST_ROWS]) },
      {
        name: 'Sooner: a payer has paid',
        rows: rowsDocument.write([
          { side: 'take', what: 'payer-paid' },
          { side: 'leave', what: 'claims-out' },
          { side: 'leave', what: 'unbilled', number: 6 },
          { side: 'leave', what: 'handed-over', number: 14 },
        ]),
      },
      {
        name: 'Old balances',
        rows: rowsDocument.write([
          { side: 'take', what: 'oldest-over', number: 90 },
          { side: 'leave', what: 'category', choices: ['staff'] },
          { side: 'leave', what: 'balance-below', number: 2500 },
        ]),
      },
    ])
    .execute();
}
