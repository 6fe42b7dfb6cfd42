'use client';
/** What the account page is made of: sections, each declared once, and what all of them may ask. */
import { createContext, useContext } from 'react';
import type { LedgerView } from '../../../../core/accounts/ledger-views';
import type { CalendarDate } from '../../../../core/calendar';
import type { Permission } from '../../../../server/access';
import type { AccountPage } from '../../../../server/account-page/read';
import type { MemberCase } from '../../../../server/accounts/members';
import type { PlanChoice, QuickChoices } from '../../../../server/setup/choices';
import type { useAct } from '../../../../ui/act';
import type { Act } from '../../../../ui/acts';

/** What the forms of the page offer. */
export interface AccountForms {
  choices: QuickChoices;
  plans: PlanChoice[];
  sites: { value: number; label: string }[];
  /** The yearly rate that a plan begins with, in basis points. */
  planRate: number;
}

/** What every section may ask. */
export interface AccountDesk {
  account: AccountPage;
  forms: AccountForms;
  today: CalendarDate;
  /** Whether the person’s role may do something; the server asks again. */
  may: (permission: Permission) => boolean;
  /** The member that is shown; 0 for the whole household. */
  member: number;
  /** The case that is shown, of a member or of the only one; null for all of them. */
  shownCase: MemberCase | null;
  /** What of the ledger is shown. */
  view: LedgerView;
  /** Which dialog is open, and the rest of the address. */
  dialog: string | null;
  params: URLSearchParams;
  /** There is room for few columns. */
  narrow: boolean;
  open: (name: string, more?: Record<string, string>) => void;
  close: () => void;
  /** Sets a part of the address, without another one. */
  set: (name: string, value: string, without?: string) => void;
  /** Goes to another page. */
  go: (href: string) => void;
  /** Runs an action that needs no dialog. */
  run: ReturnType<typeof useAct>['run'];
  busy: boolean;
}

/** A part of the account page. Sections stand in the order of their list. */
export interface AccountSection {
  /** What stands on the page, if anything. */
  Panel?: React.ComponentType;
  /** What can be done about it: in the bar of the head, and by key. */
  acts?: (desk: AccountDesk) => readonly (Act | false)[];
  /** Dialogs by their name in the address. */
  dialogs?: Readonly<Record<string, { may?: Permission; draw: (desk: AccountDesk) => React.ReactNode }>>;
}

const Desk = createContext<AccountDesk | null>(null);
/** Hands down what the sections ask. */
export const AccountProvider = Desk.Provider;

/** The account page around a section. @throws Error outside of it */
export function useAccount(): AccountDesk {
  const desk = useContext(Desk);
  if (!desk) throw new Error('This stands outside the account page');
  return desk;
}
