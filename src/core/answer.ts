/** What the server answers to something that a person asked for. */

/** A field that somebody else has changed meanwhile. */
interface Both {
  field: string;
  label: string;
  theirs: string;
  mine: string;
  value: unknown;
}

/** What was refused: words, the fields that are wrong, and what somebody else has changed with the version that stands now. */
export interface Refusal {
  ok: false;
  message: string;
  fields: Readonly<Record<string, string>>;
  /** What is doubtful; asked again with `sure` it is done. */
  doubts?: readonly string[];
  conflict?: { differences: readonly Both[]; version: string | number };
}

/** The answer: what came of it, or why it was refused. */
export type Answer<T> = { ok: true; value: T } | Refusal;
