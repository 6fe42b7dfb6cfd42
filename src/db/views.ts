/** Views of the database, as the tables are in {@link DB}: read, never written. */
import type { SecondaryType } from '../core/accounts/order';
import type { CalendarDate } from '../core/calendar';
import type { Cents } from '../core/money';
import type { Tender } from '../core/payments/tenders';
import type { DB as Tables } from './tables';

/** Coverages with the plan and the payer of their policies. */
interface CoveragePlan {
  id: number;
  case_id: number;
  position: number;
  valid_from: CalendarDate | null;
  valid_to: CalendarDate | null;
  policy_id: number;
  insurance_plan_id: number;
  payer_id: number;
  plan_name: string;
}

/** Coverages with all that their policies say. */
interface Covered {
  id: number;
  case_id: number;
  position: number;
  valid_from: CalendarDate | null;
  valid_to: CalendarDate | null;
  bill_patient: 'yes' | 'copay-only' | 'never';
  bill_patient_why: '' | 'medicaid' | 'qmb' | 'injury' | 'contract';
  claim_number: string;
  adjuster: string;
  assigned: boolean;
  signed: boolean;
  basis: '' | 'employed' | 'retired' | 'continued';
  court_order: boolean;
  secondary_type: SecondaryType;
  exhausted_from: CalendarDate | null;
  exhausted_letter: string | null;
  version: number;
  patient_id: number;
  policy_id: number;
  policy_person_id: number;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  insurance_plan_id: number;
  payer_id: number;
  plan_name: string;
  group_number: string;
  /** The last that holds while the coverage does. */
  member_id: string;
  /** The party that holds the policy. */
  holder_id: number;
  /** The holder, where that is a patient of ours. */
  subscriber_id: number | null;
  organization: boolean;
  subscriber_last: string;
  subscriber_first: string;
  /** An organization has none. */
  subscriber_birth_date: CalendarDate | null;
  subscriber_sex: 'F' | 'M' | 'U';
  /** Where a holder is who is no patient; empty where the patient lives. */
  holder_line1: string;
  holder_city: string;
  holder_state: string;
  holder_zip: string;
}

/** How a receipt came: by its tenders, those first that count, or collected by an agency. */
interface ReceiptTender {
  receipt_id: number;
  tender: Tender;
  reference: string;
  /** All of its tenders in words. */
  how: string;
  /** And their kinds, in their order. */
  kinds: string;
}

/** What was charged of the services of a good faith estimate, by provider, in cents. */
interface EstimateAbove {
  estimate_id: number;
  case_id: number;
  provider_id: number;
  said: Cents;
  charged: Cents;
  owed: Cents;
}

/** The tables of a practice's database, and its views. */
export interface DB extends Tables {
  coverage_plan: CoveragePlan;
  covered: Covered;
  estimate_above: EstimateAbove;
  receipt_tender: ReceiptTender;
}
