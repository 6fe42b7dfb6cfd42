'use client';
import { App } from 'antd';
import { useEffect, useState } from 'react';
import { adjustmentWords } from '../../../core/remittances/adjustment-words';
import { CREDIT_WAYS, type CreditWay } from '../../../core/remittances/credit';
import { absolute, formatMoneyPlain, toDecimal } from '../../../core/money';
import type { Cents } from '../../../core/money';
import { type Fields, FormDrawer } from '../../../ui/form';
import { creditCountersAction, settleCreditAction } from './actions';

/** A provider adjustment that is open. Cents. */
export interface OpenAdjustment {
  id: number;
  code: string;
  reference: string;
  open: Cents;
  claim: { controlNumber: string } | null;
}

/** The ways out in words: of what is held for the payer, and of what the payer has taken. */
const WAYS: Record<CreditWay, readonly [held: string, taken: string]> = {
  apply: ['It pays a claim', 'It takes back what was paid on a claim'],
  refund: ['It gives back what the payer had taken', 'It was our refund of money that is held'],
  'give-up': ['Keep it for good (income)', 'Give it up (expense)'],
  return: ['We returned it to the payer', 'The payer paid it back'],
};

/** Says what a provider adjustment was. */
export function SettleCredit({ item, onClose }: { item: OpenAdjustment; onClose: () => void }) {
  const { message } = App.useApp();
  const [as, setAs] = useState<CreditWay>('apply');
  const side = item.open > 0 ? 0 : 1;
  return (
    <FormDrawer
      title={`${adjustmentWords(item.code)} ${item.reference}: ${formatMoneyPlain(absolute(item.open))} ${side === 0 ? 'held for the payer' : 'taken by the payer'}`}
      initial={{
        as: 'apply',
        amount: toDecimal(absolute(item.open)),
        controlNumber: item.claim?.controlNumber ?? '',
      }}
      along={{ adjustmentId: item.id, open: item.open }}
      once
      action={settleCreditAction}
      done={(left) => {
        void message.success(left === 0 ? 'Settled' : `Settled; ${formatMoneyPlain(absolute(left))} is left`);
        onClose();
      }}
      onClose={onClose}
      onTyped={(values) => setAs(values.as as CreditWay)}
      words="Settle"
    >
      {(f) => (
        <>
          <f.Choice
            name="as"
            label="What it was"
            needed
            focus
            options={CREDIT_WAYS.map((value) => ({ value, label: WAYS[value][side] }))}
          />
          {as === 'apply' && <f.Text name="controlNumber" label="Our claim number" needed maxLength={40} />}
          {as === 'refund' && <Against f={f} adjustmentId={item.id} />}
          <f.Money name="amount" label="Amount" needed />
          <f.Text name="why" label="Why" needed maxLength={300} />
        </>
      )}
    </FormDrawer>
  );
}

/** The items of the other side, of the same payer. */
function Against({ f, adjustmentId }: { f: Fields<'against'>; adjustmentId: number }) {
  const [options, setOptions] = useState<{ value: string; label: string }[] | null>(null);
  useEffect(() => {
    let there = true;
    void creditCountersAction({ adjustmentId }).then((answer) => {
      if (there)
        setOptions(
          answer.ok
            ? answer.value.map(({ value, label, open }) => ({
                value,
                label: `${label}: ${formatMoneyPlain(absolute(open))}`,
              }))
            : [],
        );
    });
    return () => {
      there = false;
    };
  }, [adjustmentId]);
  return (
    <f.Choice
      name="against"
      label="Against"
      needed
      hint={options?.length === 0 ? 'This payer has nothing open on the other side' : undefined}
      options={options ?? []}
    />
  );
}
