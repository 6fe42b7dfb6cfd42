/** Entering and voiding charges, and their estimates. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type CalendarDate, yearStart } from '../../core/calendar';
import { chargeEntry } from '../../core/books/entries';
import {
  type BenefitTerms,
  type ChargeEstimate,
  type EstimateCoverage,
  estimate,
} from '../../core/estimates/estimate';
import { type Cents, parseMoney } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { dateField, parseInput } from './register';

/** What the quick line sends. `fee` is text in the practice's currency, empty for the office fee. */
export const chargeInput = z.object({
  patientId: z.coerce.number().int(),
  providerId: z.coerce.number().int(),
  serviceDate: dateField,
  code: z.string().trim().toUpperCase().min(1, 'is missing'),
  units: z.coerce
    .number()
    .int('is a whole number')
    .min(1, 'is at least 1')
    .max(999, 'is at most 999')
    .default(1),
  fee: z.string().trim().default(''),
  modifiers: z
    .array(z.string().regex(/^[A-Z0-9]{2}$/, 'have two characters each'))
    .max(4, 'are at most four')
    .default([]),
  diagnoses: z.array(z.string()).max(4, 'are at most four on a charge').default([]),
  tooth: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^([1-9]|[12]\d|3[0-2]|[A-T])?$/, 'is 1 to 32 or A to T')
    .default(''),
  surfaces: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[MODBLFI]{0,5}$/, 'are letters of M O D B L F I')
    .default(''),
  key: z.string().min(8).max(80),
});

/**
 * Enters a done charge and writes it to the books. The same key enters it once.
 * @returns the charge's id
 */
