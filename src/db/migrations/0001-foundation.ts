/** Everything that the first database holds, in the order in which one thing refers to another. */
import { claims } from './foundation/claims';
import { domains } from './foundation/domains';
import { journal } from './foundation/journal';
import { merge } from './foundation/merge';
import { money } from './foundation/money';
import { notes } from './foundation/notes';
import { overdue } from './foundation/overdue';
import { people } from './foundation/people';
import { plans } from './foundation/plans';
import { setup } from './foundation/setup';
import { signIn } from './foundation/sign-in';
import { statements } from './foundation/statements';
import { trail } from './foundation/trail';
import { work } from './foundation/work';

/** The foundation. Money is whole cents, dates are calendar dates. */
export const foundation = [
  domains,
  signIn,
  setup,
  people,
  claims,
  money,
  plans,
  work,
  journal,
  statements,
  overdue,
  notes,
  trail,
  merge,
].join('\n');
