'use client';
import { absolute } from '../../../../../core/money';
import type { AccountReceipt } from '../../../../../server/accounts/receipts';
import { Day, Money } from '../../../../../ui/figures';
import type { SubLine } from '../../../../../ui/line-table';
import type { AccountDesk } from '../section';
import { ReceiptActs } from './acts';
import { shownCharges } from './charge';
import type { RowKind } from './row';

/** Money of the household, with what it paid under it. */
export const receiptRow: RowKind<AccountReceipt> = {
  letter: 'r',
  rows: ({ account, member }) => (member === 0 ? account.receipts : []),
  id: ({ id }) => id,
  date: ({ date }) => date,
  What,
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
function receiptLines(receipt: AccountReceipt, desk: AccountDesk): SubLine[] {
  const paid = shownCharges(desk).flatMap((charge) =>
    charge.entries
      .filter((entry) => entry.receiptId === receipt.id && entry.kind === 'allocation')
      .map((entry) => ({
        key: `e${entry.entryId}`,
        undone: entry.undone,
        cells: {
          date: <Day date={charge.date} />,
          who: charge.patient,
          what: `${charge.code} ${charge.description}`,
          patientPaid: <Money cents={entry.paidByPatient} />,
        },
      })),
  );
  const acts =
    desk.may('reverse entries') && !receipt.reversed && receipt.from === null
      ? [{ key: 'acts', wide: <ReceiptActs receiptId={receipt.id} /> }]
      : [];
  return [...paid, ...acts];
}
