'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { HoldKind } from '../../../../core/remittances/weigh';
import type { RemittanceClaimRow } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Line } from '../../../../ui/page';
import { decideHeldAction, matchAction } from '../actions';

type As = 'correction' | 'additional' | 'meant' | 'returned' | 'kept';

/** The ways out, in words. */
const WAYS: Record<As, string> = {
  correction: 'It corrects the earlier one',
  additional: 'It is paid on top',
  meant: 'Post it as it says',
  returned: 'Returned to the payer',
  kept: 'Keep as the payer’s credit',
};
/** Which of them a kind of hold has besides giving the money back or keeping it. */
const OF_KIND: Partial<Record<HoldKind, readonly As[]>> = {
  second: ['correction', 'additional'],
  order: ['meant'],
  reversal: ['meant'],
  date: ['meant'],
};

/** Held for what stands on the claim that they mean: they are matched to no other. */
const TIED: ReadonlySet<HoldKind> = new Set(['second', 'order', 'corrected']);

/** Why a claim is held, and what can be done: it is matched to one of ours, or a person says what it is. */
export function Held({ row }: { row: RemittanceClaimRow }) {
  const { run } = useAct();
  const kind = row.holdKind as HoldKind;
  const ways: As[] = [
    ...(OF_KIND[kind] ?? []),
    ...(row.paid > 0 ? (['returned'] as const) : []),
    ...(row.status === 'kept' ? [] : (['kept'] as const)),
  ];
  const [as, setAs] = useState<As | null>(null);
  return (
    <>
      <div className={row.status === 'kept' ? 'small quiet' : 'small warn'}>
        {row.status === 'kept' ? row.note : row.holdReason}
      </div>
      <Line>
        {!TIED.has(kind) && <Match row={row} />}
        <Select<As>
          size="small"
          aria-label="What it is"
          value={as}
          onChange={setAs}
          placeholder="What is it?"
          popupMatchSelectWidth={false}
          options={ways.map((value) => ({ value, label: WAYS[value] }))}
        />
        <WithReason
          words="Decide"
          disabled={as === null}
          ask="Why?"
          act={(why) => run(() => decideHeldAction({ remittanceClaimId: row.id, as, why }), 'Decided')}
        />
      </Line>
    </>
  );
}

function Match({ row }: { row: RemittanceClaimRow }) {
  const { busy, run } = useAct();
  const [controlNumber, setNumber] = useState('');
  const go = (): Promise<unknown> =>
    run(() => matchAction({ remittanceClaimId: row.id, controlNumber }), 'Matched and posted');
  return (
    <>
      <Input
        size="small"
        placeholder="Our claim number"
        aria-label="Our claim number"
        value={controlNumber}
        onChange={(event) => setNumber(event.target.value)}
        onPressEnter={() => void go()}
      />
      <Button size="small" loading={busy} disabled={!controlNumber.trim()} onClick={() => void go()}>
        Match
      </Button>
    </>
  );
}
