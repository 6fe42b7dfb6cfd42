'use client';
import { Button, Segmented } from 'antd';
import { Link } from '../../../../ui/link';
import { usePathname, useRouter } from 'next/navigation';
import dynamic from 'next/dynamic';
import { useEffect, useState } from 'react';
import { LEDGER_VIEWS, type LedgerView } from '../../../../core/accounts/paper';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain, sum } from '../../../../core/money';
import { AGING_BUCKETS } from '../../../../core/statements/aging';
import type { ChargeStory } from '../../../../core/statements/story';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/accounts/read';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct } from '../../../../ui/act';
import { useDialog } from '../../../../ui/dialog';
import { DeskDrawer } from '../../../../ui/drawer';
import { Figure, Figures } from '../../../../ui/figures';
import { useAddress } from '../../../../ui/filters';
import { useKeys } from '../../../../ui/keys';
import { useNarrow } from '../../../../ui/narrow';
import { Head, Notice, Toolbar } from '../../../../ui/page';
import { Settled } from '../../../../ui/settled';
import { Story } from '../../../../ui/story';
import { buildClaimsAction } from '../../claims/actions';
import { HandOver } from '../../statements/hand-over';
import { storyAction, takeOffAction } from '../actions';
import { BadDebt } from './bad-debt';
import css from './account.module.css';
import { Ledger } from './ledger';
import { FollowUpNotice, PersonLine } from './person-line';
import { PlanLines } from './plan-lines';
import { QuickLine } from './quick-line';
import type { Rights } from './rights';

// Loaded when they are opened.
const ContactDrawer = dynamic(() => import('../../overdue/contact-drawer').then((all) => all.ContactDrawer));
const CreditDrawer = dynamic(() => import('./credit-drawer').then((all) => all.CreditDrawer));
const FixDrawer = dynamic(() => import('./fix-drawer').then((all) => all.FixDrawer));
const MailDrawer = dynamic(() => import('./mail-drawer').then((all) => all.MailDrawer));
const PlanDrawer = dynamic(() => import('./plan-drawer').then((all) => all.PlanDrawer));
const PrintDrawer = dynamic(() => import('./print-drawer').then((all) => all.PrintDrawer));
const PaymentDrawer = dynamic(() => import('./payment-drawer').then((all) => all.PaymentDrawer));

interface Props {
  account: AccountPage;
  choices: QuickChoices;
  plans: { value: number | string; label: string }[];
  sites: { value: number; label: string }[];
  /** The yearly rate that a plan begins with, in basis points. */
  planRate: number;
  today: string;
  rights: Rights;
}

