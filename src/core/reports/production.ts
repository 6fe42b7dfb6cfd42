/** What was earned, by provider and kind of service, and what providers are paid of it. */

/** Of what a provider is paid a share. */
export const PAID_BY = {
  service: 'production, write-offs on the day of service',
  answer: 'production, write-offs when payers answer',
  collected: 'what came in',
} as const;

/** By what the rows of the production are made. */
export const PRODUCTION_BY = {
  provider: 'provider and site',
  day: 'day',
  category: 'kind of service',
  visit: 'provider, day and kind of service',
} as const;
