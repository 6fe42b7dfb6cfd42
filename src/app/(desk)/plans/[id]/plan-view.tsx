'use client';
import { useMay } from '../../../../ui/desk';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain } from '../../../../core/money';
import { type InstallmentProgress, PLAN_STATES } from '../../../../core/plans/progress';
import { EVERY, EXTRA, INTEREST_BY } from '../../../../core/plans/terms';
import { counted } from '../../../../core/words';
import type { PlanRow } from '../../../../server/plans/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Figure, Figures, Money } from '../../../../ui/figures';
import { Notice } from '../../../../ui/page';
import { Thing } from '../../../../ui/thing';
import { DeskTable } from '../../../../ui/table';
import { Tag } from '../../../../ui/tag';
import { cancelAction } from '../actions';
import { AcceptPlan } from '../accept-plan';

/** What was agreed or is proposed, in one sentence. */
const termsOf = (plan: PlanRow): string =>
  [
    `${counted(plan.installments.length, 'installment')} of ${formatMoneyPlain(plan.level)} ${EVERY[plan.every].words}`,
    plan.rate > 0 ? `${plan.rate / 100} % a year ${INTEREST_BY[plan.interestBy]}` : 'no interest',
    plan.apr > 0 && `annual percentage rate ${(plan.apr / 100).toFixed(2)} %`,
    `extra money: ${EXTRA[plan.extra]}`,
    plan.lateCharges ? 'late charges by the policy' : 'no late charges',
    plan.replaces && `takes the place of ${plan.replaces}`,
    `${plan.status === 'proposed' ? 'proposed' : 'agreed'} ${formatDate(plan.agreedOn)} by ${plan.by}`,
  ]
    .filter(Boolean)
    .join(' · ');

/** One plan. */
export function PlanView({ plan }: { plan: PlanRow }) {
  const mayAgree = useMay()('agree plans');
  const { run } = useAct();
  const account = `/accounts/${plan.householdId}`;
  const open = plan.status === 'accepted' || plan.status === 'proposed';
  return (
    <Thing
      title={`Plan ${plan.number}`}
      note={`${plan.guarantor} · ${plan.account}`}
      back={{ href: '/plans', words: 'back to the plans' }}
      acts={[
        plan.status === 'accepted' && {
          words: 'Take payment',
          key: 'p',
          kind: 'money',
          rank: 'main',
          does: { href: `${account}?show=payment` },
        },
        {
          words: plan.status === 'proposed' ? 'Print for signing' : 'Agreement',
          key: 'l',
          kind: 'paper',
          rank: 'often',
          does: { href: `/api/plans/${plan.id}`, apart: true },
        },
        mayAgree &&
          plan.status === 'accepted' && {
            words: 'Change by a new one',
            key: 'a',
            kind: 'money',
            rank: 'often',
            does: { href: `${account}?show=plan&replaces=${plan.id}` },
          },
        { words: 'Account', key: 'o', kind: 'record', rank: 'often', does: { href: account } },
      ]}
      beside={
        mayAgree &&
        open && (
          <WithReason
            words={plan.status === 'proposed' ? 'Give up' : 'Cancel the plan'}
            ask="Why it is cancelled"
            danger
            size="middle"
            act={(why) =>
              run(
                () => cancelAction({ planId: plan.id, why }),
                (back) =>
                  back > 0 ? `Cancelled; ${formatMoneyPlain(back)} is the patient’s again` : 'Given up',
              )
            }
          />
        )
      }
    >
      {plan.endedWhy && (
        <Notice>
          {PLAN_STATES[plan.state]} on {formatDate(plan.endedOn!)}: {plan.endedWhy}
        </Notice>
      )}
      <Figures label="Where it stands">
        <Figure words="Amount" cents={plan.amount} />
        <Figure words="Down payment" cents={plan.down} less />
        {plan.downLeft > 0 && <Figure words="Of it not made" cents={plan.downLeft} />}
        <Figure words="Finance charge" cents={plan.financeCharge} />
        <Figure words="Paid" cents={plan.paid} />
        <Figure words="Left" cents={plan.left} id="left" />
        <Figure words="Due now" cents={plan.due} owed id="due" />
      </Figures>
      <p>
        <Tag>{PLAN_STATES[plan.state]}</Tag>{' '}
        {plan.daysBehind > 0 && (
          <strong className="warn">
            {counted(plan.daysBehind, 'day')} behind,{' '}
            {counted(plan.missed, plan.downLeft > 0 ? 'payment' : 'installment')} missed ·{' '}
          </strong>
        )}
        <span className="quiet">{termsOf(plan)}</span>
      </p>
      {plan.status === 'proposed' && mayAgree && <AcceptPlan planId={plan.id} guarantor={plan.guarantor} />}
      <DeskTable<InstallmentProgress>
        label="Installments"
        fills="page"
        rows={plan.installments}
        rowKey={(one) => one.number}
        empty="There are none"
        columns={[
          { key: 'number', title: 'No.', width: 60, right: true, render: (one) => one.number },
          { key: 'date', title: 'Due', width: 120, render: (one) => <Day date={one.date} /> },
          {
            key: 'state',
            title: 'State',
            render: (one) =>
              one.state === 'due' || one.state === 'part' ? (
                <span className="warn">{one.state}</span>
              ) : (
                <span className="quiet">{one.state}</span>
              ),
          },
          {
            key: 'amount',
            title: 'Installment',
            width: 120,
            right: true,
            render: (one) => <Money cents={one.amount} />,
          },
          {
            key: 'paid',
            title: 'Paid',
            width: 120,
            right: true,
            render: (one) => <Money cents={one.paid} strong />,
          },
        ]}
      />
    </Thing>
  );
}
