'use client';
import dynamic from 'next/dynamic';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import { Link } from '../../../../../ui/link';
import { type AccountSection, useAccount } from '../section';

const PlanDrawer = dynamic(() => import('../plan-drawer').then((all) => all.PlanDrawer));

/** The payment plans of an account that are not ended, each in one line; agreeing one. */
export const plans: AccountSection = {
  Panel: PlanLines,
  acts: ({ account, may, open }) => [
    may('agree plans') &&
      account.figures.withPatient > 0 && {
        words: 'Agree a plan',
        key: 'a',
        kind: 'money',
        does: () => open('plan'),
      },
  ],
  dialogs: {
    plan: {
      may: 'agree plans',
      draw: ({ account, today, forms, close }) => (
        <PlanDrawer account={account} today={today} rate={forms.planRate} onClose={close} />
      ),
    },
  },
};

function PlanLines() {
  const { account } = useAccount();
  const progress = account.plans.filter(({ status }) => status === 'accepted' || status === 'proposed');
  return progress.map((plan) => (
    <p key={plan.id} className="small">
      <Link href={`/plans/${plan.id}`}>Plan {plan.number}</Link>{' '}
      {plan.status === 'proposed' ? (
        <span className="warn">is proposed and not signed</span>
      ) : (
        <>
          {formatMoneyPlain(plan.left)} left
          {plan.downLeft > 0 && (
            <span className="warn"> · {formatMoneyPlain(plan.downLeft)} of the down payment is not made</span>
          )}
          {plan.due > 0 && (
            <span className={plan.daysBehind > 0 ? 'warn' : undefined}>
              {' '}
              · {formatMoneyPlain(plan.due)} due
              {plan.daysBehind > 0 && `, ${counted(plan.daysBehind, 'day')} behind`}
            </span>
          )}
          {plan.next && ` · next ${formatMoneyPlain(plan.next.amount)} on ${formatDate(plan.next.date)}`}
        </>
      )}
    </p>
  ));
}
