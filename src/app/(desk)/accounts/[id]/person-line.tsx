'use client';
import { Button, Tag } from 'antd';
import Link from 'next/link';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { AccountPage, Member } from '../../../../server/accounts/read';
import { Day } from '../../../../ui/figures';
import { Notice } from '../../../../ui/page';
import css from './account.module.css';

/** One person in a line: birth date, coverage, what of it is used. */
export function PersonLine({
  person,
  mayChange,
  open,
}: {
  person: Member;
  mayChange: boolean;
  open: (name: string, more?: Record<string, string>) => void;
}) {
  return (
    <p className={`small quiet ${css.person}`}>
      {person.first}, born <Day date={person.birthDate} /> ·{' '}
      {person.payer ? `${person.payer}, ${person.plan}, member ${person.memberId}` : 'no coverage'}
      {person.deductible > 0 &&
        ` · deductible ${formatMoneyPlain(person.deductibleUsed)} of ${formatMoneyPlain(person.deductible)} used`}
      {person.maximum !== null &&
        ` · maximum ${formatMoneyPlain(person.maximumUsed)} of ${formatMoneyPlain(person.maximum)} used`}
      {mayChange && (
        <>
          {' · '}
          <Button
            type="link"
            className={css.link}
            onClick={() => open('person', { patient: String(person.id) })}
          >
            change
          </Button>
          {' · '}
          <Button type="link" className={css.link} onClick={() => open('member')}>
            add member
          </Button>
        </>
      )}
    </p>
  );
}

/** What of the household is followed up: the most pressing one, the others unfolded. */
export function FollowUpNotice({ followUps }: { followUps: AccountPage['followUps'] }) {
  const [first] = followUps;
  if (!first) return null;
  return (
    <Notice>
      <details className="small">
        <summary>
          {counted(followUps.length, 'follow-up')}: {first.words}, due <Day date={first.dueDate} />
        </summary>
        {followUps.map((item) => (
          <div key={item.id}>
            <Tag>{item.kind.replace('-', ' ')}</Tag> {item.words} · due <Day date={item.dueDate} />{' '}
            {item.claimId && <Link href={`/claims/${item.claimId}`}>claim</Link>}
          </div>
        ))}
      </details>
    </Notice>
  );
}
