'use client';
import { Link } from '../../../../../ui/link';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain, toDecimal } from '../../../../../core/money';
import { PAYS } from '../../../../../core/overdue/agency';
import { CONTACT_KINDS, OUTCOMES } from '../../../../../core/overdue/contacts';
import type { PlacementPage } from '../../../../../server/overdue/placement-page';
import { WithReason, useAct, useOnce } from '../../../../../ui/act';
import type { Act } from '../../../../../ui/acts';
import { useMay } from '../../../../../ui/desk';
import { useDialog } from '../../../../../ui/dialog';
import { Day, Figure, Figures, Money } from '../../../../../ui/figures';
import { FormDrawer } from '../../../../../ui/form';
import { Notice, Panel } from '../../../../../ui/page';
import { Thing } from '../../../../../ui/thing';
import { DeskTable } from '../../../../../ui/table';
import { BadDebtForm } from '../../bad-debt-form';
import { Tag } from '../../../../../ui/tag';
import {
  agencyMoneyAction,
  approveAction,
  recallAction,
  recoverAction,
  releaseAction,
  reverseAgencyMoneyAction,
  withdrawAction,
} from '../../actions';
import css from '../../overdue.module.css';

/** A placement: what a manager decides by, and what came of it. */
export function PlacementView({ placement: p, today }: { placement: PlacementPage; today: string }) {
  const { dialog, open, close } = useDialog();
  const { acts, beside } = useActs(p, open);
  return (
    <Thing
      title={`Placement ${p.number}`}
      note={`${p.guarantor} · ${p.account} · ${p.agency}`}
      back={{ href: '/overdue/placements', words: 'back to the placements' }}
      acts={acts}
      beside={beside}
    >
      <p>
        <Tag tone={(p.disputed && !p.endedOn) || p.heldWhy ? 'look' : 'plain'}>
          {p.heldWhy ? 'held back' : p.state}
          {p.disputed && !p.endedOn ? ', disputed' : ''}
        </Tag>{' '}
        <span className="quiet">
          {/* The tag says it already where nothing else has happened yet. */}
          {p.status === 'proposed' && !p.heldWhy ? '' : 'proposed '}
          {formatDate(p.proposedOn)} by {p.proposedBy}: {p.why}
          {p.placedOn && ` · handed over ${formatDate(p.placedOn)}, approved by ${p.approvedBy}`} · its part{' '}
          {p.contingency / 100} % · hands over {PAYS[p.pays]}
          {p.reach && ` · ${p.reach}`}
        </span>
      </p>
      {p.heldWhy && (
        <Notice>
          The agency was told nothing yet: {p.heldWhy}. Lift what stops it, recall it, or hand it over all the
          same.
        </Notice>
      )}
      {p.endedOn && (
        <Notice>
          {p.state} on {formatDate(p.endedOn)}: {p.endedWhy}
        </Notice>
      )}
      <Figures label="Where it stands">
        <Figure words={p.status === 'proposed' ? 'Would be handed over' : 'Handed over'} cents={p.amount} />
        <Figure words="Collected" cents={p.collected} />
        <Figure words="With the agency" cents={p.open} owed id="open" />
        <Figure words="Fee" cents={p.fee} />
        <Figure words="Fee owed" cents={p.feeOwed} />
        <Figure words="With the patient" cents={p.withPatient} id="patient" />
        <Figure words="Given up" cents={p.givenUp} />
      </Figures>
      <div className={css.two}>
        <Evidence placement={p} />
      </div>
      {dialog === 'money' && (
        <FormDrawer
          title={`Payment of ${p.agency}`}
          initial={{ gross: toDecimal(p.open), fee: '', reference: '', paidOn: today }}
          along={{ placementId: p.id }}
          once
          action={agencyMoneyAction}
          done={close}
          words="Book it"
          onClose={close}
        >
          {(f) => (
            <>
              <f.Money name="gross" label="Collected" needed focus />
              <f.Money name="fee" label="Its fee" hint={`Empty: ${p.contingency / 100} % by the contract`} />
              <f.Text name="reference" label="Reference" needed maxLength={60} />
              <f.Date name="paidOn" label="Paid on" needed />
            </>
          )}
        </FormDrawer>
      )}
      {dialog === 'bad-debt' && (
        <BadDebtForm householdId={p.householdId} withPatient={p.withPatient} close={close} />
      )}
    </Thing>
  );
}

