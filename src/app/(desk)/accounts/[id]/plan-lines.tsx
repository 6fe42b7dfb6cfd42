'use client';
import { Link } from '../../../../ui/link';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/accounts/read';

/** The plans of an account that are not ended, each in one line. */
export function PlanLines({ account }: { account: AccountPage }) {
  const plans = account.plans.filter(({ status }) => status === 'accepted' || status === 'proposed');
  return plans.map((plan) => (
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
