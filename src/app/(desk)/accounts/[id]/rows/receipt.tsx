'use client';
import { absolute } from '../../../../../core/money';
import type { PaidLine } from '../../../../../server/accounts/ledger';
import type { AccountReceipt } from '../../../../../server/accounts/receipts';
import { Day, Money } from '../../../../../ui/figures';
import type { SubLine } from '../../../../../ui/line-table';
import type { AccountDesk } from '../section';
import { paidByAction } from '../../actions';
import { ReceiptActs } from './acts';
import { READING } from './reading';
import type { RowKind } from './row';

/** Money of the household, with what it paid under it. */
export const receiptRow: RowKind<AccountReceipt, PaidLine[]> = {
  letter: 'r',
  rows: ({ account, member }) => (member === 0 ? account.receipts : []),
  id: ({ id }) => id,
  date: ({ date }) => date,
  What,
  under: ({ id: receiptId }, { account }) => paidByAction({ householdId: account.household.id, receiptId }),
  lines: receiptLines,
};

function What({ row: receipt }: { row: AccountReceipt }) {
  return (
    <span className={receipt.reversed ? 'quiet' : 'good'}>
      {receipt.reversed ? 'Reversed: ' : receipt.refund ? 'Given back: ' : 'Received: '}
      <Money cents={absolute(receipt.amount)} /> {receipt.tender} {receipt.reference}
      {receipt.reversed && (
        <>
          {' '}
          on <Day date={receipt.reversed.date} /> by {receipt.reversed.by}: {receipt.reversed.why}
        </>
      )}
      {receipt.note && <span className="quiet"> · {receipt.note}</span>}
      {receipt.from && ` taken on ${receipt.from}, pays charges here`}
      {receipt.left > 0 && (
        <>
          {' '}
          · <Money cents={receipt.left} /> held as credit
          {receipt.patientId !== null && ', kept apart'}
        </>
      )}
    </span>
  );
}

/** What a receipt paid, and what can be done with it. */
function receiptLines(
  receipt: AccountReceipt,
  { may }: AccountDesk,
  paid: readonly PaidLine[] | undefined,
): SubLine[] {
  const acts =
    may('reverse entries') && !receipt.reversed && receipt.from === null
      ? [{ key: 'acts', wide: <ReceiptActs receiptId={receipt.id} /> }]
      : [];
  if (!paid) return [READING, ...acts];
  if (paid.length === 0)
    return [{ key: 'nothing', wide: <span className="quiet">It pays no charge.</span> }, ...acts];
  return [
    ...paid.map(({ entryId, date, patient, what, amount, undone }) => ({
      key: `e${entryId}`,
      undone,
      cells: {
        date: <Day date={date} />,
        who: patient,
        what,
        patientPaid: <Money cents={amount} />,
      },
    })),
    ...acts,
  ];
}