/** What can be done with it now: its acts, and those that need a reason. */
function useActs(
  p: PlacementPage,
  open: (name: string) => void,
): { acts: (Act | false)[]; beside: React.ReactNode } {
  const may = useMay();
  const { busy, run } = useAct();
  const press = useOnce();
  const handed = p.status === 'placed' || p.status === 'accepted';
  const recover = async (): Promise<void> => {
    const done = await run(
      () => recoverAction({ householdId: p.householdId, key: press.key() }),
      (amount) => `${formatMoneyPlain(amount)} recovered`,
    );
    if (done) press.next();
  };
  const approves = may('approve placements');
  const acts: (Act | false)[] = [
    p.status === 'proposed' &&
      approves && {
        words: `Approve, hand over ${formatMoneyPlain(p.amount)}`,
        key: 's',
        kind: 'money',
        rank: 'main',
        busy,
        does: () =>
          void run((sure) => approveAction({ placementIds: [p.id], seen: p.amount, ...sure }), 'Handed over'),
      },
    p.heldWhy !== '' &&
      approves && {
        words: 'Hand over all the same',
        key: 'h',
        kind: 'money',
        rank: 'main',
        busy,
        does: () =>
          void run(
            (sure) => releaseAction({ placementId: p.id, ...sure }),
            'It goes to the agency with the next round',
          ),
      },
    handed &&
      may('post agency money') && {
        words: 'Book a payment of theirs',
        key: 'b',
        kind: 'money',
        rank: 'often',
        does: () => open('money'),
      },
    handed &&
      may('take payments') && {
        words: 'Take a payment',
        key: 'p',
        kind: 'money',
        rank: 'often',
        does: { href: `/accounts/${p.householdId}?show=payment` },
      },
    p.endedOn !== null &&
      p.withPatient > 0 &&
      approves && {
        words: 'Give up as bad debt',
        key: 'd',
        kind: 'money',
        rank: 'often',
        does: () => open('bad-debt'),
      },
    p.givenUp > 0 &&
      p.credit > 0 &&
      may('take payments') && {
        words: `Apply ${formatMoneyPlain(p.credit)} of credit to what was given up`,
        key: 'c',
        kind: 'money',
        rank: 'waits',
        busy,
        does: () => void recover(),
      },
    {
      words: 'Account',
      key: 'o',
      kind: 'record',
      rank: 'often',
      does: { href: `/accounts/${p.householdId}` },
    },
  ];
  const beside =
    p.status === 'proposed' && may('work overdue') ? (
      <WithReason
        size="middle"
        words="Withdraw"
        ask="Why it is withdrawn"
        act={(why) => run(() => withdrawAction({ placementId: p.id, why }), 'Withdrawn')}
      />
    ) : handed && approves ? (
      <WithReason
        size="middle"
        words="Recall"
        ask="Why it is recalled"
        danger
        act={(why) =>
          run(
            () => recallAction({ placementId: p.id, why }),
            (back) => `Recalled; ${formatMoneyPlain(back)} is the patient’s again`,
          )
        }
      />
    ) : null;
  return { acts, beside };
}

