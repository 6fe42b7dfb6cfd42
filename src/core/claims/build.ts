/** Grouping done, unbilled charges into claims within the limits of their form. */
import type { ClaimForm } from './content';
import type { CalendarDate } from '../calendar';

/** Limits of the electronic forms: lines of a claim (837P loop 2400 and 837D loop 2400 repeat 50 times) and diagnoses (HI). */
export const CLAIM_LIMITS = {
  professional: { lines: 50, diagnoses: 12 },
  dental: { lines: 50, diagnoses: 4 },
} as const;

/** Diagnosis pointers a line may carry. */
export const MAX_POINTERS = 4;

/** What decides which claim a charge belongs to. */
export interface BillableCharge {
  id: number;
  form: ClaimForm;
  patientId: number;
  caseId: number;
  coverageId: number;
  /** The claim of the payer before, whose decision goes with it; null of a first payer. */
  after: number | null;
  /** Key of who bills: the practice as a group, or one provider. */
  billing: string;
  locationId: number;
  renderingId: number;
  date: CalendarDate;
  diagnoses: readonly string[];
  /** How many lines its payer takes on one claim, where that is less than the form holds. */
  most?: number | null;
}

/** Charges of one claim to be built, in line order. */
export interface ClaimGroup {
  form: ClaimForm;
  charges: BillableCharge[];
  diagnoses: string[];
}

/**
 * Groups charges: one claim a patient, case, coverage, claim before it, form, billing provider, location, rendering provider and day;
 * a group over the limits of its form goes on in a further claim.
 */
export function groupCharges(charges: readonly BillableCharge[]): ClaimGroup[] {
  const sorted = [...charges].sort((a, b) => (a.date === b.date ? a.id - b.id : a.date < b.date ? -1 : 1));
  const groups: ClaimGroup[] = [];
  const open = new Map<string, ClaimGroup>();
  for (const charge of sorted) {
    const key = [
      charge.patientId,
      charge.caseId,
      charge.coverageId,
      charge.after,
      charge.form,
      charge.billing,
      charge.locationId,
      charge.renderingId,
      charge.date,
    ].join('|');
    const limits = CLAIM_LIMITS[charge.form];
    let group = open.get(key);
    const together = new Set([...(group?.diagnoses ?? []), ...charge.diagnoses]);
    if (!group || group.charges.length >= (charge.most ?? limits.lines) || together.size > limits.diagnoses) {
      group = { form: charge.form, charges: [], diagnoses: [] };
      groups.push(group);
      open.set(key, group);
    }
    group.charges.push(charge);
    group.diagnoses = [...new Set([...group.diagnoses, ...charge.diagnoses])];
  }
  return groups;
}
