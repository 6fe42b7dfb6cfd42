'use client';
import type { AccountLetter } from '../../../../../server/accounts/sent';
import { Money } from '../../../../../ui/figures';
import { becameOf } from './became';
import type { RowKind } from './row';

/** A letter that was sent about what is overdue. */
export const letterRow: RowKind<AccountLetter> = {
  letter: 'l',
  rows: ({ account, member }) => (member === 0 ? account.letters : []),
  id: ({ pieceId }) => pieceId,
  date: ({ date }) => date,
  What: ({ row: letter }) => (
    <span>
      <a href={`/api/pieces/${letter.pieceId}`} target="_blank" rel="noreferrer">
        {letter.name}, <Money cents={letter.amount} /> past due
      </a>{' '}
      <span className="quiet">{becameOf(letter)}</span>
    </span>
  ),
};
