'use client';
/** Rows of the ledger: kinds, each declared once. */
import type { ReactNode } from 'react';
import type { LedgerCharge } from '../../../../../server/accounts/ledger';
import type { SubLine } from '../../../../../ui/line-table';
import type { AccountDesk } from '../section';

/** One row as the ledger draws it. */
export interface LedgerRow {
  key: string;
  date: string;
  what: () => ReactNode;
  /** The lines that it unfolds into. */
  lines: () => readonly SubLine[];
  /** A charge has amounts in the columns; what is none says all of itself in words. */
  charge?: LedgerCharge;
}

/** A kind of row: what of the account it is, and how one of them stands in the ledger. */
export interface RowKind<Of> {
  /** In keys of rows; a letter of its own. */
  letter: string;
  rows: (desk: AccountDesk) => readonly Of[];
  id: (row: Of) => number;
  date: (row: Of) => string;
  What: React.ComponentType<{ row: Of }>;
  lines?: (row: Of, desk: AccountDesk) => readonly SubLine[];
  charge?: (row: Of) => LedgerCharge;
}
