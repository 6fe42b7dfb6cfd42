'use client';
/** The kinds of rows of the ledger. A new one is a file and its line here. */
import { createElement } from 'react';
import type { AccountDesk } from '../section';
import { chargeRow } from './charge';
import { letterRow } from './letter';
import { receiptRow } from './receipt';
import type { LedgerRow, RowKind } from './row';
import { statementRow } from './statement';

const drawn =
  <Of, Under>({ letter, rows, id, date, What, under, lines, charge }: RowKind<Of, Under>) =>
  (desk: AccountDesk): LedgerRow[] =>
    rows(desk).map((row) => ({
      key: `${letter}${id(row)}`,
      date: date(row),
      what: () => createElement(What, { row }),
      read: under && (() => under(row, desk)),
      lines: (read) => lines?.(row, desk, read as Under | undefined) ?? [],
      charge: charge?.(row),
    }));

/** All kinds; on one day they stand in this order, charges before the money for them. */
const KINDS = [drawn(chargeRow), drawn(receiptRow), drawn(statementRow), drawn(letterRow)] as const;

/** Everything of an account that is shown, in the order of time. */
export const ledgerRows = (desk: AccountDesk): LedgerRow[] =>
  KINDS.flatMap((kind, order) => kind(desk).map((row) => ({ row, order })))
    .sort((a, b) => a.row.date.localeCompare(b.row.date) || a.order - b.order)
    .map(({ row }) => row);