export async function enterCharge(context: Context, input: unknown): Promise<number> {
  allow(context, 'enter charges');
  const data = parseInput(chargeInput, input);
  if (data.serviceDate > context.today) throw new Refused('Date lies in the future', 'serviceDate');
  return context.db.transaction().execute(async (tx) => {
    const known = await tx.selectFrom('charge').select('id').where('key', '=', data.key).executeTakeFirst();
    if (known) return known.id;
    const patient = await tx
      .selectFrom('patient')
      .innerJoin('care_case as c', 'c.patient_id', 'patient.id')
      .select(['patient.household_id', 'c.id as case_id'])
      .where('patient.id', '=', data.patientId)
      .where('c.standing', '=', true)
      .executeTakeFirst();
    if (!patient) throw new Refused('This person is not registered', 'patientId');
    const provider = await tx
      .selectFrom('provider')
      .select(['id', 'location_id'])
      .where('id', '=', data.providerId)
      .executeTakeFirst();
    if (!provider) throw new Refused('Choose a provider', 'providerId');
    const service = await tx
      .selectFrom('service_code')
      .selectAll()
      .where('code', '=', data.code)
      .where('active', '=', true)
      .executeTakeFirst();
    if (!service) throw new Refused(`Code ${data.code} is not in the list of services`, 'code');
    for (const code of data.diagnoses) {
      const found = await tx
        .selectFrom('diagnosis')
        .select('code')
        .where('code', '=', code)
        .executeTakeFirst();
      if (!found) throw new Refused(`Diagnosis ${code} is not in the list`, 'diagnoses');
    }
    if (service.needs_tooth && !data.tooth) throw new Refused(`${data.code} needs a tooth`, 'tooth');
    if (service.needs_surface && !data.surfaces) throw new Refused(`${data.code} needs surfaces`, 'surfaces');
    const fee = data.fee === '' ? await officeFee(tx, data.code, data.units) : parseMoney(data.fee);
    if (fee === null)
      throw new Refused(
        data.fee === '' ? `${data.code} has no office fee: enter one` : 'Fee is not an amount',
        'fee',
      );
    if (fee < 0) throw new Refused('Fee cannot be below zero', 'fee');
    const coverage = await tx
      .selectFrom('coverage')
      .innerJoin('plan', 'plan.id', 'coverage.plan_id')
      .select(['coverage.id', 'plan.payer_id'])
      .where('case_id', '=', patient.case_id)
      .where('position', '=', 1)
      .executeTakeFirst();
    const { id } = await tx
      .insertInto('charge')
      .values({
        household_id: patient.household_id,
        patient_id: data.patientId,
        case_id: patient.case_id,
        coverage_id: coverage?.id ?? null,
        provider_id: provider.id,
        location_id: provider.location_id,
        code: data.code,
        description: service.description,
        form: service.form,
        modifiers: data.modifiers,
        units: data.units,
        fee,
        service_date: data.serviceDate,
        tooth: data.tooth,
        surfaces: data.surfaces,
        diagnoses: data.diagnoses,
        key: data.key,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const about = {
      chargeId: id,
      householdId: patient.household_id,
      patientId: data.patientId,
      caseId: patient.case_id,
      providerId: provider.id,
      locationId: provider.location_id,
    };
    await writeEntries(tx, context, [
      chargeEntry({
        businessDate: data.serviceDate,
        memo: service.description,
        fee,
        about,
        coverage: coverage ? { coverageId: coverage.id, payerId: coverage.payer_id } : null,
      }),
    ]);
    await audit(tx, context, 'entered', { kind: 'charge', id });
    return id;
  });
}

async function officeFee(db: Db, code: string, units: number): Promise<Cents | null> {
  const row = await db
    .selectFrom('fee')
    .innerJoin('fee_schedule as s', 's.id', 'fee.fee_schedule_id')
    .select('amount')
    .where('s.kind', '=', 'office')
    .where('code', '=', code)
    .executeTakeFirst();
  return row ? ((row.amount * units) as Cents) : null;
}

/** Voids a charge that is on no current claim and on which no money has moved. */
export async function voidCharge(context: Context, chargeId: number, why: string): Promise<void> {
  allow(context, 'enter charges');
  await context.db.transaction().execute(async (tx) => {
    const charge = await tx.selectFrom('charge').selectAll().where('id', '=', chargeId).executeTakeFirst();
    if (!charge) throw new Refused('There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    const { status } = await tx
      .selectFrom('charge')
      .select('status')
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (status !== 'done') throw new Refused('This charge is void already');
    const billed = await tx
      .selectFrom('claim_line')
      .select('id')
      .where('charge_id', '=', chargeId)
      .where('current', '=', true)
      .executeTakeFirst();
    if (billed) throw new Refused('This charge is on a claim: withdraw the claim first');
    const entries = await tx
      .selectFrom('posting')
      .innerJoin('entry', 'entry.id', 'posting.entry_id')
      .select(['entry.id', 'entry.kind', 'entry.reverses'])
      .where('charge_id', '=', chargeId)
      .distinct()
      .execute();
    const undone = new Set(entries.map((entry) => entry.reverses));
    const live = entries.filter((entry) => entry.kind !== 'reversal' && !undone.has(entry.id));
    if (live.some((entry) => entry.kind !== 'charge'))
      throw new Refused('Money has moved on this charge: reverse that first');
    await reverseEntries(
      tx,
      context,
      live.map((entry) => entry.id),
      why,
    );
    await tx.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    await audit(tx, context, 'voided', { kind: 'charge', id: chargeId }, { why });
  });
}

/** The terms of a plan's row. */
export function termsOf(plan: {
  contracted: boolean;
  percentages: unknown;
  deductible: number;
  deductible_waived: string[];
  copay: number;
  copay_per: string;
  maximum: number | null;
  coordination: string;
}): BenefitTerms {
  return {
    contracted: plan.contracted,
    percentages: plan.percentages as Record<string, number>,
    deductible: plan.deductible as Cents,
    deductibleWaived: plan.deductible_waived,
    copay: plan.copay as Cents,
    copayPer: plan.copay_per as 'visit' | 'service',
    maximum: plan.maximum as Cents | null,
    coordination: plan.coordination as BenefitTerms['coordination'],
  };
}

/** The coverages of a case as the estimate needs them: terms, schedule, and what decided claims have used this year. */
export async function estimateCoverages(
  db: Db,
  caseId: number,
  day: CalendarDate,
): Promise<EstimateCoverage[]> {
  const rows = await db
    .selectFrom('coverage as c')
    .innerJoin('plan', 'plan.id', 'c.plan_id')
    .innerJoin('payer', 'payer.id', 'plan.payer_id')
    .selectAll('plan')
    .select(['c.id as coverage_id', 'payer.name as payer_name'])
    .where('c.case_id', '=', caseId)
    .orderBy('c.position')
    .execute();
  const coverages: EstimateCoverage[] = [];
  for (const row of rows) {
    const fees = row.fee_schedule_id
      ? await db
          .selectFrom('fee')
          .select(['code', 'amount'])
          .where('fee_schedule_id', '=', row.fee_schedule_id)
          .execute()
      : [];
    const schedule = new Map(fees.map((fee) => [fee.code, fee.amount as Cents]));
    const used = await db
      .selectFrom('posting as p')
      .innerJoin('charge', 'charge.id', 'p.charge_id')
      .select([
        sql<number>`coalesce(sum(p.amount) filter (where p.account like 'cash/%' or p.account = 'credit/payer'), 0)`.as(
          'paid',
        ),
        sql<number>`coalesce(sum(-p.amount) filter (where p.account = 'receivable/payer' and p.reason_group = 'PR' and p.reason_code = '1'), 0)`.as(
          'deductible',
        ),
      ])
      .where('p.coverage_id', '=', row.coverage_id)
      .where('charge.service_date', '>=', yearStart(day))
      .where('charge.service_date', '<=', day)
      .executeTakeFirstOrThrow();
    coverages.push({
      payer: row.payer_name,
      terms: termsOf(row),
      used: { paid: used.paid as Cents, deductible: used.deductible as Cents },
      allowedFee: (code) => schedule.get(code) ?? null,
    });
  }
  return coverages;
}

/** Estimates services that are not yet decided: those of the quick line and open charges of a case, in date order. */
export async function estimateOpen(
  context: Context,
  caseId: number,
  extra: { code: string; units: number; fee: Cents; date: CalendarDate } | null,
): Promise<ChargeEstimate[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('charge')
    .innerJoin('service_code as s', 's.code', 'charge.code')
    .innerJoin('charge_balance as b', 'b.charge_id', 'charge.id')
    .select(['charge.id', 'charge.code', 's.category', 'charge.units', 'charge.fee', 'charge.service_date'])
    .where('charge.case_id', '=', caseId)
    .where('charge.status', '=', 'done')
    .where('b.with_payer', '>', 0)
    .whereRef('b.with_payer', '=', 'b.fee')
    .orderBy('charge.service_date')
    .orderBy('charge.id')
    .limit(200)
    .execute();
  const charges = rows.map((row) => ({
    id: row.id,
    code: row.code,
    category: row.category,
    units: row.units,
    fee: row.fee as Cents,
    visit: row.service_date,
  }));
  if (extra) {
    const service = await context.db
      .selectFrom('service_code')
      .select('category')
      .where('code', '=', extra.code)
      .executeTakeFirst();
    if (!service) throw new Refused(`Code ${extra.code} is not in the list of services`, 'code');
    charges.push({
      id: 0,
      code: extra.code,
      category: service.category,
      units: extra.units,
      fee: extra.fee,
      visit: extra.date,
    });
  }
  return estimate(charges, await estimateCoverages(context.db, caseId, extra?.date ?? context.today));
}
