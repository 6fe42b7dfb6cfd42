'use client';
import { Button } from 'antd';
import { BILL_PATIENT_WHY } from '../../../../core/accounts/bill-patient';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { AccountPage, Member, MemberCoverage } from '../../../../server/accounts/read';
import { LinkIfSeen } from '../../../../ui/desk';
import { Day } from '../../../../ui/figures';
import { Notice } from '../../../../ui/page';
import css from './account.module.css';
import { Tag } from '../../../../ui/tag';

const ORDER = ['', 'first', 'second', 'third'];

/** What a coverage is, in words: order, payer, plan, whose, and its dates where it has some. */
const coverageWords = (coverage: MemberCoverage, alone: boolean): string =>
  [
    `${alone ? '' : `${ORDER[coverage.position]}: `}${coverage.payer}, ${coverage.plan}, member ${coverage.memberId}`,
    coverage.relationship !== 'self' && `of ${coverage.subscriber}`,
    coverage.validFrom && `from ${formatDate(coverage.validFrom)}`,
    coverage.validTo && `until ${formatDate(coverage.validTo)}`,
    coverage.billPatient !== 'yes' &&
      `${coverage.billPatient === 'never' ? 'never bill the patient' : 'bill the patient the copay only'} (${coverage.billPatientWhy && BILL_PATIENT_WHY[coverage.billPatientWhy]})`,
  ]
    .filter(Boolean)
    .join(', ');

/** One person: birth date, coverages, what of the first is used. Those that are not in force are unfolded. */
export function PersonLine({
  person,
  alone,
  mayChange,
  open,
}: {
  person: Member;
  /** Nobody else is shown, so that there is room for what is used. */
  alone: boolean;
  mayChange: boolean;
  open: (name: string, more?: Record<string, string>) => void;
}) {
  const patient = String(person.id);
  const act = (words: string, name: string, more: Record<string, string> = {}) =>
    mayChange && (
      <>
        {' '}
        <Button type="link" className={css.link} onClick={() => open(name, { patient, ...more })}>
          {words}
        </Button>
      </>
    );
  const coverage = (item: MemberCoverage) => (
    <span key={item.id}>
      {' · '}
      {coverageWords(item, person.coverages.length === 1)}
      {act('change', 'coverage', { coverage: String(item.id) })}
    </span>
  );
  const now = person.coverages.filter((item) => item.now);
  const others = person.coverages.filter((item) => !item.now);
  return (
    <div className={`small quiet ${css.person}`}>
      {person.first} {person.last}, born <Day date={person.birthDate} />
      {act('change', 'person')}
      {now.length === 0 ? ' · no coverage today' : now.map(coverage)}
      {act('add coverage', 'coverage')}
      {alone &&
        person.deductible > 0 &&
        ` · deductible ${formatMoneyPlain(person.deductibleUsed)} of ${formatMoneyPlain(person.deductible)} used`}
      {alone &&
        person.maximum !== null &&
        ` · maximum ${formatMoneyPlain(person.maximumUsed)} of ${formatMoneyPlain(person.maximum)} used`}
      {others.length > 0 && (
        <details>
          <summary>{counted(others.length, 'coverage')} of other times</summary>
          {others.map(coverage)}
        </details>
      )}
    </div>
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
            {item.claimId && (
              <LinkIfSeen way to="claims" id={item.claimId}>
                claim
              </LinkIfSeen>
            )}
          </div>
        ))}
      </details>
    </Notice>
  );
}