/** The account page: head figures, members, ledger, quick line. Dialogs live in the address. */
export function AccountView({ account, choices, plans, sites, planRate, today, rights }: Props) {
  const router = useRouter();
  const path = usePathname();
  const { dialog, params, open, close } = useDialog();
  const setPart = useAddress();
  const narrow = useNarrow();
  const wanted = Number(params.get('member')) || 0;
  const member = account.members.some((item) => item.id === wanted) ? wanted : 0;
  const [only, setOnly] = useState<LedgerView>('all');
  const { household: h, figures: f } = account;
  useKeys([
    ...(rights.payments ? [{ key: 'p', words: 'take a payment', run: () => open('payment') }] : []),
    ...(rights.payments && f.credit > 0
      ? [{ key: 'u', words: 'use credit, or give it back', run: () => open('credit') }]
      : []),
    { key: 'b', words: 'balance story', run: () => open('story') },
    { key: 'l', words: 'print the ledger', run: () => open('print') },
    { key: 'o', words: 'contacts', run: () => open('contact') },
    ...(rights.plans && f.withPatient > 0
      ? [{ key: 'a', words: 'agree a plan', run: () => open('plan') }]
      : []),
    ...(rights.charges
      ? [
          {
            key: 'n',
            words: 'new charge',
            run: (event: KeyboardEvent) => {
              event.preventDefault();
              document.getElementById('quick-code')?.focus();
            },
          },
        ]
      : []),
    { key: 'Escape', words: 'back to the list', run: () => (dialog ? close() : router.push('/accounts')) },
  ]);
  const charges = account.charges
    .filter((charge) => member === 0 || charge.patientId === member)
    .filter((charge) => only === 'all' || LEDGER_VIEWS[only].holds(charge));
  return (
    <>
      <AccountHead account={account} rights={rights} open={open} />
      {h.notice && <Notice>{h.notice}</Notice>}
      {account.stops.length > 0 && (
        <Notice>
          {account.stops
            .map(
              ({ reason, stops, until }) =>
                `${reason}: no ${stops.join(', ')}${until ? ` until ${formatDate(until)}` : ''}`,
            )
            .join(' · ')}
        </Notice>
      )}
      {account.confidential.length > 0 && (
        <Notice>
          Confidential: what concerns {account.confidential.map(({ patient }) => patient).join(', ')} goes to
          an address apart, and is told to nobody else.
        </Notice>
      )}
      {account.forbidden && <ForbiddenNotice account={account} mayTakeOff={rights.reverse} />}
      <div className={css.figures}>
        <Figures label="Balance and its parts">
          <Figure words="With payers" cents={f.withPayer} />
          <Figure words="Patient owes now" cents={f.withPatient} owed id="owed" />
          <Figure
            words={
              f.atAgency === 0 ? 'On plan' : f.onPlan === 0 ? 'With the agency' : 'On plan, with the agency'
            }
            cents={sum([f.onPlan, f.atAgency])}
          />
          <Figure
            words={f.held === 0 ? 'Less credit' : 'Less credit, and held'}
            cents={sum([f.credit, f.held])}
            less
          />
          <Figure words="Balance" cents={f.balance} id="balance" />
        </Figures>
        <Figures label="Age of what the patient owes">
          {AGING_BUCKETS.map((bucket, index) => (
            <Figure key={bucket} words={bucket} cents={account.aging[index]!} slim />
          ))}
        </Figures>
      </div>
      <Toolbar right={<AccountActs account={account} rights={rights} open={open} />}>
        <Segmented
          aria-label="Member"
          value={member}
          onChange={(value) => setPart('member', value ? String(value) : '')}
          options={[
            { value: 0, label: 'Whole household' },
            ...account.members.map((item) => ({ value: item.id, label: item.first })),
          ]}
        />
        {rights.people && (
          <Button type="link" className={css.link} onClick={() => open('member')}>
            Add member
          </Button>
        )}
        <Segmented
          aria-label="Filter"
          value={only}
          onChange={setOnly}
          options={(Object.keys(LEDGER_VIEWS) as LedgerView[])
            .filter((view) => view !== 'planned' || account.charges.some(LEDGER_VIEWS.planned.holds))
            .map((value) => ({ value, label: LEDGER_VIEWS[value].label }))}
        />
      </Toolbar>
      {account.members
        .filter((item) => member === 0 || item.id === member)
        .slice(0, 3)
        .map((item) => (
          <PersonLine
            key={item.id}
            person={item}
            alone={account.members.length === 1 || member !== 0}
            mayChange={rights.people}
            open={open}
          />
        ))}
      {account.members.length > 3 && member === 0 && (
        <p className="small quiet">Choose a member to see the others.</p>
      )}

      <PlanLines account={account} />
      {account.placement && (
        <p className="small">
          <Link href={`/overdue/placements/${account.placement.id}`}>
            Placement {account.placement.number}
          </Link>{' '}
          {account.placement.proposed
            ? `is proposed for ${account.placement.agency}`
            : `with ${account.placement.agency}: ${formatMoneyPlain(account.placement.open)} open`}
        </p>
      )}
      <BadDebt account={account} rights={rights} />
      <FollowUpNotice followUps={account.followUps} />
      {account.earlier > 0 && (
        <p className="small">
          {counted(account.earlier, 'earlier charge is', 'earlier charges are')} not shown.{' '}
          <Link href={`${path}?all=1`}>Show all</Link>
        </p>
      )}
      <Ledger
        charges={charges}
        receipts={member === 0 ? account.receipts : []}
        statements={member === 0 ? account.statements : []}
        letters={member === 0 ? account.letters : []}
        rights={rights}
        today={today}
        onStory={(chargeId) => open('story', { of: String(chargeId) })}
        lit={Number(params.get('charge')) || 0}
        // Beside the story, and on a narrow screen, there is room for what decides, and a row lights its sentences.
        narrow={dialog === 'story' ? (narrow ? 'story' : 'narrow') : narrow && 'narrow'}
        onLight={dialog === 'story' ? (id) => setPart('charge', String(id)) : undefined}
      />
      {rights.charges && account.members.length > 0 && dialog !== 'story' && (
        <Settled room={<div className={css.room} />}>
          <QuickLine key={member} members={account.members} member={member} choices={choices} today={today} />
        </Settled>
      )}
      {dialog === 'story' && (
        <StoryDrawer
          householdId={h.id}
          chargeId={Number(params.get('of')) || undefined}
          lit={Number(params.get('charge')) || 0}
          here={{ ...Object.fromEntries(params), show: 'story' }}
          onClose={close}
        />
      )}
      {dialog === 'statements' && rights.statements && (
        <MailDrawer householdId={h.id} mayStop={rights.stops} onClose={close} />
      )}
      {dialog === 'contact' && (
        <ContactDrawer
          householdId={h.id}
          mayWork={rights.overdue}
          mayDecide={rights.hardship}
          onClose={close}
        />
      )}
      {dialog === 'plan' && rights.plans && (
        <PlanDrawer account={account} today={today} rate={planRate} onClose={close} />
      )}
      {dialog === 'print' && (
        <PrintDrawer account={account} sites={sites} view={only} member={member} onClose={close} />
      )}
      {dialog === 'credit' && rights.payments && (
        <CreditDrawer account={account} mayRefund={rights.reverse} onClose={close} />
      )}
      {dialog === 'statement' && rights.statements && (
        <HandOver householdId={h.id} name={`${h.first} ${h.last}`} onClose={close} />
      )}
      {dialog === 'payment' && rights.payments && <PaymentDrawer account={account} onClose={close} />}
      {(dialog === 'person' || dialog === 'member' || dialog === 'coverage' || dialog === 'charge') && (
        <FixDrawer kind={dialog} account={account} plans={plans} choices={choices} onClose={close} />
      )}
    </>
  );
}

