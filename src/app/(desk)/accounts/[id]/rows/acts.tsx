'use client';
import { Button } from 'antd';
import { useEffect, useState } from 'react';
import type { ChargeEstimate } from '../../../../../core/estimates/estimate';
import type { LedgerCharge } from '../../../../../server/accounts/ledger';
import { WithReason, useAct } from '../../../../../ui/act';
import { Money } from '../../../../../ui/figures';
import { undoWriteOffAction } from '../../../overdue/actions';
import { reverseAllocationAction } from '../../../payments/actions';
import {
  chargeEstimateAction,
  completeChargeAction,
  keepFromPayersAction,
  voidChargeAction,
} from '../../actions';
import css from '../account.module.css';

/** What can be done with a charge that is on no claim. */
export function ChargeActs({
  charge: { id: chargeId, kind, status, keptFromPayers: kept },
  today,
}: {
  charge: LedgerCharge;
  today: string;
}) {
  const { busy, run } = useAct();
  return (
    <>
      {status === 'planned' && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void run((sure) => completeChargeAction({ ...sure, chargeId, serviceDate: today }), 'Done today')
          }
        >
          Done today
        </Button>
      )}
      {kind === 'service' && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void run(
              () => keepFromPayersAction({ chargeId, kept: !kept }),
              kept ? 'Insurers are asked' : 'Kept from insurers; the patient pays',
            )
          }
        >
          {kept ? 'Bill insurers after all' : 'Keep from insurers'}
        </Button>
      )}
      <WithReason
        words="Void"
        ask="Why is it void?"
        danger
        act={(why) => run(() => voidChargeAction({ chargeId, why }), 'Charge voided')}
      />
    </>
  );
}

/** Taking back what was taken off by decision, or passed on from a payer. */
export function WriteOffActs({ entryId, passed }: { entryId: number; passed: boolean }) {
  const { run } = useAct();
  return (
    <WithReason
      words={passed ? 'Take it back to the payer' : 'Take the write-off back'}
      ask="Why is it taken back?"
      danger
      act={(why) => run(() => undoWriteOffAction({ entryId, why }), 'Taken back; it is owed where it was')}
    />
  );
}

/** Taking back what a receipt pays of a charge. */
export function AllocationActs({ entryId }: { entryId: number }) {
  const { run } = useAct();
  return (
    <WithReason
      words="Take this payment off the charge"
      ask="Why is it taken off?"
      danger
      act={(why) =>
        run(() => reverseAllocationAction({ entryId, why }), 'Taken off; the money is held as credit')
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
