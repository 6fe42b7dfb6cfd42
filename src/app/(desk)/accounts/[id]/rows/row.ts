'use client';
/** Rows of the ledger: kinds, each declared once. */
import type { ReactNode } from 'react';
import type { Answer } from '../../../../../core/answer';
import type { LedgerCharge } from '../../../../../server/accounts/ledger';
import type { SubLine } from '../../../../../ui/line-table';
import type { AccountDesk } from '../section';

/** One row as the ledger draws it. */
export interface LedgerRow {
  key: string;
  date: string;
  what: () => ReactNode;
  /** Reads what lies under it, when it is unfolded; absent where all is known. */
  read?: () => Promise<Answer<unknown>>;
  /** The lines that it unfolds into. @param under what was read; undefined as long as it is on its way */
  lines: (under: unknown) => readonly SubLine[];
  /** A charge has amounts in the columns; what is none says all of itself in words. */
  charge?: LedgerCharge;
}

/** A kind of row: what of the account it is, how one of them stands in the ledger, and what lies under it. */
export interface RowKind<Of, Under = undefined> {
  /** In keys of rows; a letter of its own. */
  letter: string;
  rows: (desk: AccountDesk) => readonly Of[];
  id: (row: Of) => number;
  date: (row: Of) => string;
  What: React.ComponentType<{ row: Of }>;
  /** Read when a row is unfolded, and not before: most never are. */
  under?: (row: Of, desk: AccountDesk) => Promise<Answer<Under>>;
  lines?: (row: Of, desk: AccountDesk, under: Under | undefined) => readonly SubLine[];
  charge?: (row: Of) => LedgerCharge;
}
