/** Words that go with numbers and fields. */

/** A number with its noun: `1 claim`, `2 claims`; `many` where an s is not enough. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

/** What the fields of forms are called, in messages. */
export const FIELD_WORDS: Readonly<Record<string, string>> = {
  last: 'Last name',
  first: 'First name',
  birthDate: 'Birth date',
  sex: 'Sex',
  line1: 'Street',
  line2: 'Street, second line',
  city: 'City',
  state: 'State',
  zip: 'ZIP',
  phone: 'Phone',
  email: 'E-mail',
  memberId: 'Member id',
  groupNumber: 'Group number',
  validFrom: 'In force from',
  planId: 'Plan',
  amount: 'Amount',
  code: 'Code',
  units: 'Units',
  fee: 'Fee',
  serviceDate: 'Date',
  date: 'Date',
  tooth: 'Tooth',
  surfaces: 'Surfaces',
  modifiers: 'Modifiers',
  diagnoses: 'Diagnoses',
  tender: 'Tender',
  reference: 'Check number',
  controlNumber: 'Claim number',
  why: 'Reason',
  outcome: 'Outcome',
  reason: 'Reason',
};
