/** Indexes for what a desk with ten years behind it asks all day: lists in their own order, and what is still open. */
export const order = `
create index on claim (service_date desc, id desc);
create index claim_number_search on claim using gin (lower(control_number) gin_trgm_ops);
create index on remittance (payment_date desc, id desc);
create index on receipt (business_date desc, id desc);
create index on statement (date desc, id desc);
create index on household (last, first, id);
create index on entry (business_date);
create index on charge_balance (charge_id) where with_payer <> 0;
create index on follow_up (charge_id);
`;
