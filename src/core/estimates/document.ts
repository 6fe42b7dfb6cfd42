/** An estimate as a document: coverages with their rules and what was used of them, and charges. Amounts are whole cents. */
import { z } from 'zod';
import { dateField } from '../fields';
import { MAX_CENTS, basisPoints, cents } from '../money';
import { type ChargeEstimate, type EstimateCharge, type EstimateCoverage, estimate } from './estimate';
import { COPAY_ORDERS, MEASURES, type Rule } from './rules';

const amount = z.int().min(0).max(MAX_CENTS).transform(cents);
const share = z.int().min(0).max(10_000).transform(basisPoints);
const text = z.string().min(1).max(80);
const count = z.int().min(0).max(9999);
const codes = z.array(text).min(1).max(500);

const named = {
  id: text,
  scope: z.strictObject({ category: text.optional(), codes: codes.optional() }).optional(),
};
const holder = z.enum(['person', 'household']).default('person');
const period = z
  .union([
    z.strictObject({ every: z.enum(['visit', 'day', 'month', 'life', 'coverage']) }),
    z.strictObject({
      every: z.literal('year'),
      anchor: dateField.optional(),
      renews: z.boolean().optional(),
    }),
    z.strictObject({ every: z.literal('months'), months: z.int().min(1).max(600) }),
  ])
  .default({ every: 'year' });

const rule = z.discriminatedUnion('kind', [
  z.strictObject({ ...named, kind: z.literal('share'), share }),
  z.strictObject({ ...named, kind: z.literal('deductible'), amount, holder, period }),
  z.strictObject({
    ...named,
    kind: z.literal('copay'),
    amount,
    once: z.enum(['visit', 'day', 'service']).default('visit'),
    order: z.enum(COPAY_ORDERS).default('between'),
  }),
  z.strictObject({ ...named, kind: z.literal('out-of-pocket'), amount, holder, period }),
  z.strictObject({
    ...named,
    kind: z.literal('limit'),
    measure: z.enum(MEASURES),
    most: z.int().min(0).max(MAX_CENTS),
    holder,
    period,
    byTooth: z.boolean().optional(),
    then: z.enum(['next', 'patient']).optional(),
    warning: z.enum(['none', 'confirm']).optional(),
  }),
  z.strictObject({ ...named, kind: z.literal('waiting'), months: z.int().min(1).max(600) }),
  z.strictObject({
    ...named,
    kind: z.literal('ages'),
    from: z.int().min(0).max(150).optional(),
    through: z.int().min(0).max(150).optional(),
  }),
  z.strictObject({ ...named, kind: z.literal('missing-tooth') }),
  z.strictObject({ ...named, kind: z.literal('lesser-service'), code: text }),
  z.strictObject({ ...named, kind: z.literal('approval') }),
  z.strictObject({ ...named, kind: z.literal('several'), shares: z.array(share).min(1).max(20) }),
  z.strictObject({ ...named, kind: z.literal('modifier'), modifier: text, share }),
]);

const coverage = z.strictObject({
  payer: text,
  contracted: z.boolean().default(true),
  coordination: z.enum(['standard', 'non-duplication', 'maintenance']).default('standard'),
  begins: dateField.optional(),
  /** Nothing is left of it from this day on, as the payer's letter says. */
  exhausted: dateField.optional(),
  /** Allowed for one unit of a service; where a facility has another, both. */
  fees: z.record(text, z.union([amount, z.strictObject({ office: amount, facility: amount })])).default({}),
  rules: z.array(rule).max(500),
  /** What was used of a rule, in cents or how many: in the period that began on a day, or in whatever the charge is in. */
  used: z
    .array(
      z.strictObject({
        rule: text,
        quantity: z.int().min(0).max(MAX_CENTS),
        from: dateField.optional(),
        tooth: z.string().max(4).optional(),
      }),
    )
    .default([]),
  earlier: z
    .array(
      z.strictObject({
        code: text,
        category: text,
        day: dateField,
        tooth: z.string().max(4).default(''),
        units: count.default(1),
      }),
    )
    .default([]),
});

const charge = z.strictObject({
  code: text,
  category: text,
  units: z.int().min(1).max(999).default(1),
  /** For all units. */
  fee: amount,
  date: dateField,
  /** Charges of one visit have the same; by default those of one day. */
  visit: text.optional(),
  modifiers: z.array(text).max(4).default([]),
  tooth: z.string().max(4).default(''),
  facility: z.boolean().default(false),
  age: z.int().min(0).max(150).optional(),
  approved: z.boolean().default(false),
  lostBefore: z.boolean().default(false),
});

/** What is estimated: coverages in their order, and charges in the order in which payers decide them. */
export const estimateDocument = z
  .strictObject({
    format: z.literal('wergeld-estimate'),
    version: z.literal(1),
    coverages: z.array(coverage).max(9),
    charges: z.array(charge).min(1).max(500),
  })
  .superRefine(({ coverages }, check) => {
    for (const [at, { rules, used }] of coverages.entries()) {
      const ids = rules.map(({ id }) => id);
      const twice = ids.findIndex((id, place) => ids.indexOf(id) !== place);
      if (twice !== -1)
        check.addIssue({
          code: 'custom',
          path: ['coverages', at, 'rules', twice, 'id'],
          message: `“${ids[twice]}” is the id of another rule too`,
        });
      for (const [place, { rule: id }] of used.entries())
        if (!ids.includes(id))
          check.addIssue({
            code: 'custom',
            path: ['coverages', at, 'used', place, 'rule'],
            message: `there is no rule “${id}”`,
          });
    }
  });

type Document = z.output<typeof estimateDocument>;

const coverageOf = (one: Document['coverages'][number]): EstimateCoverage => ({
  payer: one.payer,
  contracted: one.contracted,
  coordination: one.coordination,
  rules: one.rules as Rule[],
  begins: one.begins ?? null,
  ...(one.exhausted ? { exhausted: one.exhausted } : {}),
  earlier: one.earlier,
  used: ({ id }, from, tooth) =>
    one.used
      .filter((use) => use.rule === id && (use.from ?? from) === from && (use.tooth ?? tooth) === tooth)
      .reduce((all, { quantity }) => all + quantity, 0),
  allowedFee: (code, facility) => {
    const fee = Object.hasOwn(one.fees, code) ? one.fees[code]! : null;
    return fee === null || typeof fee === 'number' ? fee : facility ? fee.facility : fee.office;
  },
});

/** Estimates a document. @returns the charges in their order, numbered from 1 */
export const estimateOf = ({ coverages, charges }: Document): ChargeEstimate[] =>
  estimate(
    charges.map(({ date, visit, age, ...one }, at): EstimateCharge => ({
      ...one,
      id: at + 1,
      day: date,
      visit: visit ?? date,
      ...(age === undefined ? {} : { age }),
    })),
    coverages.map(coverageOf),
  );

/** The document as a JSON Schema (draft 2020-12), as `docs/formats/estimate.schema.json` has it. */
export const estimateSchema = (): Record<string, unknown> => ({
  title: 'Estimate: coverages with their rules, and the charges that are estimated',
  description: 'Amounts are whole cents, shares basis points, dates YYYY-MM-DD.',
  ...z.toJSONSchema(estimateDocument, { io: 'input' }),
});
