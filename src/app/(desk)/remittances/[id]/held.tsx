'use client';
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import type { HoldKind } from '../../../../core/remittances/verdict';
import type { RemittanceClaimRow } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Line } from '../../../../ui/page';
import { counted } from '../../../../core/words';
import { Tag } from '../../../../ui/tag';
import { decideHeldAction, matchAction, sayReasonAction } from '../actions';

type As = 'correction' | 'additional' | 'meant' | 'again' | 'returned' | 'kept';

/** The ways out, in words. */
const WAYS: Record<As, string> = {
  correction: 'It corrects the earlier one',
  additional: 'It is paid on top',
  meant: 'Post it as it says',
  again: 'Weigh it again',
  returned: 'Returned to the payer',
  kept: 'Keep as the payer’s credit',
};
/** Which of them a kind of hold has besides giving the money back or keeping it. */
const OF_KIND: Partial<Record<HoldKind, readonly As[]>> = {
  second: ['correction', 'additional'],
  order: ['meant'],
  reversal: ['meant'],
  date: ['meant'],
  reason: ['again'],
};

/** Held for what stands on the claim that they mean: they are matched to no other. */
const TIED: ReadonlySet<HoldKind> = new Set(['second', 'order', 'corrected', 'reason']);

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
      {row.unknown.map((item) => (
        <Unknown key={`${item.group}-${item.reason}`} row={row} group={item.group} code={item.reason} />
      ))}
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
          act={(why) => run(() => decideHeldAction({ remittanceClaimId: row.id, as: as!, why }), 'Decided')}
        />
      </Line>
    </>
  );
}

/** A reason that Setup does not know: what it does is said here, once for all that wait for it. */
function Unknown({ row, group, code }: { row: RemittanceClaimRow; group: 'CO' | 'PI'; code: string }) {
  const { run } = useAct();
  const say = (denial: boolean) => (words: string) =>
    run(
      () => sayReasonAction({ remittanceClaimId: row.id, group, code, denial, words }),
      (posted) => `Setup knows ${group}-${code} now; ${counted(posted, 'claim')} posted`,
    );
  return (
    <Line>
      <Tag>
        {group}-{code}
      </Tag>
      <WithReason words="It takes off" ask="What does it mean?" act={say(false)} />
      <WithReason words="It refuses" ask="What does it mean?" act={say(true)} />
    </Line>
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
