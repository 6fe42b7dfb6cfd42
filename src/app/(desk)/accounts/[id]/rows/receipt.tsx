'use client';
import { absolute } from '../../../../../core/money';
import type { PaidLine } from '../../../../../server/accounts/ledger';
import type { AccountReceipt } from '../../../../../server/accounts/receipts';
import { Day, Money } from '../../../../../ui/figures';
import type { SubLine } from '../../../../../ui/line-table';
import type { AccountDesk } from '../section';
import { paidByAction } from '../../actions';
import { READING } from './reading';
import type { RowKind } from './row';
import { EmailReceipt, ReceiptActs, TenderLine } from './tender-acts';

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

const cameBack = ({ tenders }: AccountReceipt): boolean => tenders.some(({ state }) => state === 'returned');

/** What became of it, in a word. */
function stateOf(receipt: AccountReceipt): string {
  if (receipt.nothing === 'waits') return 'Waits for the terminal: ';
  if (receipt.nothing === 'declined') return 'Declined: ';
  if (receipt.moved) return 'Moved away: ';
  if (receipt.reversed) return cameBack(receipt) ? 'Came back: ' : 'Reversed: ';
  return receipt.refund ? 'Given back: ' : 'Received: ';
}

function What({ row: receipt }: { row: AccountReceipt }) {
  const stands = !receipt.reversed && !receipt.nothing && !receipt.moved;
  return (
    <span className={stands ? 'good' : 'quiet'}>
      {stateOf(receipt)}
      <Money cents={absolute(receipt.amount)} /> {receipt.how}
      {receipt.paidBy !== '' && `, paid by ${receipt.paidBy}`}
      {stands && cameBack(receipt) && ', a part came back'}
      {receipt.reversed && (
        <>
          {' '}
          on <Day date={receipt.reversed.date} /> by {receipt.reversed.by}: {receipt.reversed.why}
        </>
      )}
      {receipt.note && <span className="quiet"> · {receipt.note}</span>}
      {receipt.from &&
        (receipt.moved ? (
          <>
            {' '}
            to {receipt.from} on <Day date={receipt.moved.date} />: {receipt.moved.why}
          </>
        ) : (
          ` taken on ${receipt.from}, pays charges here`
        ))}
      {receipt.left > 0 && (
        <>
          {' '}
          · <Money cents={receipt.left} /> held as credit
          {receipt.reservedFor !== null && (
            <>
              {' '}
              for the visit of <Day date={receipt.reservedFor} />
            </>
          )}
          {receipt.patientId !== null && ', kept apart'}
          {receipt.askedBack !== null && (
            <>
              ; <Money cents={receipt.askedBack} /> is asked back and waits for a manager
            </>
          )}
        </>
      )}
    </span>
  );
}

/** What a receipt paid, how it came, and what can be done with it. */
function receiptLines(
  receipt: AccountReceipt,
  { may, today }: AccountDesk,
  paid: readonly PaidLine[] | undefined,
): SubLine[] {
  const mayReverse = may('reverse entries') && receipt.from === null;
  const means = receipt.tenders.map((tender) => ({
    key: `t${tender.id}`,
    undone: tender.state !== 'taken' && tender.state !== 'pending',
    wide: <TenderLine tender={tender} mayReverse={mayReverse} today={today} />,
  }));
  const paper = receipt.nothing
    ? []
    : [
        {
          key: 'paper',
          wide: (
            <span>
              <a href={`/api/receipts/${receipt.id}`}>Receipt as PDF</a> ·{' '}
              <a href={`/api/receipts/${receipt.id}?roll`}>on narrow paper</a>
              {may('take payments') && receipt.from === null && <EmailReceipt receiptId={receipt.id} />}
              {receipt.mailed !== '' && <span className="quiet"> · {receipt.mailed}</span>}
            </span>
          ),
        },
      ];
  const acts =
    mayReverse && !receipt.reversed && !receipt.nothing
      ? [{ key: 'acts', wide: <ReceiptActs receipt={receipt} /> }]
      : [];
  if (!paid) return [READING, ...means, ...paper, ...acts];
  if (paid.length === 0)
    return [
      {
        key: 'nothing',
        wide: (
          <span className="quiet">
            {receipt.nothing === 'waits'
              ? 'It pays nothing until the terminal has answered.'
              : 'It pays no charge.'}
          </span>
        ),
      },
      ...means,
      ...paper,
      ...acts,
    ];
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
    ...means,
    ...paper,
    ...acts,
  ];
}
