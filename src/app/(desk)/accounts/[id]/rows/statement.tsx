'use client';
import type { AccountStatement } from '../../../../../server/accounts/sent';
import { Day, Money } from '../../../../../ui/figures';
import { becameOf } from './became';
import type { RowKind } from './row';

/** A statement that was sent. */
export const statementRow: RowKind<AccountStatement> = {
  letter: 's',
  rows: ({ account, member }) => (member === 0 ? account.statements : []),
  id: ({ id }) => id,
  date: ({ date }) => date,
  What: ({ row: statement }) => (
    <span>
      <a href={`/api/statements/${statement.id}`} target="_blank" rel="noreferrer">
        Statement, <Money cents={statement.amount} /> due <Day date={statement.dueDate} />
      </a>{' '}
      <span className="quiet">{becameOf(statement)}</span>
    </span>
  ),
};
