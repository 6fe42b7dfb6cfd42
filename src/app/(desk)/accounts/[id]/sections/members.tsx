'use client';
import { Button, Segmented } from 'antd';
import dynamic from 'next/dynamic';
import { BILL_PATIENT_WHY } from '../../../../../core/accounts/bill-patient';
import { LEDGER_VIEWS, type LedgerView } from '../../../../../core/accounts/ledger-views';
import { formatDate } from '../../../../../core/calendar';
import { cents, formatMoneyPlain } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import type { Member, MemberCoverage } from '../../../../../server/accounts/members';
import { Day } from '../../../../../ui/figures';
import { Toolbar } from '../../../../../ui/page';
import css from '../account.module.css';
import { type AccountDesk, type AccountSection, useAccount } from '../section';

const FixDrawer = dynamic(() => import('../fix-drawer').then((all) => all.FixDrawer));

const fix =
  (kind: 'person' | 'member' | 'coverage' | 'order' | 'charge') =>
  ({ account, forms, close }: AccountDesk) => (
    <FixDrawer kind={kind} account={account} plans={forms.plans} choices={forms.choices} onClose={close} />
  );

/** Who belongs to the household, with their coverages, and whose part of the account is shown. */
export const members: AccountSection = {
  Panel: Members,
  dialogs: {
    person: { draw: fix('person') },
    member: { draw: fix('member') },
    coverage: { draw: fix('coverage') },
    order: { draw: fix('order') },
    charge: { draw: fix('charge') },
  },
};

/** Lines of so many people stand on the page. */
const FEW = 3;

function Members() {
  const { account, member, view, set, may, open } = useAccount();
  const shown = account.members.filter((item) => member === 0 || item.id === member);
  return (
    <>
      <Toolbar>
        <Segmented
          aria-label="Member"
          value={member}
          onChange={(value) => set('member', value ? String(value) : '')}
          options={[
            { value: 0, label: 'Whole household' },
            ...account.members.map((item) => ({ value: item.id, label: item.first })),
          ]}
        />
        {may('register people') && (
          <Button type="link" className={css.link} onClick={() => open('member')}>
            Add member
          </Button>
        )}
        <Segmented
          aria-label="Filter"
          value={view}
          onChange={(value) => set('view', value === 'all' ? '' : value)}
          options={(Object.keys(LEDGER_VIEWS) as LedgerView[])
            .filter((one) => one !== 'planned' || account.charges.some(LEDGER_VIEWS.planned.holds))
            .map((value) => ({ value, label: LEDGER_VIEWS[value].label }))}
        />
      </Toolbar>
      {shown.slice(0, FEW).map((item) => (
        <PersonLine
          key={item.id}
          person={item}
          alone={account.members.length === 1 || member !== 0}
          mayChange={may('register people')}
          open={open}
        />
      ))}
      {shown.length > FEW && <p className="small quiet">Choose a member to see the others.</p>}
    </>
  );
}

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

/** What is left of a limit, in words: of how much, or how many. */
const leftWords = ({ words, money, most, left }: Member['counts'][number]): string =>
  money
    ? `${words} ${formatMoneyPlain(cents(left))} of ${formatMoneyPlain(cents(most))}`
    : `${left} of ${words}`;

/** One person: birth date, coverages, what of the first is left. Those that are not in force are unfolded. */
function PersonLine({
  person,
  alone,
  mayChange,
  open,
}: {
  person: Member;
  /** Nobody else is shown, so that there is room for all that is counted. */
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
  // Beside others only what is used up.
  const shown = person.counts.filter(({ left, most }) => alone || (left === 0 && most > 0));
  return (
    <div className={`small quiet ${css.person}`}>
      {person.first} {person.last}, born <Day date={person.birthDate} />
      {act('change', 'person')}
      {now.length === 0 ? ' · no coverage today' : now.map(coverage)}
      {act('add coverage', 'coverage')}
      {now.length > 1 && act('change the order', 'order')}
      {shown.length > 0 && ` · left: ${shown.map(leftWords).join(', ')}`}
      {others.length > 0 && (
        <details>
          <summary>{counted(others.length, 'coverage')} of other times</summary>
          {others.map(coverage)}
        </details>
      )}
    </div>
  );
}
