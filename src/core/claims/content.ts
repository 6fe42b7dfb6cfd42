/** What a claim says: the snapshot that is taken when it is built and never changes once it is sent. */
import type { CalendarDate } from '../calendar';
import type { Cents } from '../money';

/** Professional (837P) or dental (837D). */
export type ClaimForm = 'professional' | 'dental';

/** A postal address; `zip` has five or nine digits, with or without a hyphen. */
export interface PostalAddress {
  line1: string;
  line2: string;
  city: string;
  state: string;
  zip: string;
}

/** A person's name in parts. */
export interface PersonName {
  last: string;
  first: string;
  middle: string;
  suffix: string;
}

interface Person extends PersonName {
  birthDate: CalendarDate;
  /** X12 DMG03: F, M or U unknown. */
  sex: 'F' | 'M' | 'U';
  address: PostalAddress;
}

/** One service line. `charge` in cents for all units. */
export interface ClaimLineContent {
  number: number;
  code: string;
  modifiers: string[];
  charge: Cents;
  units: number;
  /** Positions, from 1, in the claim's diagnoses. */
  pointers: number[];
  date: CalendarDate;
  tooth: string;
  /** Surface letters, such as MOD. */
  surfaces: string;
  /** Area of the oral cavity: a quadrant or an arch (two digits), empty when none. */
  area: string;
  /** A crown, bridge or denture: I the first one, R in place of one that was placed before; empty when it is none. */
  prosthesis: '' | 'I' | 'R';
  /** When the one before it was placed. */
  priorPlacement: CalendarDate | null;
  /** Line item control number that comes back on the remittance. */
  control: string;
}

/** A provider named on a claim. */
export interface ClaimProvider {
  last: string;
  first: string;
  npi: string;
  taxonomy: string;
}

/** Everything a claim says. */
export interface ClaimContent {
  form: ClaimForm;
  /** Patient control number: ours, never repeated. */
  controlNumber: string;
  /** 1 original, 7 replacement, 8 void (claim frequency type code). */
  frequency: '1' | '7' | '8';
  /** The payer's own number of the claim that a replacement or void refers to. */
  payerClaimNumber?: string;
  /** Sum of the lines, in cents. */
  total: Cents;
  /** Place of service code set of CMS, two digits. */
  placeOfService: string;
  billing: {
    organization?: string;
    last?: string;
    first?: string;
    npi: string;
    taxonomy: string;
    taxId: string;
    /** EI employer identification number, SY social security number. */
    taxIdKind: 'EI' | 'SY';
    address: PostalAddress;
  };
  subscriber: Person & { memberId: string; groupNumber: string; planName: string };
  patient: Person;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  /** 1 first payer, 2 second, 3 third. */
  coverageOrder: number;
  /** Claim filing indicator (SBR09), such as CI commercial or BL. */
  filingCode: string;
  payer: { name: string; payerId: string };
  rendering?: ClaimProvider;
  /** Where it was done, when that is not where the billing provider is. */
  facility?: { name: string; address: PostalAddress };
  referring?: ClaimProvider;
  /** ICD-10-CM codes with their point; the first is the principal one. */
  diagnoses: string[];
  /** AA automobile, EM employment, OA other accident. */
  accident?: { kind: 'AA' | 'EM' | 'OA'; date: CalendarDate | null; state: string };
  authorizationNumber?: string;
  note?: string;
  lines: ClaimLineContent[];
}
