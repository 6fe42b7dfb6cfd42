'use client';
import { formatMoneyPlain } from '../../../core/money';
import { WithReason, useAct } from '../../../ui/act';
import { Line } from '../../../ui/page';
import { settleAction } from './actions';

/** What can be done with an amount that a payer does not pay: taken off, or passed to the patient. */
export function Settle({ chargeId, coverageId }: { chargeId: number; coverageId: number | undefined }) {
  const { run } = useAct();
  const settle = (to: 'off' | 'patient', said: string) => (why: string) =>
    run(
      () => settleAction({ chargeId, coverageId, to, why }),
      (amount) => `${formatMoneyPlain(amount)} ${said}`,
    );
  return (
    <Line>
      <WithReason words="Write off" ask="Why is it written off?" act={settle('off', 'written off')} />
      <WithReason
        words="To patient"
        ask="Why, in words for the patient?"
        act={settle('patient', 'passed to the patient')}
      />
    </Line>
  );
}
