/**
 * What a claim says: the snapshot that is taken when it is built and never changes once it is sent. One schema, from which the type
 * and the kept document follow.
 */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { centsField, dateField } from '../fields';
import { adjustmentSchema } from '../x12/adjustments';

/** Professional (837P) or dental (837D). */
export type ClaimForm = 'professional' | 'dental';

const address = z.object({
  line1: z.string(),
  line2: z.string(),
  city: z.string(),
  state: z.string(),
  /** Five or nine digits, with or without a hyphen. */
  zip: z.string(),
});
/** A postal address. */
export type PostalAddress = z.output<typeof address>;

const name = z.object({ last: z.string(), first: z.string(), middle: z.string(), suffix: z.string() });
/** A person's name in parts. */
export type PersonName = z.output<typeof name>;

const person = name.extend({
  birthDate: dateField,
  /** X12 DMG03: F, M or U unknown. */
  sex: z.enum(['F', 'M', 'U']),
  address,
});

const provider = z.object({ last: z.string(), first: z.string(), npi: z.string(), taxonomy: z.string() });

/** A further number: what it is as X12 names it (REF01), and the number. */
const reference = z.object({ qualifier: z.string(), id: z.string() });
/** A further number of somebody on a claim. */
export type ClaimReference = z.output<typeof reference>;
const references = z.array(reference).optional();

const line = z.object({
  number: z.int(),
  code: z.string(),
  modifiers: z.array(z.string()),
  /** In cents for all units. */
  charge: centsField,
  /** Tax that is in it, where the payer takes tax (2400 AMT*T). */
  tax: centsField.optional(),
  units: z.number(),
  /** Positions, from 1, in the claim's diagnoses. */
  pointers: z.array(z.int()),
  date: dateField,
  tooth: z.string(),
  /** Surface letters, such as MOD. */
  surfaces: z.string(),
  /** Area of the oral cavity: a quadrant or an arch (two digits), empty when none. */
  area: z.string(),
  /** A crown, bridge or denture: I the first one, R in place of one that was placed before; empty when it is none. */
  prosthesis: z.enum(['', 'I', 'R']),
  /** When the one before it was placed. */
  priorPlacement: dateField.nullable(),
  /** The drug that was given: its national drug code, thousandths of its measure, and what that is (2410 LIN03, CTP04, CTP05-1). */
  drug: z
    .object({ ndc: z.string(), thousandths: z.int().min(1), measure: z.enum(['F2', 'GR', 'ME', 'ML', 'UN']) })
    .optional(),
  /** Line item control number that comes back on the remittance. */
  control: z.string(),
});
/** One service line. */
export type ClaimLineContent = z.output<typeof line>;

/** How the patient is related to a subscriber. */
const relationship = z.enum(['self', 'spouse', 'child', 'other']);

const otherPayer = z.object({
  /** 1 first payer, 2 second, 3 third. */
  coverageOrder: z.int(),
  filingCode: z.string(),
  /** Why Medicare comes after another insurer (2320 SBR05). */
  secondaryType: z.string().optional(),
  payer: z.object({ name: z.string(), payerId: z.string() }),
  subscriber: name.extend({ memberId: z.string(), groupNumber: z.string(), planName: z.string() }),
  relationship,
  /** Left out, it pays us (OI03) and may be told (OI06). */
  assignment: z.object({ benefits: z.boolean(), signed: z.boolean() }).optional(),
  /** Under what numbers it knows who referred, who did it and who bills (of the 837P 2330C, D and G, of the 837D 2330C, D and F). */
  numbers: z.object({ referring: reference, rendering: reference, billing: reference }).partial().optional(),
  /** What an earlier payer has decided, as it was received; absent of one that has not. Amounts in cents. */
  decided: z
    .object({
      paid: centsField,
      date: dateField.nullable(),
      /** The payer's own number of its claim. */
      payerClaimNumber: z.string(),
      /** Of the claim as a whole. */
      adjustments: z.array(adjustmentSchema),
      /** Remark codes of the claim as a whole. */
      remarks: z.array(z.string()),
      /** More than one of a line where the payer split it. */
      lines: z.array(
        z.object({
          /** Of the line of this claim. */
          number: z.int(),
          /** The procedure that was decided. */
          code: z.string(),
          modifiers: z.array(z.string()),
          paid: centsField,
          units: z.number(),
          /** The line of this claim with which the payer decided it together (SVD06). */
          bundledInto: z.int().optional(),
          adjustments: z.array(adjustmentSchema),
        }),
      ),
    })
    .optional(),
});
/** Another payer of the same services. */
export type OtherPayer = z.output<typeof otherPayer>;

