'use client';
import { Button, Drawer, Segmented, Tag } from 'antd';
import Link from 'next/link';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { counted } from '../../../../core/words';
import { type Cents, formatMoneyPlain } from '../../../../core/money';
import { AGING_BUCKETS } from '../../../../core/statements/aging';
import type { ChargeStory } from '../../../../core/statements/story';
import type { AccountPage } from '../../../../server/accounts/read';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct } from '../../../../ui/act';
import { Day, Figure, Money } from '../../../../ui/figures';
import { Story } from '../../../../ui/story';
import { spendCreditAction, buildClaimsAction, statementAction, storyAction } from '../../../actions';
import { FixDrawer } from './fix-drawer';
import { Ledger } from './ledger';
import { PaymentDrawer } from './payment-drawer';
import { QuickLine } from './quick-line';
import type { Rights } from './rights';

interface Props {
  account: AccountPage;
  choices: QuickChoices;
  plans: { value: number | string; label: string }[];
  today: string;
  rights: Rights;
}

/** The account page: head figures, members, ledger, quick line. Dialogs live in the address. */
export function AccountView({ account, choices, plans, today, rights }: Props) {
  const router = useRouter();
  const path = usePathname();
  const params = useSearchParams();
  const { busy, run } = useAct();
  const [member, setMember] = useState(0);
  const [only, setOnly] = useState('all');
  const { household: h, figures: f } = account;
  const dialog = params.get('show');
  const show = (name: string | null, more: Record<string, string> = {}): void =>
    router.replace(`${path}?${new URLSearchParams(name ? { show: name, ...more } : {})}`, { scroll: false });

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        (event.target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(event.target.tagName))
      )
        return;
      if (event.key === 'p' && rights.payments) show('payment');
      else if (event.key === 'b') show('story');
      else if (event.key === 'n') document.getElementById('quick-code')?.focus();
      else if (event.key === 'Escape') dialog ? show(null) : router.push('/accounts');
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });

  const charges = account.charges
    .filter((charge) => member === 0 || charge.patientId === member)
    .filter(
      (charge) =>
        only === 'all' ||
        (only === 'open' && charge.withPayer + charge.withPatient + charge.onPlan + charge.atAgency !== 0) ||
        (only === 'paid' && charge.payerPaid + charge.patientPaid !== 0),
    );
  const unbilled = account.charges.filter(
    (charge) => charge.withPayer > 0 && !charge.claimId && charge.status === 'done',
  ).length;
  const person = account.members.find((item) => item.id === (member || account.members[0]?.id));

  const statement = async (): Promise<void> => {
    const made = await run(() =>
      statementAction(h.id, `${h.id}-${today}-${f.withPatient}-${account.statements.length}`),
    );
    if (made) window.open(`/api/statements/${made.value}`, '_blank');
  };

  return (
    <>
      <div className="head">
        <h1>
          {h.last}, {h.first}
        </h1>
        <span className="quiet">
          {h.number} · {h.phone || 'no phone'} · {h.line1}, {h.city} {h.state} {h.zip}
        </span>
        <span className="push">
          {rights.payments && (
            <Button type="primary" onClick={() => show('payment')}>
              Take payment (P)
            </Button>
          )}
          <Button onClick={() => show('story')}>Balance story (B)</Button>
          {rights.statements && (
            <Button loading={busy} disabled={f.withPatient <= 0} onClick={() => void statement()}>
              Statement
            </Button>
          )}
        </span>
      </div>
      {h.notice && <p className="notice">{h.notice}</p>}
      <div style={{ display: 'flex', gap: 10, flexWrap: 'wrap', marginBottom: 8 }}>
        <div className="figures" aria-label="Balance">
          <Figure words="With payers" cents={f.withPayer} />
          <Figure words="Patient owes now" cents={f.withPatient} owed />
          <Figure words="On plan" cents={f.onPlan + f.atAgency} />
          <Figure words="Less credit" cents={f.credit} less />
          <Figure words="Balance" cents={f.balance} id="balance" />
        </div>
        <div className="figures" aria-label="Age of what the patient owes">
          {AGING_BUCKETS.map((bucket, index) => (
            <div className="figure" key={bucket} style={{ minWidth: 66, padding: '7px 8px' }}>
              <small>{bucket}</small>
              <b style={{ fontSize: 14 }}>
                <Money cents={account.aging[index]!} />
              </b>
            </div>
          ))}
        </div>
      </div>
      <div className="toolbar">
        <Segmented
          aria-label="Member"
          value={member}
          onChange={(value) => setMember(Number(value))}
          options={[
            { value: 0, label: 'Whole household' },
            ...account.members.map((item) => ({ value: item.id, label: item.first })),
          ]}
        />
        <Segmented
          aria-label="Filter"
          value={only}
          onChange={(value) => setOnly(String(value))}
          options={[
            { value: 'all', label: 'All' },
            { value: 'open', label: 'Only open' },
            { value: 'paid', label: 'Only paid on' },
          ]}
        />
        <span className="push">
          {rights.payments && f.credit > 0 && f.withPatient > 0 && (
            <Button
              loading={busy}
              onClick={() =>
                void run(
                  () => spendCreditAction(h.id),
                  (cents) => `${formatMoneyPlain(cents as Cents)} of credit used`,
                )
              }
            >
              Use credit for charges
            </Button>
          )}
          {rights.claims && unbilled > 0 && (
            <Button
              loading={busy}
              onClick={() =>
                void run(
                  () => buildClaimsAction(h.id),
                  (ids) => `${counted(ids.length, 'claim')} built`,
                )
              }
            >
              Build claims from {counted(unbilled, 'charge')}
            </Button>
          )}
        </span>
      </div>
      {person && (
        <p className="small quiet" style={{ margin: '0 0 8px' }}>
          {person.first}, born <Day date={person.birthDate} /> ·{' '}
          {person.payer ? `${person.payer}, ${person.plan}, member ${person.memberId}` : 'no coverage'}
          {person.deductible > 0 &&
            ` · deductible ${formatMoneyPlain(person.deductibleUsed)} of ${formatMoneyPlain(person.deductible)} used`}
          {person.maximum !== null &&
            ` · maximum ${formatMoneyPlain(person.maximumUsed)} of ${formatMoneyPlain(person.maximum)} used`}
          {rights.people && (
            <>
              {' · '}
              <a
                role="button"
                tabIndex={0}
                onClick={() => show('person', { patient: String(person.id) })}
                onKeyDown={(event) => event.key === 'Enter' && show('person', { patient: String(person.id) })}
              >
                change
              </a>
              {' · '}
              <a
                role="button"
                tabIndex={0}
                onClick={() => show('member')}
                onKeyDown={(event) => event.key === 'Enter' && show('member')}
              >
                add member
              </a>
            </>
          )}
        </p>
      )}
      {account.followUps.length > 0 && (
        <details className="notice small" style={{ marginBottom: 6 }}>
          <summary>
            {counted(account.followUps.length, 'follow-up')}: {account.followUps[0]!.words}, due{' '}
            <Day date={account.followUps[0]!.dueDate} />
          </summary>
          {account.followUps.map((item) => (
            <div key={item.id}>
              <Tag>{item.kind.replace('-', ' ')}</Tag> {item.words} · due <Day date={item.dueDate} />{' '}
              {item.claimId && <Link href={`/claims/${item.claimId}`}>claim</Link>}
            </div>
          ))}
        </details>
      )}
      {account.earlier > 0 && (
        <p className="small">
          {account.earlier} earlier charges are not shown. <Link href={`${path}?all=1`}>Show all</Link>
        </p>
      )}
      <Ledger
        charges={charges}
        receipts={member === 0 ? account.receipts : []}
        statements={member === 0 ? account.statements : []}
        rights={rights}
        onStory={(chargeId) => show('story', { of: String(chargeId) })}
        lit={Number(params.get('charge')) || 0}
      />
      {rights.charges && person && (
        <QuickLine key={person.id} person={person} choices={choices} today={today} />
      )}
      {dialog === 'story' && (
        <StoryDrawer
          householdId={h.id}
          chargeId={Number(params.get('of')) || undefined}
          onClose={() => show(null)}
        />
      )}
      {dialog === 'payment' && <PaymentDrawer account={account} onClose={() => show(null)} />}
      {(dialog === 'person' || dialog === 'member' || dialog === 'charge') && (
        <FixDrawer
          kind={dialog}
          account={account}
          plans={plans}
          choices={choices}
          onClose={() => show(null)}
        />
      )}
    </>
  );
}

function StoryDrawer({
  householdId,
  chargeId,
  onClose,
}: {
  householdId: number;
  chargeId: number | undefined;
  onClose: () => void;
}) {
  const [story, setStory] = useState<{ charges: ChargeStory[]; closing: string } | null>(null);
  useEffect(() => {
    void storyAction(householdId, chargeId).then((result) => result.ok && setStory(result.value));
  }, [householdId, chargeId]);
  return (
    <Drawer open size={560} title="How this balance came about" onClose={onClose}>
      {story ? (
        <Story
          charges={story.charges}
          closing={chargeId ? undefined : story.closing}
          householdId={householdId}
        />
      ) : (
        <p className="quiet">Reading …</p>
      )}
    </Drawer>
  );
}
