'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../core/calendar';
import { formatMoneyPlain } from '../../../core/money';
import {
  CONTACT_KINDS,
  type ContactKind,
  type ContactOutcome,
  OUTCOMES,
} from '../../../core/overdue/contacts';
import type { OverdueAccountPage } from '../../../server/overdue/account';
import type { ContactRow } from '../../../server/overdue/contacts';
import type { HardshipRow } from '../../../server/overdue/hardship';
import { WithReason, useAct } from '../../../ui/act';
import { useMay } from '../../../ui/desk';
import { DeskDrawer } from '../../../ui/drawer';
import { DeskForm, Row } from '../../../ui/form';
import { Link } from '../../../ui/link';
import { Loaded } from '../../../ui/loaded';
import { Notice } from '../../../ui/page';
import { Tag } from '../../../ui/tag';
import {
  contactAction,
  decideHardshipAction,
  endPromiseAction,
  hardshipAction,
  overdueAccountAction,
  voidContactAction,
} from './actions';
import css from './overdue.module.css';

const PROMISES = { open: 'not yet due', kept: 'kept', broken: 'broken', ended: 'taken back' } as const;

/** What was tried and said about an account, and noting what is said now. */
export function ContactDrawer({ householdId, onClose }: { householdId: number; onClose: () => void }) {
  const may = useMay();
  const mayWork = may('work overdue');
  const mayDecide = may('approve hardship');
  const router = useRouter();
  const mayTake = useMay()('take payments');
  const [turn, setTurn] = useState(0);
  const again = (): void => {
    setTurn((now) => now + 1);
    router.refresh();
  };
  return (
    <DeskDrawer size={520} title="Contacts" onClose={onClose}>
      <Loaded of={`${householdId}-${turn}`} read={() => overdueAccountAction(householdId)}>
        {(account) => (
          <>
            <p>
              <strong>{account.name}</strong> · {account.account} ·{' '}
              {[account.phone, account.email].filter(Boolean).join(' · ') || 'no phone, no e-mail'}
              <br />
              <span className="quiet">{outlookWords(account)}</span> ·{' '}
              {mayTake && <Link href={`/accounts/${householdId}?show=payment`}>Take a payment</Link>}
            </p>
            {account.doubts.length > 0 && <Notice>No call now: {account.doubts.join('. ')}.</Notice>}
            {mayWork && <NewContact key={turn} householdId={householdId} again={again} />}
            <section aria-label="So far" className={css.part}>
              <h3>So far</h3>
              {account.contacts.length === 0 && <p className="quiet">Nobody was tried yet.</p>}
              {account.contacts.map((contact) => (
                <Contact key={contact.id} contact={contact} mayWork={mayWork} again={again} />
              ))}
            </section>
            <Hardship account={account} mayWork={mayWork} mayDecide={mayDecide} again={again} />
          </>
        )}
      </Loaded>
    </DeskDrawer>
  );
}

/** Where the account stands, in a sentence. */
function outlookWords({ outlook }: OverdueAccountPage): string {
  if (!outlook) return 'Nothing is past due.';
  const { pastDue, daysPastDue, stage, why } = outlook;
  return `${formatMoneyPlain(pastDue)} past due for ${daysPastDue} days · ${stage?.name ?? 'no letter yet'} · ${why}`;
}

/** The form of a contact; what an outcome asks for shows with it. */
function NewContact({ householdId, again }: { householdId: number; again: () => void }) {
  const [outcome, setOutcome] = useState<ContactOutcome>('spoke');
  return (
    <DeskForm
      initial={{
        kind: 'call',
        direction: 'out',
        outcome: 'spoke',
        whom: '',
        said: '',
        amount: '',
        by: '',
        againOn: '',
      }}
      along={{ householdId }}
      once
      action={contactAction}
      done={again}
      words="Note it"
      onTyped={(values) => setOutcome(values.outcome as ContactOutcome)}
    >
      {(f) => (
        <>
          <Row>
            <f.Choice
              name="kind"
              label="How"
              options={(Object.keys(CONTACT_KINDS) as ContactKind[]).map((value) => ({
                value,
                label: CONTACT_KINDS[value],
              }))}
            />
            <f.Choice
              name="direction"
              label="Who began"
              options={[
                { value: 'out', label: 'We did' },
                { value: 'in', label: 'They did' },
              ]}
            />
            <f.Text name="whom" label="With whom" maxLength={80} placeholder="the guarantor" />
          </Row>
          <f.Choice
            name="outcome"
            label="What came of it"
            options={(Object.keys(OUTCOMES) as ContactOutcome[]).map((value) => ({
              value,
              label: OUTCOMES[value],
            }))}
          />
          {outcome === 'promise' && (
            <Row>
              <f.Money name="amount" label="Promised" needed />
              <f.Date name="by" label="By" needed />
            </Row>
          )}
          {outcome === 'dispute' && (
            <p className="warn small">
              Letters stop until it is resolved: lift the stop under “Mail and stops” then.
            </p>
          )}
          <f.Text
            name="said"
            label={outcome === 'dispute' ? 'What is disputed' : 'What was said'}
            needed={outcome === 'dispute' || outcome === 'hardship'}
            focus
            maxLength={1000}
          />
          {outcome !== 'promise' && <f.Date name="againOn" label="Try again on" />}
        </>
      )}
    </DeskForm>
  );
}

