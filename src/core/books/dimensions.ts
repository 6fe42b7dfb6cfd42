/** What a posting is about: the one map between the names in the code and the columns of the table. */

/** Columns of the table of postings by the name of the dimension. */
export const DIMENSIONS = {
  householdId: 'household_id',
  patientId: 'patient_id',
  caseId: 'case_id',
  chargeId: 'charge_id',
  coverageId: 'coverage_id',
  payerId: 'payer_id',
  claimId: 'claim_id',
  receiptId: 'receipt_id',
  tenderId: 'tender_id',
  placeId: 'place_id',
  depositId: 'deposit_id',
  remittanceId: 'remittance_id',
  remittanceClaimId: 'remittance_claim_id',
  providerAdjustmentId: 'provider_adjustment_id',
  planId: 'plan_id',
  placementId: 'placement_id',
  providerId: 'provider_id',
  locationId: 'location_id',
  reasonGroup: 'reason_group',
  reasonCode: 'reason_code',
  remarkCode: 'remark_code',
} as const;

/** Name of a dimension. */
export type Dimension = keyof typeof DIMENSIONS;
type Column<D extends Dimension> = (typeof DIMENSIONS)[D];
type Value<D extends Dimension> = D extends 'reasonGroup' | 'reasonCode' | 'remarkCode' ? string : number;

/** What a posting is about; ids of rows, absent where they do not apply. */
export type Dimensions = { [D in Dimension]?: Value<D> | null };

/** The dimensions as the table keeps them. */
export type DimensionColumns = { [D in Dimension as Column<D>]: Value<D> | null };

const PAIRS = Object.entries(DIMENSIONS) as [Dimension, Column<Dimension>][];

/** Dimensions as columns; what does not apply is null. */
export const toColumns = (about: Dimensions): DimensionColumns =>
  Object.fromEntries(PAIRS.map(([name, column]) => [column, about[name] ?? null])) as DimensionColumns;

/** Columns as dimensions. */
export const fromColumns = (row: DimensionColumns): Dimensions =>
  Object.fromEntries(PAIRS.map(([name, column]) => [name, row[column]])) as Dimensions;