/** Who answers for the account and how to reach them, and what is done with it. */
function AccountHead({
  account,
  rights,
  open,
}: Pick<Props, 'account' | 'rights'> & { open: (name: string) => void }) {
  const { household: h } = account;
  return (
    <Head
      title={`${h.last}, ${h.first}`}
      note={`${h.number} · ${h.phone || 'no phone'} · ${h.line1}, ${h.city} ${h.state} ${h.zip}`}
    >
      {rights.trail && <Link href={`/accounts/${h.id}/seen`}>Who saw it</Link>}
      {rights.payments && (
        <Button type="primary" onClick={() => open('payment')}>
          Take payment (P)
        </Button>
      )}
      <Button onClick={() => open('story')}>Balance story (B)</Button>
      {rights.statements && (
        <>
          <Button onClick={() => open('statement')}>Statement</Button>
          <Button onClick={() => open('statements')}>Mail and stops</Button>
        </>
      )}
      <Button onClick={() => open('print')}>Print (L)</Button>
    </Head>
  );
}

/** What stands with patients and may not be billed to them, with the press that takes it off. */
function ForbiddenNotice({ account, mayTakeOff }: { account: AccountPage; mayTakeOff: boolean }) {
  const { busy, run } = useAct();
  const { amount, why } = account.forbidden!;
  return (
    <Notice>
      {formatMoneyPlain(amount)} may not be billed to the patient: {why}. It is on no statement.{' '}
      {mayTakeOff && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void run(
              () => takeOffAction({ householdId: account.household.id }),
              (taken) => `${formatMoneyPlain(taken)} taken off`,
            )
          }
        >
          Take it off
        </Button>
      )}
    </Notice>
  );
}

/** What waits to be done on the account. */
function AccountActs({
  account,
  rights,
  open,
}: Pick<Props, 'account' | 'rights'> & { open: (name: string) => void }) {
  const { busy, run } = useAct();
  const { household: h, figures: f, unbilled } = account;
  const build = (): void =>
    void run(
      () => buildClaimsAction({ householdId: h.id }),
      (ids) => `${counted(ids.length, 'claim')} built`,
    );
  useKeys(rights.claims && unbilled > 0 ? [{ key: 'c', words: 'build claims', run: build }] : []);
  return (
    <>
      {rights.payments && f.credit > 0 && (
        <Button onClick={() => open('credit')}>Credit {formatMoneyPlain(f.credit)} (U)</Button>
      )}
      <Button onClick={() => open('contact')}>Contacts (O)</Button>
      {rights.plans && f.withPatient > 0 && <Button onClick={() => open('plan')}>Agree a plan (A)</Button>}
      {rights.claims && unbilled > 0 && (
        <Button loading={busy} onClick={build}>
          Build claims from {counted(unbilled, 'charge')} (C)
        </Button>
      )}
    </>
  );
}

/** As wide as the page makes room for what stands beside it. */
const STORY_WIDTH = 420;

function StoryDrawer({
  householdId,
  chargeId,
  lit,
  here,
  onClose,
}: {
  householdId: number;
  chargeId: number | undefined;
  lit: number;
  here: Record<string, string>;
  onClose: () => void;
}) {
  const [story, setStory] = useState<{ charges: ChargeStory[]; closing: string } | null>(null);
  useEffect(() => {
    let here = true;
    void storyAction({ householdId, chargeId }).then((result) => here && result.ok && setStory(result.value));
    return () => {
      here = false;
    };
  }, [householdId, chargeId]);
  return (
    <DeskDrawer size={STORY_WIDTH} title="How this balance came about" beside onClose={onClose}>
      {story ? (
        <Story
          charges={story.charges}
          closing={chargeId ? undefined : story.closing}
          householdId={householdId}
          lit={lit}
          here={here}
        />
      ) : (
        <p className="quiet">Reading …</p>
      )}
    </DeskDrawer>
  );
}