/** The evidence on one page. */
function Evidence({ placement: p }: { placement: PlacementPage }) {
  const may = useMay();
  const { run } = useAct();
  return (
    <>
      <Panel title="Charges">
        <DeskTable<PlacementPage['charges'][number]>
          label="Charges"
          rows={p.charges}
          rowKey={(row) => row.chargeId}
          empty="Nothing of it is past due now"
          columns={[
            { key: 'date', title: 'Date', width: 96, render: (row) => <Day date={row.date} /> },
            {
              key: 'title',
              title: 'Service',
              cut: true,
              render: (row) => (
                <Link
                  href={`/accounts/${p.householdId}?show=story&of=${row.chargeId}`}
                  title="How it came about"
                >
                  {row.title}
                </Link>
              ),
            },
            { key: 'fee', title: 'Fee', width: 80, right: true, render: (row) => <Money cents={row.fee} /> },
            {
              key: 'paid',
              title: 'Paid, off',
              width: 84,
              right: true,
              render: (row) => <Money cents={row.payerPaid + row.patientPaid + row.reduced} />,
            },
            {
              key: 'amount',
              title: 'Amount',
              width: 84,
              right: true,
              render: (row) => <Money cents={row.amount} strong />,
            },
          ]}
        />
      </Panel>
      <Panel title="What was said of it">
        {p.events.map((event, index) => (
          <div key={index} className={css.contact}>
            <strong>{formatDate(event.day)}</strong> · {event.what}
            {event.amount > 0 && ` · ${formatMoneyPlain(event.amount)}`}
            {event.fee > 0 && `, fee ${formatMoneyPlain(event.fee)}`}{' '}
            <span className="quiet small">
              {event.words} · {event.by}
            </span>
          </div>
        ))}
      </Panel>
      {p.payments.length > 0 && (
        <Panel title="Payments while it was handed over" below>
          {p.payments.map((one) => (
            <div key={one.id} className={css.contact}>
              <strong>{formatDate(one.paidOn)}</strong> · {formatMoneyPlain(one.gross)}, fee{' '}
              {formatMoneyPlain(one.fee)} · {one.direct ? 'paid to us' : one.reference}{' '}
              {one.reversed ? (
                <span className="quiet small">reversed: {one.reversed}</span>
              ) : (
                !one.direct &&
                may('reverse entries') && (
                  <WithReason
                    words="Reverse"
                    ask="Why it is reversed"
                    danger
                    act={(why) => run(() => reverseAgencyMoneyAction({ paymentId: one.id, why }), 'Reversed')}
                  />
                )
              )}
            </div>
          ))}
        </Panel>
      )}
      <Panel title="Letters and statements" below>
        {p.letters.length + p.statements.length === 0 && <p className="quiet">None was sent.</p>}
        {p.letters.map((letter) => (
          <div key={letter.pieceId} className={css.contact}>
            <strong>{formatDate(letter.date)}</strong> ·{' '}
            <a href={`/api/pieces/${letter.pieceId}`} target="_blank" rel="noreferrer">
              {letter.stage}
            </a>{' '}
            · {formatMoneyPlain(letter.amount)} <span className="quiet small">{letter.outcome}</span>
          </div>
        ))}
        {p.statements.map((one) => (
          <div key={one.id} className={css.contact}>
            <strong>{formatDate(one.date)}</strong> ·{' '}
            <a href={`/api/statements/${one.id}`} target="_blank" rel="noreferrer">
              Statement
            </a>{' '}
            · {formatMoneyPlain(one.amount)}
          </div>
        ))}
      </Panel>
      <Panel title="Contacts" below>
        {p.contacts.length === 0 && <p className="quiet">Nobody was tried.</p>}
        {p.contacts
          .filter(({ voided }) => voided === '')
          .map((contact) => (
            <div key={contact.id} className={css.contact}>
              <strong>{formatDate(contact.day)}</strong> · {CONTACT_KINDS[contact.kind]}:{' '}
              {OUTCOMES[contact.outcome]}
              {contact.promise &&
                ` ${formatMoneyPlain(contact.promise.amount)} by ${formatDate(contact.promise.by)}`}{' '}
              <span className="quiet small">{contact.said}</span>
            </div>
          ))}
      </Panel>
      <Panel title="Payments of the account" below>
        {p.receipts.length === 0 && <p className="quiet">Nothing was ever paid.</p>}
        {p.receipts.map((one) => (
          <div key={one.id} className={css.contact}>
            <strong>{formatDate(one.date)}</strong> · {one.words} · {formatMoneyPlain(one.amount)}
          </div>
        ))}
      </Panel>
    </>
  );
}
