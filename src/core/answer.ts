/** What the server answers to something that a person asked for. */

/** A field that somebody else has changed meanwhile. */
interface Both {
  field: string;
  label: string;
  theirs: string;
  mine: string;
  value: unknown;
}

/** Why something was refused: closed, so that whoever decides by it knows all there is. The words beside it are for people. */
export const REFUSALS = {
  unknown: 'What it names is not there',
  missing: 'Something is not said that is needed',
  invalid: 'A field does not say what it may',
  date: 'A day lies where it may not',
  limit: 'It is more, or less, than may be',
  others: 'It is somebody else’s: another payer’s, account’s or patient’s',
  nothing: 'There is nothing to do',
  already: 'It is done, ended or there already',
  blocked: 'Something else has to be done first, or by somebody else',
  state: 'As it stands, it cannot be done',
  conflict: 'Somebody else has changed it meanwhile',
  doubtful: 'It is doubtful, and done when it is meant',
  'not-allowed': 'The role may not do it',
  'signed-out': 'Nobody is signed in, or a second factor is not set up',
  busy: 'The database has too much to do',
  unreached: 'No answer came',
} as const;
/** Why something was refused. */
export type RefusalCode = keyof typeof REFUSALS;

/** What was refused: why, by its code and facts; words, the fields that are wrong, and what somebody else has changed with the version that stands now. */
export interface Refusal {
  ok: false;
  code: RefusalCode;
  facts?: Readonly<Record<string, string | number | boolean | null | undefined>>;
  message: string;
  fields: Readonly<Record<string, string>>;
  /** What is doubtful; asked again with `sure` it is done. */
  doubts?: readonly string[];
  conflict?: { differences: readonly Both[]; version: string | number };
}

/** The answer: what came of it, or why it was refused. */
export type Answer<T> = { ok: true; value: T } | Refusal;