/** The schema of everything that a claim says. */
export const claimSchema = z.object({
  form: z.enum(['professional', 'dental']),
  /** Patient control number: ours, never repeated. */
  controlNumber: z.string(),
  /** 1 original, 7 replacement, 8 void (claim frequency type code). */
  frequency: z.enum(['1', '7', '8']),
  /** The payer's own number of the claim that a replacement or void refers to. */
  payerClaimNumber: z.string().optional(),
  /** Sum of the lines, in cents. */
  total: centsField,
  /** Place of service code set of CMS, two digits. */
  placeOfService: z.string(),
  billing: z.object({
    organization: z.string().optional(),
    last: z.string().optional(),
    first: z.string().optional(),
    npi: z.string(),
    taxonomy: z.string(),
    taxId: z.string(),
    /** EI employer identification number, SY social security number. */
    taxIdKind: z.enum(['EI', 'SY']),
    address,
    /** Where checks go, where that is another place (2010AB). */
    payTo: address.optional(),
    /** Numbers under which the payer knows who bills (2010AA REF: 0B, 1G). */
    references,
  }),
  subscriber: person.extend({
    /** An employer has none. */
    birthDate: dateField.or(z.literal('').transform(() => '' as CalendarDate)),
    memberId: z.string(),
    groupNumber: z.string(),
    planName: z.string(),
    /** It is an employer: its name stands in last. */
    organization: z.boolean().optional(),
    /** Why Medicare comes after another insurer (2000B SBR05). */
    secondaryType: z.string().optional(),
    /** The insurer's number of an injury (2010BA REF Y4). */
    casualtyNumber: z.string().optional(),
  }),
  /** Left out, who bills accepts what the payer allows; the payer pays us; and the person has signed (CLM07, CLM08, CLM09). */
  assignment: z.object({ accepted: z.boolean(), benefits: z.boolean(), signed: z.boolean() }).optional(),
  patient: person,
  relationship,
  /** 1 first payer, 2 second, 3 third. */
  coverageOrder: z.int(),
  /** Claim filing indicator (SBR09), such as CI commercial or BL. */
  filingCode: z.string(),
  /** With its address where it is known, its further numbers (2U, EI, FY, NF) and that of the group there (G2, LU; 2010BB REF). */
  payer: z.object({ name: z.string(), payerId: z.string(), address: address.optional(), references }),
  /** With the numbers under which the payer knows who did it (2310B REF). */
  rendering: provider.extend({ references }).optional(),
  /** Where it was done, when that is not where the billing provider is. */
  facility: z.object({ name: z.string(), address }).optional(),
  /**
   * Who referred, or with a role who ordered (DK, 2420E of every line) or supervises (DQ, 2310D; 837D 2310E), with the number under
   * which the payer knows whoever of ours it is.
   */
  referring: provider
    .omit({ taxonomy: true })
    .extend({ references, role: z.enum(['DK', 'DQ']).optional() })
    .optional(),
  /** ICD-10-CM codes with their point; the first is the principal one. */
  diagnoses: z.array(z.string()),
  /** AA automobile, EM employment, OA other accident. */
  accident: z
    .object({ kind: z.enum(['AA', 'EM', 'OA']), date: dateField.nullable(), state: z.string() })
    .optional(),
  /** Further dates of the case, as its names in `CASE_DATES`; on a professional claim only. */
  dates: z
    .object({
      onset: dateField,
      firstTreated: dateField,
      acute: dateField,
      lastSeen: dateField,
      firstContact: dateField,
      disabledFrom: dateField,
      disabledTo: dateField,
      admitted: dateField,
      released: dateField,
    })
    .partial()
    .optional(),
  /** What the patient has paid, where the payer is told (2300 AMT*F5). */
  patientPaid: centsField.optional(),
  /** Why it is late (CLM20). */
  delayReason: z.string().optional(),
  /** The number of the laboratory where it was done, of a professional claim (2300 REF X4). */
  clia: z.string().optional(),
  /** Teeth that are missing, on a dental claim of a prosthesis. */
  lostTeeth: z.array(z.string()).optional(),
  /** Number of the prior authorization, and of the referral. */
  authorizationNumber: z.string().optional(),
  referralNumber: z.string().optional(),
  /** What is sent beside it: report type and way of sending as X12 names them (PWK01, PWK02), and the number on it. */
  attachments: z.array(z.object({ type: z.string(), by: z.string(), control: z.string() })).optional(),
  note: z.string().optional(),
  /** The other payers of the case on the day, in their order. */
  otherPayers: z.array(otherPayer).optional(),
  lines: z.array(line),
});
/** Everything a claim says. */
export type ClaimContent = z.output<typeof claimSchema>;
