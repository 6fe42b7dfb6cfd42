'use client';
import { Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import { type Cents, ZERO, formatMoneyPlain, minus, parseMoney } from '../../../../core/money';
import type { Surcharge } from '../../../../core/payments/surcharge';
import { TENDERS, TENDER_NAMES, type Tender } from '../../../../core/payments/tenders';
import { MoneyInput } from '../../../../ui/form';
import { CardReader, type ReadCard } from './card-reader';
import css from './payment.module.css';

/** One means of payment as it is typed. */
export interface Means {
  tender: Tender;
  amount: string;
  reference: string;
  given: string;
  read: ReadCard | null;
}

/** What is wrong with a means of payment; empty when nothing is. */
export function faultOfMeans({ tender, amount: text, reference, given, read }: Means): string {
  const amount = parseMoney(text);
  if (text.trim() === '') return 'Enter the amount';
  if (amount === null) return 'Amount is not an amount such as 12.50';
  if (amount <= 0) return 'Amount must be more than zero';
  if (tender === 'cash' && given.trim() !== '') {
    const handed = parseMoney(given);
    if (handed === null) return 'Handed over is not an amount such as 20.00';
    if (handed < amount)
      return `${formatMoneyPlain(minus(amount, handed))} is missing of what is handed over`;
  }
  if (TENDERS[tender].needed && !reference.trim() && !read)
    return tender === 'card'
      ? 'Read the card, or type its authorization'
      : `${TENDERS[tender].reference} is missing`;
  return '';
}

/** One means of payment: its kind, its amount, what stands beside it, and a card that the terminal reads. */
export function MeansRow({
  means,
  number,
  siteId,
  terminal,
  surcharge,
  focus,
  set,
  remove,
  onEnter,
}: {
  means: Means;
  /** Its place among several; zero where it is the only one. */
  number: number;
  siteId: number;
  terminal: boolean;
  surcharge: Surcharge | null;
  focus: boolean;
  set: (change: Partial<Means>) => void;
  remove: (() => void) | null;
  onEnter: () => void;
}) {
  const [reading, setReading] = useState<'device' | 'keyed' | null>(null);
  const named = (label: string): string => (number === 0 ? label : `${label} ${number}`);
  const { tender, read } = means;
  const amount = parseMoney(means.amount);
  const handed = parseMoney(means.given);
  const change = tender === 'cash' && amount !== null && handed !== null ? minus(handed, amount) : null;
  return (
    <>
      <div className={css.means}>
        <label>
          <span>{named('Amount')}</span>
          <MoneyInput
            label={named('Amount')}
            focus={focus}
            value={means.amount}
            className={css.amount}
            onChange={(value) => set({ amount: value })}
            onEnter={onEnter}
          />
        </label>
        {tender === 'cash' ? (
          <label>
            <span>{named('Handed over')}</span>
            <MoneyInput
              label={named('Handed over')}
              value={means.given}
              className={css.amount}
              onChange={(value) => set({ given: value })}
              onEnter={onEnter}
            />
          </label>
        ) : (
          !read && (
            <label>
              <span>{named(TENDERS[tender].reference)}</span>
              <Input
                aria-label={named(TENDERS[tender].reference)}
                value={means.reference}
                className={css.reference}
                onChange={(event) => set({ reference: event.target.value })}
                onPressEnter={onEnter}
              />
            </label>
          )
        )}
        <Segmented
          aria-label={named('Tender')}
          value={tender}
          onChange={(value) => {
            setReading(null);
            set({ tender: value, read: null });
          }}
          options={TENDER_NAMES.map((value) => ({ value, label: TENDERS[value].words }))}
        />
        {tender === 'card' && terminal && !read && reading === null && (
          <>
            <Button disabled={amount === null || amount <= 0} onClick={() => setReading('device')}>
              Read card
            </Button>
            <Button disabled={amount === null || amount <= 0} onClick={() => setReading('keyed')}>
              Type its number at the terminal
            </Button>
          </>
        )}
        {read && (
          <Button onClick={() => set({ read: null })}>
            {read.card.brand} {read.card.lastFour}, {read.card.kind}: read another
          </Button>
        )}
        {remove && (
          <Button type="text" aria-label={named('Take away tender')} onClick={remove}>
            ×
          </Button>
        )}
        {change !== null && change >= 0 && (
          <span className={css.said} role="status">
            Change <strong>{change === 0 ? 'none' : formatMoneyPlain(change)}</strong>
          </span>
        )}
        {read && surcharge && (surcharge.amount > 0 || surcharge.why !== '') && (
          <span className={css.said} role="status">
            {surcharge.amount > 0 ? (
              <>
                Say it first: a surcharge of {surcharge.rate / 100} %,{' '}
                <strong>{formatMoneyPlain(surcharge.amount)}</strong>, comes on top. {surcharge.said}{' '}
              </>
            ) : (
              'No surcharge. '
            )}
            {surcharge.why !== '' && `${surcharge.why}.`}
          </span>
        )}
      </div>
      {reading !== null && !read && (
        <CardReader
          key={reading}
          siteId={siteId}
          entry={reading}
          amount={amount ?? ZERO}
          onRead={(found) => {
            setReading(null);
            set({ read: found });
          }}
          onCancel={() => setReading(null)}
        />
      )}
    </>
  );
}

/** What a means of payment is, in cents; zero while it is no amount. */
export const centsOf = ({ amount }: Means): Cents => {
  const parsed = parseMoney(amount);
  return parsed !== null && parsed > 0 ? parsed : ZERO;
};
