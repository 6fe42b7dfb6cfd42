/** The sections of the account page, in their order on it. A new one is a file and its line here. */
import type { AccountSection } from './section';
import { badDebt } from './sections/bad-debt';
import { claims } from './sections/claims';
import { contacts } from './sections/contacts';
import { figures } from './sections/figures';
import { followUps } from './sections/follow-ups';
import { forbidden } from './sections/forbidden';
import { ledger } from './sections/ledger';
import { mail } from './sections/mail';
import { members } from './sections/members';
import { notes } from './sections/notes';
import { notices } from './sections/notices';
import { payments } from './sections/payments';
import { placement } from './sections/placement';
import { plans } from './sections/plans';
import { print } from './sections/print';
import { quickLine } from './sections/quick-line';
import { story } from './sections/story';
import { trail } from './sections/trail';

/** All of them. Acts of one rank stand in this order too. */
export const SECTIONS: readonly AccountSection[] = [
  payments,
  claims,
  story,
  contacts,
  notes,
  notices,
  forbidden,
  followUps,
  figures,
  members,
  plans,
  placement,
  badDebt,
  mail,
  print,
  trail,
  ledger,
  quickLine,
];
