'use client';
import { useEffect, useState } from 'react';
import type { ChargeEstimate } from '../../../../core/estimates/estimate';
import { WithReason, useAct } from '../../../../ui/act';
import { Money } from '../../../../ui/figures';
import { reverseReceiptAction } from '../../payments/actions';
import { chargeEstimateAction, voidChargeAction } from '../actions';
import css from './account.module.css';

/** What can be done with a charge that is on no claim. */
export function ChargeActs({ chargeId }: { chargeId: number }) {
  const { run } = useAct();
  return (
    <WithReason
      words="Void"
      ask="Why is it void?"
      danger
      act={(why) => run(() => voidChargeAction({ chargeId, why }), 'Charge voided')}
    />
  );
}

/** What can be done with a receipt. */
export function ReceiptActs({ receiptId }: { receiptId: number }) {
  const { run } = useAct();
  return (
    <WithReason
      words="Reverse receipt"
      ask="Why is it reversed?"
      danger
      act={(why) =>
        run(() => reverseReceiptAction({ receiptId, why }), 'Receipt reversed; its charges are open again')
      }
    />
  );
}

/** What is expected of an undecided charge, with the steps that lead there. */
export function Expected({ caseId, chargeId }: { caseId: number; chargeId: number }) {
  const [estimate, setEstimate] = useState<ChargeEstimate | null>(null);
  useEffect(() => {
    let here = true;
    void chargeEstimateAction({ caseId, chargeId }).then(
      (result) => here && result.ok && setEstimate(result.value),
    );
    return () => {
      here = false;
    };
  }, [caseId, chargeId]);
  if (!estimate) return <span className="quiet">Estimating …</span>;
  return (
    <dl className={css.expected} aria-label="Estimate">
      {estimate.steps.map((step, index) => [
        <dt key={`w${index}`}>{step.words}</dt>,
        <dd key={`a${index}`}>
          <Money cents={step.amount} strong={index === estimate.steps.length - 1} />
        </dd>,
      ])}
    </dl>
  );
}
