/** What the signed-in role may do here; the server checks again. */
export interface Rights {
  charges: boolean;
  claims: boolean;
  payments: boolean;
  reverse: boolean;
  people: boolean;
  statements: boolean;
  /** Stops things on the account. */
  stops: boolean;
  /** Agrees payment plans. */
  plans: boolean;
  /** Works what is overdue, and decides about hardship. */
  overdue: boolean;
  hardship: boolean;
  /** Gives up what is owed as bad debt. */
  giveUp: boolean;
  /** Sees who saw the record. */
  trail: boolean;
}
