'use client';
import { Alert, Button } from 'antd';
import { useEffect, useState } from 'react';
import type { Cents } from '../../../../core/money';
import type { Card } from '../../../../core/payments/terminal';
import { readCardAction, startReadingAction } from '../../payments/actions';
import css from './payment.module.css';

/** A card that the terminal has read, under the key of its reading. */
export interface ReadCard {
  key: string;
  card: Card;
}

/** Seconds between two looks at the terminal. */
const LOOK = 0.6;

/**
 * Has the terminal read a card: on its device, or typed in its own page, which stands here in a frame. Nothing of its number comes
 * into our page.
 */
export function CardReader({
  siteId,
  entry,
  amount,
  onRead,
  onCancel,
}: {
  siteId: number;
  entry: 'device' | 'keyed';
  amount: Cents;
  onRead: (read: ReadCard) => void;
  onCancel: () => void;
}) {
  const [frame, setFrame] = useState('');
  const [fault, setFault] = useState('');
  // Begun once: what is to be paid then is what the card holder sees.
  const [asked] = useState(() => ({ key: crypto.randomUUID(), amount, entry, locationId: siteId }));
  useEffect(() => {
    let here = true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const { key, locationId } = asked;
    const look = async (): Promise<void> => {
      const answer = await readCardAction({ key, locationId }).catch(() => null);
      if (!here) return;
      if (answer?.ok && answer.value) return onRead({ key, card: answer.value });
      if (answer && !answer.ok) return setFault(answer.message);
      timer = setTimeout(() => void look(), LOOK * 1000);
    };
    void startReadingAction(asked).then((answer) => {
      if (!here) return;
      if (!answer.ok) return setFault(answer.message);
      setFrame(answer.value.frame);
      void look();
    });
    return () => {
      here = false;
      clearTimeout(timer);
    };
    // What is done with a card that was read does not begin another reading.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [asked]);
  return (
    <div className={css.reader} role="group" aria-label="Card terminal">
      {fault !== '' ? (
        <Alert type="warning" title={fault} />
      ) : frame === '' ? (
        <p className="quiet">The terminal is asked …</p>
      ) : (
        <iframe title="Card terminal" src={frame} className={css.frame} />
      )}
      <Button size="small" onClick={onCancel}>
        {fault === '' ? 'Leave the terminal' : 'Back'}
      </Button>
    </div>
  );
}