/** One contact. */
function Contact({ contact, mayWork, again }: { contact: ContactRow; mayWork: boolean; again: () => void }) {
  const { run } = useAct();
  const { promise } = contact;
  return (
    <div className={css.contact}>
      <span className={contact.voided ? css.voided : undefined}>
        <strong>{formatDate(contact.day)}</strong> · {CONTACT_KINDS[contact.kind]}
        {contact.direction === 'in' ? ' of theirs' : ''}
        {contact.whom && ` with ${contact.whom}`}: {OUTCOMES[contact.outcome]}
      </span>{' '}
      <span className="quiet small">{contact.by}</span>
      {promise && (
        <p>
          {formatMoneyPlain(promise.amount)} by {formatDate(promise.by)}
          {promise.paid > 0 && `, ${formatMoneyPlain(promise.paid)} paid since`}{' '}
          <Tag tone={promise.state === 'broken' ? 'stop' : 'plain'}>{PROMISES[promise.state]}</Tag>
          {promise.why && <span className="quiet small"> {promise.why}</span>}
        </p>
      )}
      {contact.said && <p>{contact.said}</p>}
      {contact.againOn && <p className="quiet small">Try again on {formatDate(contact.againOn)}</p>}
      {contact.voided ? (
        <p className="quiet small">Does not count: {contact.voided}</p>
      ) : (
        mayWork && (
          <p>
            <WithReason
              type="text"
              words="Noted by mistake"
              ask="Why it does not count"
              act={async (why) => {
                const done = await run(
                  () => voidContactAction({ contactId: contact.id, why }),
                  'It does not count',
                );
                if (done) again();
                return done;
              }}
            />
            {promise && (promise.state === 'open' || promise.state === 'broken') && (
              <WithReason
                type="text"
                words="Promise taken back"
                ask="Why it is taken back"
                act={async (why) => {
                  const done = await run(
                    () => endPromiseAction({ promiseId: promise.id, why }),
                    'The promise is taken back',
                  );
                  if (done) again();
                  return done;
                }}
              />
            )}
          </p>
        )
      )}
    </div>
  );
}

/** A reduction because somebody cannot pay: asked for with its evidence, decided by a manager. */
function Hardship({
  account,
  mayWork,
  mayDecide,
  again,
}: {
  account: OverdueAccountPage;
  mayWork: boolean;
  mayDecide: boolean;
  again: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const open = account.hardships.some(({ status }) => status === 'asked');
  if (account.hardships.length === 0 && !mayWork) return null;
  return (
    <section aria-label="Hardship" className={css.part}>
      <h3>Cannot pay</h3>
      {account.hardships.map((one) => (
        <Asked key={one.id} one={one} mayDecide={mayDecide} again={again} />
      ))}
      {mayWork && !open && !asking && (
        <Button size="small" onClick={() => setAsking(true)}>
          Ask for a reduction
        </Button>
      )}
      {asking && (
        <DeskForm
          initial={{ size: '', income: '', evidence: '' }}
          along={{ householdId: account.householdId }}
          once
          action={hardshipAction}
          done={again}
          words="Ask for a reduction"
        >
          {(f) => (
            <>
              <Row>
                <f.Text name="size" label="Persons in the household" needed focus />
                <f.Money name="income" label="Income a year" needed />
              </Row>
              <f.Text
                name="evidence"
                label="What shows it"
                needed
                maxLength={500}
                placeholder="tax return of last year"
              />
            </>
          )}
        </DeskForm>
      )}
    </section>
  );
}

/** One asking, and the decision about it. */
function Asked({ one, mayDecide, again }: { one: HardshipRow; mayDecide: boolean; again: () => void }) {
  const { busy, run } = useAct();
  const decide = async (approve: boolean, why: string): Promise<unknown> => {
    const done = await run(
      (sure) => decideHardshipAction({ hardshipId: one.id, approve, why, seen: one.amount, ...sure }),
      (amount) => (approve ? `${formatMoneyPlain(amount)} came off` : 'Refused'),
    );
    if (done) again();
    return done;
  };
  return (
    <div className={css.contact}>
      {formatDate(one.askedOn)}: {one.size} persons, {formatMoneyPlain(one.income)} a year, {one.share} % of
      the level of {one.year}: {one.reduction / 100} %, {formatMoneyPlain(one.amount)} <Tag>{one.status}</Tag>
      <p className="quiet small">
        {one.evidence} · {one.askedBy}
        {one.decidedBy && ` · ${one.decidedBy}: ${one.decidedWhy}`}
      </p>
      {one.status === 'asked' && mayDecide && (
        <p>
          <Button
            size="small"
            type="primary"
            loading={busy}
            disabled={one.amount === 0}
            onClick={() => void decide(true, '')}
          >
            Approve, take {formatMoneyPlain(one.amount)} off
          </Button>{' '}
          <WithReason words="Refuse" ask="Why it is refused" act={(why) => decide(false, why)} />
        </p>
      )}
    </div>
  );
}
