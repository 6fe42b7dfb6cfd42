/** The policy of what is overdue: stages with their letters, who is spared, how people may be called. */
import type { Cents } from '../money';

/** A stage of letters. `days` past due from which its letter may go. */
export interface Stage {
  id: number;
  position: number;
  name: string;
  days: number;
  templateId: number;
}

/** How what is overdue is worked. Amounts in cents, spans in days. */
export interface OverduePolicy {
  /** Less than this is left in peace. */
  least: Cents;
  betweenLetters: number;
  /** Who paid in the last so many days is spared; 0 spares nobody for it. */
  recentDays: number;
  spareClaims: boolean;
  sparePlans: boolean;
  calls: CallPolicy;
  smallBelow: Cents;
  smallDays: number;
  /** An agency is proposed so many days after the last letter, from so much on. */
  agencyDays: number;
  agencyLeast: Cents;
  /** The connection of the agency that is proposed by itself; null: a person proposes. */
  agencyId: number | null;
}

/** How often and when somebody may be called; hours of the day where the person is. */
export interface CallPolicy {
  /** So many calls at most within so many days. */
  calls: number;
  callDays: number;
  /** None within so many days after a conversation, whose day is the first. */
  quietDays: number;
  from: number;
  to: number;
}
