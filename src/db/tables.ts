// Made from the migrated database by `./wergeld types`; not edited by hand.
import type { ColumnType, Generated, GeneratedAlways } from 'kysely';
import type { BookAccount } from '../core/books/accounts';
import type { EntryKind } from '../core/books/kinds';
import type { Passing } from '../core/books/passing';
import type { CalendarDate } from '../core/calendar';
import type { BenefitKind } from '../core/estimates/benefits';
import type { ClaimNeed } from '../core/claims/needs';
import type { PayerSetting } from '../core/payers/settings';
import type { ConnectionKind } from '../core/exchange/connections';
import type { BasisPoints, Cents } from '../core/money';
import type { Tender } from '../core/payments/tenders';

/**
 * The tables of a practice's database. `Cents` are whole cents, other bigints ids or counts; dates are
 * `YYYY-MM-DD`; documents are read by their schema.
 */
export interface DB {
  account: {
    id: string;
    accountId: string;
    providerId: string;
    userId: string;
    accessToken: string | null;
    refreshToken: string | null;
    idToken: string | null;
    accessTokenExpiresAt: Date | null;
    refreshTokenExpiresAt: Date | null;
    scope: string | null;
    password: string | null;
    createdAt: Generated<Date>;
    updatedAt: Generated<Date>;
  };
  account_category: {
    name: string;
    fee_schedule_id: number | null;
    version: Generated<number>;
  };
  account_stop: {
    id: GeneratedAlways<number>;
    household_id: number;
    reason_id: number;
    since: CalendarDate;
    until: CalendarDate | null;
    user_name: string;
    lifted_on: CalendarDate | null;
    lifted_by: string | null;
    lifted_why: string | null;
    created_at: Generated<Date>;
  };
  advance_notice: {
    id: GeneratedAlways<number>;
    case_id: number;
    code: string;
    why: string;
    price: Cents;
    modifier: 'GA' | 'GX' | 'GY' | 'GZ';
    signed_on: CalendarDate | null;
    user_name: string;
    made_on: CalendarDate;
  };
  agency_notice: {
    id: GeneratedAlways<number>;
    placement_id: number;
    kind: 'recall' | 'payment' | 'correction' | 'hold' | 'resume';
    amount: Generated<Cents>;
    words: Generated<string>;
    made_on: CalendarDate;
    written_at: Date | null;
  };
  agency_payment: {
    id: GeneratedAlways<number>;
    placement_id: number;
    reference: string;
    paid_on: CalendarDate;
    gross: Cents;
    fee: Cents;
    direct: boolean;
    receipt_id: number | null;
    entry_id: number;
    reversed_on: CalendarDate | null;
    reversed_why: Generated<string>;
  };
  agency_statement: {
    id: GeneratedAlways<number>;
    connection_id: number;
    file_id: number;
    received_on: CalendarDate;
    lines: ColumnType<unknown, string, string>;
  };
  answered: {
    use_case: string;
    key: string;
    user_id: string;
    fingerprint: string;
    answer: ColumnType<unknown, string | null | undefined, string | null>;
    at: Generated<Date>;
  };
  attempt: {
    id: GeneratedAlways<number>;
    tender_id: number;
    what: 'sale' | 'void' | 'refund';
    key: string;
    merchant: string;
    asked_at: Generated<Date>;
    answered_at: Date | null;
    state: Generated<'asked' | 'approved' | 'declined' | 'unclear'>;
    approval: Generated<string>;
    reason: Generated<string>;
    why: Generated<string>;
    user_id: string;
    tries: Generated<number>;
  };
  audit: {
    id: GeneratedAlways<number>;
    at: Generated<Date>;
    user_id: string;
    account: Generated<string>;
    session_id: Generated<string>;
    address: Generated<string>;
    action: string;
    subject_kind: string;
    subject_id: string;
    household_id: number | null;
    patient_id: number | null;
    detail: ColumnType<unknown, string | undefined, string>;
  };
  benefit_counter: {
    policy_id: number;
    patient_id: number;
    kind: BenefitKind;
    period_start: CalendarDate;
    quantity: Cents;
  };
  benefit_elsewhere: {
    id: GeneratedAlways<number>;
    policy_id: number;
    patient_id: number;
    rule: string;
    as_of: CalendarDate;
    quantity: number | null;
    source: 'call' | 'portal' | 'letter' | 'card';
    user_name: string;
    at: Generated<Date>;
  };
  benefit_kind: {
    code: string;
  };
  benefit_rule: {
    id: GeneratedAlways<number>;
    kind: BenefitKind;
    insurance_plan_id: number | null;
    policy_id: number | null;
    coverage_id: number | null;
    valid_from: CalendarDate | null;
    category: string | null;
    codes: string[] | null;
    share: BasisPoints | null;
    amount: Cents | null;
    quantity: number | null;
    measure: 'visits' | 'days' | 'units' | 'services' | null;
    holder: Generated<'person' | 'household'>;
    every: Generated<'day' | 'month' | 'year' | 'months' | 'coverage' | 'life'>;
    months: number | null;
    anchor: CalendarDate | null;
    renews: Generated<boolean>;
    by_tooth: Generated<boolean>;
    counted_for: Generated<'visit' | 'day' | 'service'>;
    copay_order: Generated<'before' | 'between' | 'after' | 'instead'>;
    then_pays: Generated<'next' | 'patient'>;
    warning: Generated<'none' | 'confirm'>;
    age_from: number | null;
    age_through: number | null;
    paid_as: string | null;
    modifier: Generated<string>;
    shares: number[] | null;
    version: Generated<number>;
  };
  benefit_use: {
    charge_id: number;
    coverage_id: number;
    kind: BenefitKind;
    quantity: Cents;
  };
  book_account: {
    code: string;
    class: 'receivable' | 'credit' | 'cash' | 'income' | 'reduction' | 'expense' | 'payable' | 'opening';
    part:
      | 'fee'
      | 'tax'
      | 'added'
      | 'opened'
      | 'payer_paid'
      | 'patient_paid'
      | 'agency_paid'
      | 'reduced'
      | 'expected'
      | 'with_payer'
      | 'with_patient'
      | 'on_plan'
      | 'at_agency'
      | null;
    words: string;
  };
  card_brand: {
    name: string;
    most: Generated<BasisPoints>;
    version: Generated<number>;
  };
  card_reading: {
    key: string;
    place_id: number;
    user_id: string;
    brand: string;
    kind: 'credit' | 'debit' | 'prepaid' | 'unknown';
    entry: 'swiped' | 'chip' | 'keyed';
    last_four: string;
    token: string;
    at: Generated<Date>;
  };
  care_authorization: {
    id: GeneratedAlways<number>;
    case_id: number;
    payer_id: number;
    kind: 'referral' | 'prior-authorization' | 'predetermination' | 'treatment-plan';
    state: Generated<'asked' | 'approved' | 'in-part' | 'refused'>;
    number: Generated<string>;
    asked_on: CalendarDate | null;
    answered_on: CalendarDate | null;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    codes: string[] | null;
    visits: number | null;
    units: number | null;
    amount: Cents | null;
    version: Generated<number>;
  };
  care_case: {
    id: GeneratedAlways<number>;
    patient_id: number;
    name: string;
    kind: Generated<'general' | 'illness' | 'work' | 'car' | 'accident' | 'therapy' | 'series'>;
    standing: Generated<boolean>;
    opened_on: CalendarDate | null;
    accident_kind: GeneratedAlways<string | null>;
    accident_date: CalendarDate | null;
    accident_state: Generated<string>;
    onset_date: CalendarDate | null;
    first_treated_date: CalendarDate | null;
    acute_date: CalendarDate | null;
    last_seen_date: CalendarDate | null;
    first_contact_date: CalendarDate | null;
    disabled_from: CalendarDate | null;
    disabled_to: CalendarDate | null;
    admitted_on: CalendarDate | null;
    released_on: CalendarDate | null;
    provider_id: number | null;
    bill_provider_id: number | null;
    location_id: number | null;
    service_location_id: number | null;
    referring_last: Generated<string>;
    referring_first: Generated<string>;
    referring_npi: Generated<string>;
    referred_on: CalendarDate | null;
    referring_role: Generated<'DN' | 'DK' | 'DQ'>;
    came_by: string | null;
    came_by_note: Generated<string>;
    limits: Generated<string>;
    late_charges: Generated<boolean>;
    statements: Generated<boolean>;
    claims: Generated<boolean>;
    discharged_on: CalendarDate | null;
    discharge_why: Generated<string>;
    version: Generated<number>;
  };
  case_diagnosis: {
    case_id: number;
    position: number;
    code: string;
    since: CalendarDate | null;
    until: CalendarDate | null;
  };
  case_service: {
    case_id: number;
    position: number;
    code: string;
    fee: Cents | null;
    minutes: number | null;
  };
  charge: {
    id: GeneratedAlways<number>;
    household_id: number;
    kind: Generated<'service' | 'interest' | 'late' | 'returned' | 'opening'>;
    patient_id: number | null;
    case_id: number | null;
    coverage_id: number | null;
    provider_id: number | null;
    location_id: number | null;
    code: string | null;
    form: 'professional' | 'dental' | null;
    description: string;
    modifiers: Generated<string[]>;
    units: Generated<number>;
    fee: Cents;
    minutes: number | null;
    fee_why: Generated<string>;
    expects: Generated<boolean>;
    at_contract: Generated<boolean>;
    contract_off: Generated<Cents>;
    ndc: Generated<string>;
    ndc_measure: Generated<string>;
    ndc_thousandths: number | null;
    tax: Generated<Cents>;
    tax_billed: Generated<boolean>;
    billed: GeneratedAlways<Cents>;
    service_date: CalendarDate;
    tooth: Generated<string>;
    surfaces: Generated<string>;
    area: Generated<string>;
    prosthesis: Generated<'' | 'I' | 'R'>;
    prior_placement: CalendarDate | null;
    diagnoses: Generated<string[]>;
    option_id: number | null;
    phase: Generated<number>;
    status: Generated<'planned' | 'done' | 'void'>;
    kept_from_payers: Generated<boolean>;
    moved_from: number | null;
    created_at: Generated<Date>;
    version: Generated<number>;
  };
  charge_balance: {
    charge_id: number;
    fee: Generated<Cents>;
    tax: Generated<Cents>;
    added: Generated<Cents>;
    opened: Generated<Cents>;
    payer_paid: Generated<Cents>;
    patient_paid: Generated<Cents>;
    agency_paid: Generated<Cents>;
    reduced: Generated<Cents>;
    expected: Generated<Cents>;
    with_payer: Generated<Cents>;
    with_patient: Generated<Cents>;
    on_plan: Generated<Cents>;
    at_agency: Generated<Cents>;
    patient_since: CalendarDate | null;
  };
  charge_change: {
    id: GeneratedAlways<number>;
    charge_id: number;
    provider_id: number;
    location_id: number;
    after_entry: number;
    last_entry: number;
    on_day: CalendarDate;
    claim_id: number;
  };
  charge_set: {
    id: GeneratedAlways<number>;
    name: string;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  charge_set_line: {
    charge_set_id: number;
    position: number;
    code: string;
    units: number | null;
    minutes: number | null;
    modifiers: Generated<string[]>;
    fee: Cents | null;
    version: Generated<number>;
  };
  claim: {
    id: GeneratedAlways<number>;
    control_number: string;
    household_id: number;
    patient_id: number;
    case_id: number;
    coverage_id: number;
    payer_id: number;
    location_id: number;
    provider_id: number;
    purpose: Generated<'bill' | 'predetermination'>;
    position: number;
    form: 'professional' | 'dental';
    frequency: Generated<'1' | '7' | '8'>;
    replaces: number | null;
    payer_claim_number: Generated<string>;
    status: Generated<
      'draft' | 'ready' | 'sent' | 'accepted' | 'rejected' | 'decided' | 'closed' | 'held' | 'withdrawn'
    >;
    hold_reason: Generated<string>;
    total: Cents;
    service_date: CalendarDate;
    content: ColumnType<unknown, string | null | undefined, string | null>;
    findings: ColumnType<unknown, string | null | undefined, string | null>;
    stops: Generated<number>;
    warnings: Generated<number>;
    delay_reason: Generated<'' | '1' | '2' | '3' | '4' | '5' | '6' | '7' | '8' | '9' | '10' | '11' | '15'>;
    transmission_id: number | null;
    sent_by: Generated<'' | 'file' | 'payer-before' | 'telephone' | 'paper'>;
    forwarded_by: number | null;
    stale_since: CalendarDate | null;
    sent_date: CalendarDate | null;
    created_at: Generated<Date>;
  };
  claim_check: {
    id: GeneratedAlways<number>;
    user_name: string;
    business_date: CalendarDate;
    made_at: Generated<Date>;
    claims: number[];
  };
  claim_check_finding: {
    check_id: number;
    claim_id: number;
    findings: ColumnType<unknown, string, string>;
  };
  claim_event: {
    id: GeneratedAlways<number>;
    claim_id: number;
    at: Generated<Date>;
    business_date: CalendarDate;
    status:
      'draft' | 'ready' | 'sent' | 'accepted' | 'rejected' | 'decided' | 'closed' | 'held' | 'withdrawn';
    cause_kind: 'user' | 'file' | 'rule';
    cause: string;
    words: string;
  };
  claim_line: {
    id: GeneratedAlways<number>;
    claim_id: number;
    number: number;
    charge_id: number;
    coverage_id: number;
    expected_allowed: Cents | null;
    expected_paid: Generated<Cents>;
    current: Generated<boolean>;
    purpose: Generated<string>;
    left_out: Generated<boolean>;
    bills: GeneratedAlways<boolean>;
  };
  claim_move: {
    from_status: string;
    to_status: string;
  };
  claim_need: {
    code: string;
  };
  claim_print: {
    id: GeneratedAlways<number>;
    user_name: string;
    business_date: CalendarDate;
    made_at: Generated<Date>;
    claims: number[];
    total: Cents;
  };
  claim_rule: {
    code: string;
  };
  clearinghouse_payer: {
    connection_id: number;
    code: string;
    name: string;
    takes: string[];
    needs: string[];
  };
  common_notice: {
    words: string;
    version: Generated<number>;
  };
  confidential_address: {
    id: GeneratedAlways<number>;
    patient_id: number;
    name: string;
    line1: Generated<string>;
    line2: Generated<string>;
    city: Generated<string>;
    state: Generated<string>;
    zip: Generated<string>;
    email: Generated<string>;
    delivery: Generated<'mail' | 'print-shop' | 'email'>;
    why: Generated<string>;
    address_returned: CalendarDate | null;
    email_returned: CalendarDate | null;
    user_name: string;
    since: CalendarDate;
    ended_on: CalendarDate | null;
    ended_by: string | null;
    version: Generated<number>;
  };
  connection: {
    id: GeneratedAlways<number>;
    name: string;
    folder: string;
    kind: Generated<ConnectionKind>;
    settings: ColumnType<unknown, string, string>;
    last_control: Generated<number>;
    version: Generated<number>;
  };
  connection_kind: {
    code: string;
  };
  contact: {
    id: GeneratedAlways<number>;
    household_id: number;
    kind: 'call' | 'letter' | 'message' | 'visit';
    direction: 'out' | 'in';
    whom: Generated<string>;
    outcome:
      'no-answer' | 'left-word' | 'wrong-number' | 'spoke' | 'refused' | 'promise' | 'dispute' | 'hardship';
    at: Date;
    business_date: CalendarDate;
    again_on: CalendarDate | null;
    warned: Generated<string>;
    user_id: string;
    user_name: string;
    created_at: Generated<Date>;
  };
  contact_void: {
    contact_id: number;
    why: string;
    user_name: string;
    on_day: CalendarDate;
  };
  contract_let_be: {
    id: GeneratedAlways<number>;
    charge_id: number;
    coverage_id: number;
    why: string;
    date: CalendarDate;
    user_name: string;
    ended_on: CalendarDate | null;
  };
  contract_letter: {
    id: GeneratedAlways<number>;
    payer_id: number;
    date: CalendarDate;
    content: ColumnType<unknown, string, string>;
    user_name: string;
    created_at: Generated<Date>;
  };
  contract_letter_line: {
    letter_id: number;
    charge_id: number;
    coverage_id: number;
    expected: Cents;
    allowed: Cents;
    pays: Cents;
    paid: Cents;
  };
  coverage: {
    id: GeneratedAlways<number>;
    case_id: number;
    position: number;
    policy_id: number;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    bill_patient: Generated<'yes' | 'copay-only' | 'never'>;
    bill_patient_why: Generated<'' | 'medicaid' | 'qmb' | 'injury' | 'contract'>;
    claim_number: Generated<string>;
    adjuster: Generated<string>;
    assigned: Generated<boolean>;
    signed: Generated<boolean>;
    basis: Generated<'' | 'employed' | 'retired' | 'continued'>;
    court_order: Generated<boolean>;
    secondary_type: Generated<'' | '12' | '13' | '14' | '15' | '16' | '41' | '42' | '43' | '47'>;
    exhausted_from: CalendarDate | null;
    exhausted_letter: string | null;
    version: Generated<number>;
  };
  credit_letter: {
    id: GeneratedAlways<number>;
    household_id: number;
    patient_id: number | null;
    date: CalendarDate;
    amount: Cents;
    content: ColumnType<unknown, string, string>;
    user_name: string;
    answered_on: CalendarDate | null;
    answered: Generated<string>;
    answered_by: Generated<string>;
    handed_on: CalendarDate | null;
    handed_number: Generated<string>;
    created_at: Generated<Date>;
  };
  debt_layer: {
    charge_id: number;
    entry_id: number;
    since: CalendarDate;
    raised: Cents;
    word: number | null;
    open: Generated<Cents>;
    with_patient: Generated<Cents>;
    lowered: Generated<Cents>;
    at: Date;
  };
  deposit: {
    id: GeneratedAlways<number>;
    place_id: number;
    date: CalendarDate;
    number: Generated<string>;
    undone_on: CalendarDate | null;
    user_id: string;
    created_at: Generated<Date>;
  };
  diagnosis: {
    code: string;
    description: string;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    added_by: Generated<string>;
    version: Generated<number>;
  };
  document: {
    sha256: string;
    media: 'application/pdf' | 'image/png' | 'image/jpeg';
    bytes: Buffer;
    pages: number | null;
    created_at: Generated<Date>;
  };
  dormancy: {
    state: string;
    months: number;
    letter_days: Generated<number>;
    least: Generated<Cents>;
    source: Generated<string>;
    version: Generated<number>;
  };
  drawer: {
    id: GeneratedAlways<number>;
    place_id: number;
    user_id: string;
    location_id: number;
    day: CalendarDate;
    opening: Cents;
    opened_at: Generated<Date>;
    closed_at: Date | null;
    closed_by: string | null;
    counted: Cents | null;
    checks_counted: number | null;
    expected: Cents | null;
    difference: Cents | null;
    why: Generated<string>;
    deposit_id: number | null;
  };
  drawer_drop: {
    id: GeneratedAlways<number>;
    drawer_id: number;
    amount: Cents;
    words: Generated<string>;
    user_id: string;
    at: Generated<Date>;
  };
  entry: {
    id: GeneratedAlways<number>;
    kind: EntryKind;
    posting_date: CalendarDate;
    business_date: CalendarDate;
    user_id: string;
    memo: string;
    key: string | null;
    reverses: number | null;
    created_at: Generated<Date>;
    written_by: Generated<string>;
    exception: Passing | null;
  };
  entry_kind: {
    code: string;
    needs: string[];
    ages_from: 'posting' | 'business';
  };
  exchange_file: {
    id: GeneratedAlways<number>;
    connection_id: number | null;
    direction: 'in' | 'out';
    name: string;
    sha256: string;
    bytes: number;
    kind: string;
    status: 'read' | 'set aside' | 'duplicate' | 'written';
    result: Generated<string>;
    at: Generated<Date>;
  };
  expected_visit: {
    id: GeneratedAlways<number>;
    household_id: number | null;
    patient_id: number | null;
    last: string;
    first: Generated<string>;
    birth_date: CalendarDate | null;
    day: CalendarDate;
    at_time: Generated<string>;
    provider_id: number | null;
    location_id: number | null;
    reason: Generated<string>;
    codes: Generated<string[]>;
    source: Generated<string>;
    source_key: string | null;
    canceled_on: CalendarDate | null;
    canceled_why: Generated<string>;
    canceled_told: Generated<boolean>;
    freed_on: CalendarDate | null;
    freed_why: Generated<string>;
    user_id: string;
    created_at: Generated<Date>;
    version: Generated<number>;
  };
  fee: {
    fee_schedule_id: number;
    code: string;
    valid_from: CalendarDate | null;
    amount: Cents;
    facility_amount: Cents | null;
    version: Generated<number>;
  };
  fee_change: {
    id: GeneratedAlways<number>;
    fee_schedule_id: number;
    valid_from: CalendarDate | null;
    words: Generated<string>;
    user_name: string;
    made_on: CalendarDate;
    created_at: Generated<Date>;
    undone_on: CalendarDate | null;
    undone_by: string | null;
  };
  fee_change_line: {
    change_id: number;
    code: string;
    before: Cents | null;
    before_facility: Cents | null;
    after: Cents | null;
    after_facility: Cents | null;
  };
  fee_schedule: {
    id: GeneratedAlways<number>;
    name: string;
    kind: 'office' | 'contract' | 'discount';
    standard: Generated<boolean>;
    version: Generated<number>;
  };
  follow_up: {
    id: GeneratedAlways<number>;
    kind:
      | 'denial'
      | 'short-payment'
      | 'reason'
      | 'overpaid'
      | 'rejected'
      | 'next-payer'
      | 'returned-mail'
      | 'broken-plan'
      | 'broken-promise'
      | 'agency'
      | 'suspended'
      | 'other-insurer'
      | 'charge-back';
    household_id: number | null;
    claim_id: number | null;
    charge_id: number | null;
    coverage_id: number | null;
    remittance_claim_id: number | null;
    words: string;
    amount: Generated<Cents>;
    due_date: CalendarDate;
    owner: Generated<string>;
    outcome: Generated<string>;
    closed_at: Date | null;
    created_at: Generated<Date>;
    key: string;
    version: Generated<number>;
    closed_as: 'settled' | 'ours' | 'answered' | null;
    answered_by: number | null;
  };
  hardship: {
    id: GeneratedAlways<number>;
    household_id: number;
    size: number;
    income: Cents;
    evidence: string;
    year: number;
    level: Cents;
    share: number;
    reduction: BasisPoints;
    amount: Cents;
    status: Generated<'asked' | 'approved' | 'refused'>;
    asked_on: CalendarDate;
    asked_by: string;
    decided_on: CalendarDate | null;
    decided_by: Generated<string>;
    decided_why: Generated<string>;
  };
  hardship_band: {
    id: GeneratedAlways<number>;
    up_to: number;
    reduction: BasisPoints;
    version: Generated<number>;
  };
  household: {
    id: GeneratedAlways<number>;
    number: Generated<string>;
    last: string;
    first: string;
    line1: string;
    line2: Generated<string>;
    city: string;
    state: string;
    zip: string;
    phone: Generated<string>;
    email: Generated<string>;
    category: string | null;
    location_id: number | null;
    delivery: Generated<'mail' | 'print-shop' | 'email' | 'none'>;
    delivery_why: Generated<string>;
    address_returned: CalendarDate | null;
    email_returned: CalendarDate | null;
    hold_until: CalendarDate | null;
    hold_why: Generated<string>;
    late_charges: Generated<boolean>;
    no_checks_on: CalendarDate | null;
    receipts_by_email: Generated<boolean>;
    mailed_with: number | null;
    merged_into: number | null;
    created_at: Generated<Date>;
    version: Generated<number>;
    guarantor_id: number | null;
  };
  household_balance: {
    household_id: number;
    with_payer: Generated<Cents>;
    with_patient: Generated<Cents>;
    on_plan: Generated<Cents>;
    at_agency: Generated<Cents>;
    credit: Generated<Cents>;
  };
  household_open_to: {
    household_id: number;
    user_id: string;
  };
  insurance_plan: {
    id: GeneratedAlways<number>;
    payer_id: number;
    name: string;
    fee_schedule_id: number | null;
    contracted: Generated<boolean>;
    coordination: Generated<'standard' | 'non-duplication' | 'maintenance'>;
    write_offs_count: Generated<'' | 'answer' | 'service'>;
    charges_at: Generated<'office' | 'contract'>;
    timed_units: Generated<'total' | 'each'>;
    version: Generated<number>;
  };
  keyed_claim: {
    id: GeneratedAlways<number>;
    keyed_id: number;
    number: number;
    claim_id: number;
    status: string;
    payer_claim_number: Generated<string>;
    lines: ColumnType<unknown, string, string>;
    paid: Generated<Cents>;
    explained: Generated<boolean>;
    version: Generated<number>;
  };
  keyed_remittance: {
    id: GeneratedAlways<number>;
    payer_id: number;
    amount: Cents;
    method: 'CHK' | 'ACH' | 'NON';
    trace: string;
    further: Generated<string[]>;
    payment_date: CalendarDate;
    received_date: CalendarDate;
    source: 'mail' | 'portal' | 'lockbox';
    provider_adjustments: ColumnType<unknown, string | null | undefined, string | null>;
    status: Generated<'open' | 'closed' | 'dropped'>;
    why: Generated<string>;
    user_id: string;
    created_at: Generated<Date>;
    version: Generated<number>;
  };
  letter: {
    piece_id: number;
    household_id: number;
    patient_id: number | null;
    stage_id: number | null;
    position: number;
    version_id: number;
    date: CalendarDate;
    amount: Cents;
  };
  letter_charge: {
    piece_id: number;
    charge_id: number;
    amount: Cents;
  };
  letter_template: {
    id: GeneratedAlways<number>;
    name: string;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  letter_version: {
    id: GeneratedAlways<number>;
    template_id: number;
    number: number;
    subject: string;
    blocks: ColumnType<unknown, string, string>;
    user_name: string;
    made_on: CalendarDate;
    created_at: Generated<Date>;
  };
  list_choice: {
    user_id: string;
    list: string;
    columns: string[];
  };
  list_view: {
    user_id: string;
    list: string;
    name: string;
    view: string;
    ordered: Generated<string>;
    filters: ColumnType<unknown, string | undefined, string>;
  };
  location: {
    id: GeneratedAlways<number>;
    name: string;
    place_of_service: string;
    line1: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    tax_rate: BasisPoints | null;
    clia: Generated<string>;
    version: Generated<number>;
    fee_schedule_id: number | null;
  };
  lost_tooth: {
    patient_id: number;
    tooth: string;
    lost_on: CalendarDate | null;
  };
  mail_batch: {
    id: GeneratedAlways<number>;
    kind: Generated<'statement' | 'letter'>;
    title: string;
    set_name: Generated<string>;
    options: ColumnType<unknown, string, string>;
    user_id: string;
    user_name: string;
    made_on: CalendarDate;
    created_at: Generated<Date>;
  };
  mail_parcel: {
    id: GeneratedAlways<number>;
    batch_id: number;
    connection_id: number;
    file_name: string;
    written_at: Date | null;
    created_at: Generated<Date>;
  };
  mail_piece: {
    id: GeneratedAlways<number>;
    batch_id: number | null;
    number: number | null;
    kind: Generated<'statement' | 'letter'>;
    household_id: number;
    patient_id: number | null;
    joined: Generated<number[]>;
    delivery: 'mail' | 'print-shop' | 'email' | 'in-person';
    status: Generated<'draft' | 'taken-out' | 'made' | 'sent' | 'failed' | 'void'>;
    why: Generated<string>;
    amount: Cents;
    installments: Generated<Cents>;
    date: CalendarDate;
    due_date: CalendarDate;
    due_asked: CalendarDate | null;
    options: ColumnType<unknown, string, string>;
    note: Generated<string>;
    content: ColumnType<unknown, string, string>;
    document: string | null;
    pages: number | null;
    parcel_id: number | null;
    sent_at: Date | null;
    sent_by: Generated<string>;
    outcome: Generated<'' | 'accepted' | 'address-corrected' | 'undeliverable' | 'bounced' | 'returned'>;
    outcome_words: Generated<string>;
    created_at: Generated<Date>;
    version: Generated<number>;
  };
  migration: {
    number: number;
    name: string;
    checksum: string;
    program: string;
    at: Generated<Date>;
  };
  month_total: {
    month: CalendarDate;
    account: BookAccount;
    remitted: boolean;
    received: boolean;
    amount: Cents;
  };
  months_kept: {
    only_one: Generated<boolean>;
    through: CalendarDate;
  };
  not_together: {
    code: string;
    other: string;
    unless_modifier: Generated<boolean>;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  note: {
    id: GeneratedAlways<number>;
    household_id: number | null;
    about: Generated<'account' | 'follow-up' | 'receipt' | 'stop' | 'contact' | 'payer' | 'claim'>;
    patient_id: number | null;
    case_id: number | null;
    payer_id: number | null;
    follow_up_id: number | null;
    receipt_id: number | null;
    stop_id: number | null;
    contact_id: number | null;
    claim_id: number | null;
    audience: Generated<'us' | 'patient'>;
    pinned: Generated<boolean>;
    on_opening: Generated<boolean>;
    words: string;
    until: CalendarDate | null;
    times: number | null;
    user_name: string;
    business_date: CalendarDate;
    at: Generated<Date>;
    ended_on: CalendarDate | null;
    ended_by: string | null;
  };
  note_seen: {
    note_id: number;
    user_id: string;
    day: CalendarDate;
  };
  overdue_owner: {
    household_id: number;
    user_id: string;
    assigned_on: CalendarDate;
    assigned_by: string;
  };
  overdue_policy: {
    id: Generated<number>;
    least: Generated<Cents>;
    between_letters: Generated<number>;
    recent_days: Generated<number>;
    spare_claims: Generated<boolean>;
    spare_plans: Generated<boolean>;
    dispute_reason: number | null;
    hardship_reason: number | null;
    bankrupt_reason: number | null;
    calls: Generated<number>;
    call_days: Generated<number>;
    quiet_days: Generated<number>;
    call_from: Generated<number>;
    call_to: Generated<number>;
    small_below: Generated<Cents>;
    small_days: Generated<number>;
    agency_days: Generated<number>;
    agency_least: Generated<Cents>;
    agency_id: number | null;
    version: Generated<number>;
  };
  overdue_stage: {
    id: GeneratedAlways<number>;
    position: number;
    name: string;
    days: number;
    template_id: number;
    version: Generated<number>;
  };
  owned: {
    only_one: Generated<boolean>;
    mark: string;
  };
  part_hold: {
    id: GeneratedAlways<number>;
    household_id: number;
    charge_id: number;
    coverage_id: number;
    remittance_claim_id: number | null;
    amount: Cents;
    answered: Generated<boolean>;
    made_on: CalendarDate;
    made_at: Generated<Date>;
    ended_on: CalendarDate | null;
    ended_why: Generated<string>;
  };
  part_hold_layer: {
    hold_id: number;
    since: CalendarDate;
    amount: Cents;
  };
  part_hold_place: {
    id: GeneratedAlways<number>;
    hold_id: number;
    plan_id: number | null;
    placement_id: number | null;
    amount: Cents;
  };
  party: {
    id: GeneratedAlways<number>;
    patient_id: number | null;
    organization: Generated<boolean>;
    last: string | null;
    first: string | null;
    birth_date: CalendarDate | null;
    sex: 'F' | 'M' | 'U' | null;
    line1: Generated<string>;
    city: Generated<string>;
    state: Generated<string>;
    zip: Generated<string>;
    version: Generated<number>;
  };
  passing: {
    code: string;
  };
  password_link: {
    user_id: string;
    digest: string;
    made_by: string;
    made_at: Generated<Date>;
    expires_at: Date;
    used_at: Date | null;
  };
  patient: {
    id: GeneratedAlways<number>;
    household_id: number;
    last: string;
    first: string;
    middle: Generated<string>;
    suffix: Generated<string>;
    birth_date: CalendarDate;
    sex: 'F' | 'M' | 'U';
    merged_into: number | null;
    search: GeneratedAlways<string | null>;
    version: Generated<number>;
  };
  payee_identifier: {
    value: string;
    kind: 'npi' | 'tax-id';
  };
  payer: {
    id: GeneratedAlways<number>;
    name: string;
    payer_id: Generated<string>;
    connection_id: number | null;
    accepts: Generated<'electronic' | 'paper' | 'hold'>;
    paper_form: Generated<'form' | 'plain'>;
    paper_continues: Generated<boolean>;
    bills_as: Generated<'group' | 'individual'>;
    filing_code: Generated<string>;
    timely_filing_days: Generated<number>;
    later_filing_days: number | null;
    requires_referring: Generated<boolean>;
    requires_authorization: Generated<boolean>;
    phone: Generated<string>;
    claim_name: Generated<string>;
    line1: Generated<string>;
    line2: Generated<string>;
    city: Generated<string>;
    state: Generated<string>;
    zip: Generated<string>;
    clearinghouse_mails: Generated<boolean>;
    new_claims: Generated<'evening' | 'sent' | 'held' | 'asked'>;
    corrections: Generated<'replaced' | 'reopened' | 'new'>;
    accepts_assignment: Generated<boolean>;
    takes_tax: Generated<boolean>;
    tells_patient_paid: Generated<boolean>;
    no_surcharge: Generated<boolean>;
    short_tolerance: Generated<Cents>;
    own_name: Generated<string>;
    own_npi: Generated<string>;
    own_taxonomy: Generated<string>;
    own_tax_id: Generated<string>;
    own_line1: Generated<string>;
    own_city: Generated<string>;
    own_state: Generated<string>;
    own_zip: Generated<string>;
    unfinished: Generated<boolean>;
    retired_on: CalendarDate | null;
    merged_into: number | null;
    version: Generated<number>;
  };
  payer_agreement: {
    id: GeneratedAlways<number>;
    payer_id: number;
    transaction: '837P' | '837D' | '835' | '270' | '276';
    provider_id: number | null;
    since: CalendarDate;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  payer_balance: {
    charge_id: number;
    coverage_id: number;
    payer_id: number;
    with_payer: Generated<Cents>;
    paid: Generated<Cents>;
    reduced: Generated<Cents>;
  };
  payer_contact: {
    id: GeneratedAlways<number>;
    payer_id: number;
    purpose: 'claims' | 'eligibility' | 'authorizations' | 'appeals' | 'payments' | 'providers' | 'adjuster';
    name: Generated<string>;
    phone: Generated<string>;
    hours: Generated<string>;
    email: Generated<string>;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  payer_identifier: {
    value: string;
    payer_id: number;
  };
  payer_need: {
    payer_id: number;
    need: ClaimNeed;
    severity: Generated<'stop' | 'warn' | 'off'>;
    version: Generated<number>;
  };
  payer_provider: {
    id: GeneratedAlways<number>;
    payer_id: number;
    provider_id: number;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    bills_as: Generated<'' | 'group' | 'individual'>;
    individual_qualifier: Generated<'' | 'G2' | '0B' | '1G' | 'LU'>;
    individual_id: Generated<string>;
    group_qualifier: Generated<'' | 'G2' | 'LU' | '0B' | '1G'>;
    group_id: Generated<string>;
    version: Generated<number>;
  };
  payer_reference: {
    id: GeneratedAlways<number>;
    payer_id: number;
    qualifier: '2U' | 'EI' | 'FY' | 'NF';
    value: string;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  payer_rule: {
    payer_id: number;
    rule: string;
    severity: 'stop' | 'warn' | 'off';
    version: Generated<number>;
  };
  payer_setting: {
    payer_id: number;
    setting: PayerSetting;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  payer_setting_kind: {
    code: string;
  };
  payment_plan: {
    id: GeneratedAlways<number>;
    number: Generated<string>;
    household_id: number;
    status: Generated<'proposed' | 'accepted' | 'finished' | 'changed' | 'cancelled' | 'broken'>;
    amount: Cents;
    down: Cents;
    rate: BasisPoints;
    every: 'month' | 'two-weeks' | 'week';
    level: Cents;
    agreed_on: CalendarDate;
    first_date: CalendarDate;
    interest_by: 'period' | 'days';
    extra: 'shortens' | 'lowers';
    late_charges: boolean;
    finance_charge: Cents;
    total: Cents;
    apr: number;
    replaces: number | null;
    user_name: string;
    accepted_on: CalendarDate | null;
    signed_by: Generated<string>;
    signature: Buffer | null;
    agreement: string | null;
    interest_counted: Generated<number>;
    interest_through: CalendarDate;
    ended_on: CalendarDate | null;
    ended_why: Generated<string>;
    created_at: Generated<Date>;
    version: Generated<number>;
  };
  payment_policy: {
    id: GeneratedAlways<number>;
    location_id: number | null;
    surcharge_rate: Generated<BasisPoints>;
    card_cost: Generated<BasisPoints>;
    drawer_opening: Generated<Cents>;
    returned_check: Generated<Cents>;
    refund_most: Generated<Cents>;
    credit_by_night: Generated<boolean>;
    version: Generated<number>;
  };
  period_closed: {
    through: CalendarDate;
    entries: number;
    closed_at: Generated<Date>;
    user_id: string;
  };
  place: {
    id: GeneratedAlways<number>;
    kind: 'drawer' | 'undeposited' | 'clearing' | 'bank';
    name: string;
    location_id: number | null;
    user_id: string | null;
    merchant: Generated<string>;
    closed_on: CalendarDate | null;
    version: Generated<number>;
  };
  placement: {
    id: GeneratedAlways<number>;
    number: Generated<string>;
    household_id: number;
    connection_id: number;
    status: Generated<
      'proposed' | 'placed' | 'accepted' | 'withdrawn' | 'refused' | 'recalled' | 'returned' | 'paid'
    >;
    amount: Cents;
    contingency: BasisPoints;
    pays: 'gross' | 'net';
    proposed_on: CalendarDate;
    proposed_by: string;
    why: string;
    placed_on: CalendarDate | null;
    approved_by: Generated<string>;
    written_at: Date | null;
    objections: ColumnType<unknown, string | null | undefined, string | null>;
    decided: ColumnType<unknown, string | null | undefined, string | null>;
    ended_on: CalendarDate | null;
    ended_why: Generated<string>;
    disputed: Generated<boolean>;
    version: Generated<number>;
  };
  placement_charge: {
    placement_id: number;
    charge_id: number;
    amount: Cents;
  };
  placement_event: {
    id: GeneratedAlways<number>;
    placement_id: number;
    on_day: CalendarDate;
    what: string;
    words: Generated<string>;
    amount: Generated<Cents>;
    fee: Generated<Cents>;
    user_name: string;
    at: Generated<Date>;
  };
  plan_charge: {
    plan_id: number;
    charge_id: number;
    taken_over: boolean;
    amount: Cents;
  };
  plan_down: {
    plan_id: number;
    charge_id: number;
    amount: Cents;
  };
  plan_installment: {
    plan_id: number;
    number: number;
    date: CalendarDate;
    amount: Cents;
    principal: Cents;
    interest: Cents;
    left_after: Cents;
  };
  plan_policy: {
    id: Generated<number>;
    longest: Generated<number>;
    least_installment: Generated<Cents>;
    highest_rate: Generated<BasisPoints>;
    rate: Generated<BasisPoints>;
    missed: Generated<number>;
    missed_days: Generated<number>;
    remind_before: Generated<number>;
    remind_after: Generated<number>;
    version: Generated<number>;
  };
  plan_reminder: {
    id: GeneratedAlways<number>;
    plan_id: number;
    number: number;
    kind: 'before' | 'after';
    written_at: Date | null;
    why: Generated<string>;
    made_on: CalendarDate;
  };
  policy: {
    id: GeneratedAlways<number>;
    insurance_plan_id: number;
    holder_id: number;
    group_number: Generated<string>;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    version: Generated<number>;
  };
  policy_number: {
    policy_person_id: number;
    valid_from: CalendarDate | null;
    member_id: string;
  };
  policy_person: {
    id: GeneratedAlways<number>;
    policy_id: number;
    patient_id: number;
    relationship: 'self' | 'spouse' | 'child' | 'other';
    version: Generated<number>;
  };
  posting: {
    id: GeneratedAlways<number>;
    entry_id: number;
    account: BookAccount;
    amount: Cents;
    household_id: number | null;
    patient_id: number | null;
    case_id: number | null;
    charge_id: number | null;
    coverage_id: number | null;
    payer_id: number | null;
    claim_id: number | null;
    receipt_id: number | null;
    tender_id: number | null;
    place_id: number | null;
    deposit_id: number | null;
    remittance_id: number | null;
    remittance_claim_id: number | null;
    provider_adjustment_id: number | null;
    plan_id: number | null;
    placement_id: number | null;
    provider_id: number | null;
    location_id: number | null;
    reason_group: string | null;
    reason_code: string | null;
    remark_code: string | null;
    since: CalendarDate | null;
  };
  poverty_level: {
    year: number;
    size: number;
    amount: Cents;
    version: Generated<number>;
  };
  practice: {
    id: Generated<number>;
    name: string;
    npi: string;
    taxonomy: string;
    tax_id: string;
    line1: string;
    line2: Generated<string>;
    city: string;
    state: string;
    zip: string;
    phone: string;
    contact: string;
    pay_to_line1: Generated<string>;
    pay_to_line2: Generated<string>;
    pay_to_city: Generated<string>;
    pay_to_state: Generated<string>;
    pay_to_zip: Generated<string>;
    form_right: Generated<number>;
    form_down: Generated<number>;
    paper: Generated<'LETTER' | 'A4'>;
    closed_through: CalendarDate | null;
    write_offs_count: Generated<'answer' | 'service'>;
    second_factor: Generated<'nobody' | 'managers' | 'everybody'>;
    version: Generated<number>;
  };
  promise: {
    id: GeneratedAlways<number>;
    household_id: number;
    contact_id: number;
    amount: Cents;
    made_on: CalendarDate;
    made_at: Generated<Date>;
    by_date: CalendarDate;
    ended_on: CalendarDate | null;
    ended_why: Generated<string>;
  };
  provider: {
    id: GeneratedAlways<number>;
    last: string;
    first: string;
    suffix: Generated<string>;
    npi: string;
    taxonomy: string;
    location_id: number;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  provider_adjustment: {
    id: GeneratedAlways<number>;
    remittance_id: number;
    payer_id: number;
    version: number;
    number: number;
    code: string;
    reference: Generated<string>;
    provider: Generated<string>;
    period: CalendarDate | null;
    amount: Cents;
  };
  provider_adjustment_balance: {
    provider_adjustment_id: number;
    open: Generated<Cents>;
  };
  provider_share: {
    id: GeneratedAlways<number>;
    provider_id: number;
    category: string | null;
    valid_from: CalendarDate | null;
    basis: 'service' | 'answer' | 'collected';
    share: BasisPoints;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  reason_code: {
    group_code: 'CO' | 'PR' | 'OA' | 'PI' | 'CR' | '*';
    code: string;
    words: string;
    patient_words: string;
    denial: Generated<boolean>;
    follow_up: Generated<'never' | 'while-money' | 'always'>;
    follow_up_owner: string | null;
    follow_up_days: number | null;
    reduction_account: Generated<BookAccount>;
    reduction_class: GeneratedAlways<string>;
    travels_as: Generated<string>;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    standard: Generated<boolean>;
    version: Generated<number>;
  };
  reason_combination: {
    scenario: number;
    reason: string;
    remark: Generated<string>;
    groups: string[];
    active: Generated<boolean>;
    version: Generated<number>;
  };
  receipt: {
    id: GeneratedAlways<number>;
    household_id: number;
    amount: Cents;
    patient_id: number | null;
    refund_of: number | null;
    placement_id: number | null;
    received_on: CalendarDate;
    location_id: number | null;
    provider_id: number | null;
    expected_visit_id: number | null;
    paid_by: Generated<string>;
    handed_to: Generated<string>;
    user_id: string;
    created_at: Generated<Date>;
  };
  receipt_balance: {
    receipt_id: number;
    booked: Generated<Cents>;
    held: Generated<Cents>;
  };
  receipt_household: {
    receipt_id: number;
    household_id: number;
  };
  receipt_message: {
    id: GeneratedAlways<number>;
    receipt_id: number;
    asked: boolean;
    state: Generated<'waiting' | 'sent' | 'failed' | 'void'>;
    why: Generated<string>;
    email: Generated<string>;
    document: string | null;
    sent_at: Date | null;
    outcome: Generated<'' | 'accepted' | 'bounced'>;
    outcome_words: Generated<string>;
    user_id: string;
    created_at: Generated<Date>;
  };
  receipt_moved: {
    id: GeneratedAlways<number>;
    receipt_id: number;
    household_id: number;
    on_day: CalendarDate;
    user_id: string;
    why: string;
  };
  referral_source: {
    name: string;
    version: Generated<number>;
  };
  refund_request: {
    id: GeneratedAlways<number>;
    receipt_id: number;
    tender_id: number | null;
    amount: Cents;
    kind: Tender;
    reference: Generated<string>;
    why: string;
    status: Generated<'asked' | 'approved' | 'refused'>;
    asked_on: CalendarDate;
    asked_by: string;
    decided_on: CalendarDate | null;
    decided_by: Generated<string>;
    decided_why: Generated<string>;
    refund_id: number | null;
  };
  remittance: {
    id: GeneratedAlways<number>;
    payer_id: number | null;
    payer_key: string;
    payer_name: string;
    trace: string;
    originator: Generated<string>;
    amount: Cents;
    method: string;
    payment_date: CalendarDate;
    file_id: number | null;
    received_date: CalendarDate;
    claims: Generated<number>;
    status: 'held' | 'ready' | 'posting' | 'posted';
    hold_reasons: ColumnType<unknown, string | null | undefined, string | null>;
    provider_adjustments: ColumnType<unknown, string | null | undefined, string | null>;
    payer_number: Generated<string>;
    payee_name: Generated<string>;
    payee_npi: Generated<string>;
    payee_tax_id: Generated<string>;
    handling: Generated<string>;
    credit_debit: Generated<string>;
    content_key: string;
    version: Generated<number>;
    posted_at: Date | null;
    keyed_id: number | null;
  };
  remittance_claim: {
    id: GeneratedAlways<number>;
    remittance_id: number;
    number: number;
    control_number: string;
    claim_id: number | null;
    content: ColumnType<unknown, string, string>;
    charge: Cents;
    paid: Cents;
    status: 'ready' | 'posted' | 'unmatched' | 'noted' | 'returned' | 'kept' | 'reversed';
    hold_reason: Generated<string>;
    hold_kind: Generated<string>;
    note: Generated<string>;
    version: Generated<number>;
  };
  service_category: {
    name: string;
    version: Generated<number>;
  };
  service_code: {
    code: string;
    description: string;
    patient_words: Generated<string>;
    category: string;
    form: 'professional' | 'dental';
    needs_tooth: Generated<boolean>;
    needs_surface: Generated<boolean>;
    needs_area: Generated<'' | 'quadrant' | 'arch'>;
    modifiers: Generated<string[]>;
    valid_from: CalendarDate | null;
    valid_to: CalendarDate | null;
    unit_minutes: number | null;
    discipline: Generated<string>;
    taxable: Generated<boolean>;
    ndc: Generated<string>;
    ndc_measure: Generated<'' | 'F2' | 'GR' | 'ME' | 'ML' | 'UN'>;
    ndc_thousandths: number | null;
    needs_clia: Generated<boolean>;
    needs_drug: Generated<boolean>;
    needs_ordering: Generated<boolean>;
    active: Generated<boolean>;
    added_by: Generated<string>;
    version: Generated<number>;
  };
  session: {
    id: string;
    expiresAt: Date;
    token: string;
    createdAt: Generated<Date>;
    updatedAt: Generated<Date>;
    ipAddress: string | null;
    userAgent: string | null;
    userId: string;
    seen_at: Generated<Date>;
  };
  sign_in_limit: {
    key: string;
    failures: Generated<number>;
    last_at: Generated<Date>;
    free_at: Generated<Date>;
  };
  spent_code: {
    user_id: string;
    digest: string;
    at: Generated<Date>;
  };
  statement: {
    id: GeneratedAlways<number>;
    household_id: number;
    patient_id: number | null;
    piece_id: number;
    place: Generated<number>;
    date: CalendarDate;
    due_date: CalendarDate;
    amount: Cents;
    user_id: string;
    created_at: Generated<Date>;
  };
  statement_charge: {
    statement_id: number;
    charge_id: number;
    owed: Cents;
    credit: Generated<Cents>;
  };
  statement_message: {
    id: GeneratedAlways<number>;
    position: number;
    name: string;
    words: string;
    age_from: number | null;
    age_to: number | null;
    due: Generated<'any' | 'normal' | 'partly' | 'past'>;
    insured: Generated<'any' | 'yes' | 'no'>;
    on_plan: Generated<'any' | 'yes' | 'no'>;
    location_id: number | null;
    month_from: number | null;
    month_to: number | null;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  statement_policy: {
    id: GeneratedAlways<number>;
    location_id: number | null;
    least: Generated<Cents>;
    cycle: Generated<'monthly' | 'days'>;
    cycle_number: Generated<number>;
    due_days: Generated<number>;
    grace_days: Generated<number>;
    aging_from: Generated<'responsible' | 'service'>;
    tenders: Generated<string[]>;
    remit_name: Generated<string>;
    remit_line1: Generated<string>;
    remit_city: Generated<string>;
    remit_state: Generated<string>;
    remit_zip: Generated<string>;
    phone: Generated<string>;
    hours: Generated<string>;
    messages: Generated<number>;
    late_kind: Generated<'none' | 'flat' | 'yearly'>;
    late_flat: Generated<Cents>;
    late_rate: Generated<BasisPoints>;
    late_least: Generated<Cents>;
    late_most: Cents | null;
    version: Generated<number>;
  };
  statement_set: {
    id: GeneratedAlways<number>;
    name: string;
    location_id: number | null;
    standard: Generated<boolean>;
    rows: ColumnType<unknown, string, string>;
    version: Generated<number>;
  };
  statement_void: {
    statement_id: number;
    why: string;
    user_name: string;
    on_day: CalendarDate;
    at: Generated<Date>;
  };
  stop_reason: {
    id: GeneratedAlways<number>;
    name: string;
    statements: boolean;
    late_charges: boolean;
    letters: boolean;
    calls: boolean;
    agency: boolean;
    version: Generated<number>;
  };
  surcharge_state: {
    state: string;
    rule: 'allowed' | 'capped' | 'forbidden';
    most: Generated<BasisPoints>;
    words: Generated<string>;
    version: Generated<number>;
  };
  tender: {
    id: GeneratedAlways<number>;
    receipt_id: number;
    kind: Tender;
    amount: Cents;
    surcharge: Generated<Cents>;
    reference: Generated<string>;
    given: Cents | null;
    place_id: number;
    state: Generated<'pending' | 'taken' | 'declined' | 'returned' | 'void'>;
    brand: Generated<string>;
    last_four: Generated<string>;
    card_kind: Generated<'' | 'credit' | 'debit' | 'prepaid' | 'unknown'>;
    card_entry: Generated<'' | 'swiped' | 'chip' | 'keyed'>;
    token: Generated<string>;
    approval: Generated<string>;
    reading: string | null;
    meant: ColumnType<unknown, string | null | undefined, string | null>;
    drawer_id: number | null;
    refund_of: number | null;
    corrects: number | null;
    created_at: Generated<Date>;
  };
  tender_kind: {
    code: string;
    words: string;
  };
  tender_move: {
    from_state: string;
    to_state: string;
  };
  transmission: {
    id: GeneratedAlways<number>;
    connection_id: number;
    control_number: string;
    file_name: string;
    content: string;
    claims: number;
    total: Cents;
    created_at: Generated<Date>;
    business_date: CalendarDate;
    written_at: Date | null;
    usage: 'T' | 'P';
    interchange_answer: Generated<string>;
    group_answer: Generated<string>;
  };
  treatment_estimate: {
    id: GeneratedAlways<number>;
    number: Generated<string>;
    case_id: number;
    option_id: number | null;
    kind: 'insured' | 'good-faith';
    made_on: CalendarDate;
    valid_until: CalendarDate;
    booked_for: CalendarDate | null;
    due_on: CalendarDate | null;
    amount: Cents;
    content: ColumnType<unknown, string, string>;
    anew_by: CalendarDate | null;
    document: string;
    user_name: string;
    signed_on: CalendarDate | null;
    signed_by: Generated<string>;
    above_seen: Generated<Cents>;
    above_seen_on: CalendarDate | null;
    above_seen_by: Generated<string>;
    above_seen_why: Generated<string>;
    version: Generated<number>;
  };
  treatment_estimate_line: {
    estimate_id: number;
    charge_id: number;
    fee: Cents;
    write_off: Cents;
    payers: Cents;
    patient: Cents;
  };
  treatment_option: {
    id: GeneratedAlways<number>;
    case_id: number;
    name: string;
    chosen: Generated<boolean>;
    version: Generated<number>;
  };
  twoFactor: {
    id: string;
    secret: string;
    backupCodes: string;
    userId: string;
    verified: Generated<boolean>;
    failedVerificationCount: Generated<number>;
    lockedUntil: Date | null;
  };
  unit_limit: {
    code: string;
    units: number;
    active: Generated<boolean>;
    version: Generated<number>;
  };
  user: {
    id: string;
    name: string;
    email: string;
    emailVerified: Generated<boolean>;
    image: string | null;
    createdAt: Generated<Date>;
    updatedAt: Generated<Date>;
    role: Generated<'front-desk' | 'biller' | 'collector' | 'manager'>;
    twoFactorEnabled: Generated<boolean>;
    disabled_at: Date | null;
  };
  verification: {
    id: string;
    identifier: string;
    value: string;
    expiresAt: Date;
    createdAt: Generated<Date>;
    updatedAt: Generated<Date>;
  };
  work: {
    id: GeneratedAlways<number>;
    kind: string;
    title: string;
    input: ColumnType<unknown, string, string>;
    status: Generated<'waiting' | 'running' | 'stopping' | 'stopped' | 'finished' | 'failed'>;
    fault: Generated<string>;
    user_id: string;
    user_name: string;
    role: 'front-desk' | 'biller' | 'collector' | 'manager';
    business_date: CalendarDate;
    created_at: Generated<Date>;
    started_at: Date | null;
    ended_at: Date | null;
  };
  work_item: {
    work_id: number;
    number: number;
    subject: string;
    words: string;
    size: Generated<number>;
    done: Generated<number>;
    status: Generated<'waiting' | 'done' | 'failed'>;
    result: Generated<string>;
  };
}
