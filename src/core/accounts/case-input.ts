/** What the forms of cases send. */
import { z } from 'zod';
import { STATES } from '../claims/states';
import {
  dateField,
  idField,
  keyField,
  optionalDateField,
  reasonField,
  sureField,
  textField,
} from '../fields';
import { CASE_KINDS, CASE_PARTS, type CaseKind, type CasePart } from './cases';

const idOrNone = idField.nullish().transform((value) => value ?? null);
const words = (max: number) =>
  textField(max).refine(
    (text) => !/[\u0000-\u001f*~^:]/.test(text),
    'has characters that a claim cannot carry (* ~ ^ :)',
  );

/** Most diagnoses of a claim (005010X222A1, HI), and so of a case. */
const MOST_DIAGNOSES = 12;
const MOST_SERVICES = 40;

const facts = {
  name: textField(80).pipe(z.string().min(1, 'is missing')),
  kind: z.enum(Object.keys(CASE_KINDS) as [CaseKind], { error: 'is none of the kinds' }),
  openedOn: optionalDateField,
  accidentDate: optionalDateField,
  accidentState: z
    .string()
    .trim()
    .toUpperCase()
    .refine((value) => value === '' || STATES.has(value), 'is a two-letter state code such as WA')
    .default(''),
  onsetDate: optionalDateField,
  firstTreatedDate: optionalDateField,
  acuteDate: optionalDateField,
  lastSeenDate: optionalDateField,
  firstContactDate: optionalDateField,
  disabledFrom: optionalDateField,
  disabledTo: optionalDateField,
  admittedOn: optionalDateField,
  releasedOn: optionalDateField,
  providerId: idOrNone,
  billProviderId: idOrNone,
  siteId: idOrNone,
  serviceSiteId: idOrNone,
  referringLast: words(60),
  referringFirst: words(35),
  referringNpi: textField(10),
  /** As what claims name that person (NM101). */
  referringRole: z.enum(['DN', 'DK', 'DQ']).default('DN'),
  referredOn: optionalDateField,
  cameBy: z
    .string()
    .trim()
    .nullish()
    .transform((value) => value || null),
  cameByNote: textField(120),
  limits: textField(500),
  statements: z.boolean().default(true),
  lateCharges: z.boolean().default(true),
  claims: z.boolean().default(true),
  /** The principal one first. */
  diagnoses: z
    .array(z.object({ code: z.string().trim(), since: optionalDateField, until: optionalDateField }))
    .max(MOST_DIAGNOSES, `are at most ${MOST_DIAGNOSES}`)
    .default([]),
  services: z
    .array(
      z.object({
        code: z.string().trim().toUpperCase(),
        /** As typed; empty for the office fee. */
        fee: z.string().trim().default(''),
        minutes: z.coerce
          .number()
          .int('is a whole number')
          .min(1, 'is at least 1')
          .max(600, 'is at most 600')
          .nullish()
          .transform((value) => value ?? null),
      }),
    )
    .max(MOST_SERVICES, `are at most ${MOST_SERVICES}`)
    .default([]),
};

/** What the form for a new case sends; what it leaves empty may be taken over from another case of the person. */
export const openCaseInput = z.object({
  patientId: idField,
  ...facts,
  fromCaseId: idOrNone,
  take: z.array(z.enum(Object.keys(CASE_PARTS) as [CasePart])).default([]),
  key: keyField,
});

/** What the form of a case that is there sends. */
export const caseFixInput = z.object({
  caseId: idField,
  ...facts,
  /** Version of the case that the form was filled from. */
  version: z.coerce.number().int().optional(),
});

/** What a payer may allow beforehand, in words. */
export const AUTHORIZATIONS = {
  'prior-authorization': 'Prior authorization',
  referral: 'Referral',
} as const;
/** How far it has come, in words. */
export const AUTHORIZATION_STATES = {
  asked: 'asked for',
  approved: 'approved',
  'in-part': 'approved in part',
  refused: 'refused',
} as const;

/** How many, of at least one; empty where nothing is said. */
const some = (most: number) =>
  z.preprocess(
    (typed) => (typed === '' || typed === undefined ? null : typed),
    z.coerce
      .number()
      .int('is a whole number')
      .min(1, 'is at least 1')
      .max(most, `is at most ${most}`)
      .nullable(),
  );

const authorization = {
  /** Of which insurer of the case. */
  coverageId: idField,
  kind: z.enum(Object.keys(AUTHORIZATIONS) as [keyof typeof AUTHORIZATIONS], { error: 'is missing' }),
  state: z.enum(Object.keys(AUTHORIZATION_STATES) as [keyof typeof AUTHORIZATION_STATES], {
    error: 'is missing',
  }),
  number: words(50),
  askedOn: optionalDateField,
  answeredOn: optionalDateField,
  validFrom: optionalDateField,
  validTo: optionalDateField,
  /** The services that it is for; none for all of the case. */
  codes: z.array(z.string().trim().toUpperCase()).max(40, 'are at most 40').default([]),
  /** How much is allowed; empty where nothing is said. */
  visits: some(9999),
  units: some(9999),
  amount: textField(20),
};
/** What the form of a new authorization sends. */
export const authorizationInput = z.object({ caseId: idField, ...authorization, key: keyField });
/** What the form of one that is there sends. */
export const authorizationFixInput = z.object({
  authorizationId: idField,
  ...authorization,
  /** Version of the one that the form was filled from. */
  version: z.coerce.number().int().optional(),
});

/** A case that is closed. */
export const dischargeInput = z.object({
  caseId: idField,
  on: dateField,
  why: reasonField('Say why it is closed'),
  sure: sureField,
});

/** A case that is open again. */
export const reopenInput = z.object({ caseId: idField });
