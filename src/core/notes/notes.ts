/** What people note, for whom, and about what. */

/** For whom a note is: what is for the patient prints on statements, what is for us never does. */
export const AUDIENCES = { us: 'For us', patient: 'For the patient' } as const;
/** For whom a note is. */
export type Audience = keyof typeof AUDIENCES;

/** What a note stands beside, in words. */
export const NOTED_ABOUT = {
  account: 'account',
  'follow-up': 'follow-up',
  receipt: 'payment',
  stop: 'stop',
  contact: 'contact',
  payer: 'payer',
  claim: 'claim',
} as const;
/** What a note stands beside. */
export type NotedAbout = keyof typeof NOTED_ABOUT;
