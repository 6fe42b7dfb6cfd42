'use client';
/** What can be done with a receipt and its tenders: taken back, put right, moved, asked about. */
import { App, Button, Checkbox, Input, Select } from 'antd';
import { useState } from 'react';
import { TENDERS, TENDER_NAMES, TENDER_STATE_WORDS, type Tender } from '../../../../../core/payments/tenders';
import type { AccountReceipt, AccountTender } from '../../../../../server/accounts/receipts';
import { WithReason, useAct, useOnce } from '../../../../../ui/act';
import { Money } from '../../../../../ui/figures';
import { PersonField } from '../../../../../ui/person-field';
import {
  askAgainAction,
  correctTenderAction,
  emailReceiptAction,
  moveReceiptAction,
  returnTenderAction,
  reverseReceiptAction,
  takeAgainAction,
  voidCardAction,
} from '../../../payments/actions';
import css from '../account.module.css';

/** Asks the terminal what came of a card. */
export function AskTerminal({ attemptId }: { attemptId: number }) {
  const { message } = App.useApp();
  const { busy, run } = useAct();
  return (
    <Button
      size="small"
      loading={busy}
      onClick={() =>
        void run(() => askAgainAction({ attemptId })).then(
          (done) => done && void message.info(done.value.words),
        )
      }
    >
      Ask the terminal again
    </Button>
  );
}

/** Sends a receipt by e-mail, as often as somebody asks for it. */
export function EmailReceipt({ receiptId }: { receiptId: number }) {
  const { message } = App.useApp();
  const { busy, run } = useAct();
  const press = useOnce();
  return (
    <>
      {' '}
      ·{' '}
      <Button
        size="small"
        loading={busy}
        onClick={() =>
          void run(() => emailReceiptAction({ receiptId, key: press.key() })).then((done) => {
            if (!done) return;
            press.next();
            void message.info(`It goes to ${done.value}`);
          })
        }
      >
        E-mail it
      </Button>
    </>
  );
}

/** A check or a debit that came back: why, whether the charge for it goes on the account, whether checks are taken still. */
function CameBack({ tender }: { tender: AccountTender }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [open, setOpen] = useState(false);
  const [why, setWhy] = useState('');
  const isCheck = tender.tender === 'check';
  const [fee, setFee] = useState(tender.tender !== 'card' && tender.tender !== 'transfer');
  const [noChecks, setNoChecks] = useState(false);
  const contested = tender.tender === 'card';
  const bears = tender.tender === 'check' || tender.tender === 'bank';
  if (!open)
    return (
      <Button size="small" danger onClick={() => setOpen(true)}>
        {contested ? 'Contested by its holder' : 'Came back'}
      </Button>
    );
  const save = async (): Promise<void> => {
    if (busy || why.trim() === '') return;
    const done = await run(
      () =>
        returnTenderAction({
          tenderId: tender.id,
          why,
          fee: bears && fee,
          noChecks: isCheck && noChecks,
          key: press.key(),
        }),
      contested ? 'Taken out; a follow-up answers it' : 'It came back; what it paid is open again',
    );
    if (done) press.next();
  };
  return (
    <span className={css.refund} role="group" aria-label={contested ? 'Contested' : 'Came back'}>
      <Input
        autoFocus
        size="small"
        aria-label="Why did it come back?"
        placeholder="Why did it come back?"
        value={why}
        onChange={(event) => setWhy(event.target.value)}
        onPressEnter={() => void save()}
      />
      {bears && (
        <Checkbox checked={fee} onChange={(event) => setFee(event.target.checked)}>
          Charge for it
        </Checkbox>
      )}
      {isCheck && (
        <Checkbox checked={noChecks} onChange={(event) => setNoChecks(event.target.checked)}>
          No more checks
        </Checkbox>
      )}
      <Button size="small" danger loading={busy} disabled={why.trim() === ''} onClick={() => void save()}>
        {contested ? 'It is contested' : 'It came back'}
      </Button>
      <Button size="small" onClick={() => setOpen(false)}>
        Leave it
      </Button>
    </span>
  );
}

/** What a tender truly was. */
function PutRight({ tender }: { tender: AccountTender }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState<Tender>(tender.tender);
  const [reference, setReference] = useState('');
  const [why, setWhy] = useState('');
  if (!open)
    return (
      <Button size="small" onClick={() => setOpen(true)}>
        Put right
      </Button>
    );
  const missing = why.trim() === '' || (TENDERS[kind].needed && reference.trim() === '');
  const save = async (): Promise<void> => {
    if (busy || missing) return;
    const done = await run(
      () => correctTenderAction({ tenderId: tender.id, tender: kind, reference, why, key: press.key() }),
      'Put right; what it paid stays',
    );
    if (done) press.next();
  };
  return (
    <span className={css.refund} role="group" aria-label="Put right">
      <Select
        size="small"
        aria-label="It was"
        value={kind}
        onChange={setKind}
        className={css.kind}
        options={TENDER_NAMES.filter((name) => name !== 'card').map((value) => ({
          value,
          label: TENDERS[value].words,
        }))}
      />
      <Input
        autoFocus
        size="small"
        aria-label={`${TENDERS[kind].reference}, put right`}
        placeholder={TENDERS[kind].reference}
        value={reference}
        onChange={(event) => setReference(event.target.value)}
      />
      <Input
        size="small"
        aria-label="What was wrong?"
        placeholder="What was wrong?"
        value={why}
        onChange={(event) => setWhy(event.target.value)}
        onPressEnter={() => void save()}
      />
      <Button size="small" loading={busy} disabled={missing} onClick={() => void save()}>
        Put it right
      </Button>
      <Button size="small" onClick={() => setOpen(false)}>
        Leave it
      </Button>
    </span>
  );
}

/** Moves a receipt to the account whose it is. */
function MoveReceipt({ receiptId }: { receiptId: number }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState<number | null>(null);
  const [why, setWhy] = useState('');
  if (!open)
    return (
      <Button size="small" onClick={() => setOpen(true)}>
        Move to another account
      </Button>
    );
  const save = async (): Promise<void> => {
    if (busy || to === null || why.trim() === '') return;
    const done = await run(
      (sure) => moveReceiptAction({ ...sure, receiptId, toHouseholdId: to, why, key: press.key() }),
      'Moved; all of it is credit there',
    );
    if (done) press.next();
  };
  return (
    <span className={css.refund} role="group" aria-label="Move to another account">
      {to === null ? (
        <PersonField
          id={`move-${receiptId}`}
          label="Whose it is …"
          choose={(href) => setTo(Number(/\/accounts\/(\d+)/.exec(href)?.[1]))}
        />
      ) : (
        <span>To account {to}</span>
      )}
      <Input
        size="small"
        aria-label="Why is it moved?"
        placeholder="Why is it moved?"
        value={why}
        onChange={(event) => setWhy(event.target.value)}
        onPressEnter={() => void save()}
      />
      <Button
        size="small"
        loading={busy}
        disabled={to === null || why.trim() === ''}
        onClick={() => void save()}
      >
        Move it
      </Button>
      <Button size="small" onClick={() => setOpen(false)}>
        Leave it
      </Button>
    </span>
  );
}

/** One tender of a receipt, with what became of it and what can be done. */
export function TenderLine({
  tender,
  mayReverse,
  today,
}: {
  tender: AccountTender;
  mayReverse: boolean;
  today: string;
}) {
  const { message } = App.useApp();
  const { run } = useAct();
  const press = useOnce();
  const { state } = tender;
  return (
    <span>
      {tender.how} <Money cents={tender.amount} />
      {tender.surcharge !== 0 && (
        <>
          {' '}
          and <Money cents={tender.surcharge} /> surcharge
        </>
      )}
      {tender.corrected ? ', put right since' : state !== 'taken' && `, ${TENDER_STATE_WORDS[state]}`}
      {tender.reason !== '' && `: ${tender.reason}`}{' '}
      {tender.attempt && <AskTerminal attemptId={tender.attempt.id} />}
      {mayReverse && state === 'taken' && tender.amount > 0 && !tender.attempt && (
        <>
          {tender.byTerminal && tender.approvedOn === today && (
            <WithReason
              words="Take back at the terminal"
              ask="Why is it taken back?"
              danger
              act={(why) =>
                run(() => voidCardAction({ tenderId: tender.id, why, key: press.key() })).then((done) => {
                  if (done) {
                    press.next();
                    void message.info(done.value.words);
                  }
                  return done;
                })
              }
            />
          )}{' '}
          {tender.tender !== 'cash' && tender.tender !== 'voucher' && <CameBack tender={tender} />}{' '}
          {!tender.byTerminal && <PutRight tender={tender} />}
        </>
      )}
      {mayReverse && state === 'returned' && (
        <WithReason
          words="It is there after all"
          ask="How is it there after all?"
          act={(why) =>
            run(
              () => takeAgainAction({ tenderId: tender.id, why, key: press.key() }),
              'It is credit again',
            ).then((done) => {
              if (done) press.next();
              return done;
            })
          }
        />
      )}
    </span>
  );
}

/** What can be done with a receipt as a whole. */
export function ReceiptActs({ receipt }: { receipt: AccountReceipt }) {
  const { run } = useAct();
  // What a terminal has charged is taken back or given back there.
  const charged = receipt.tenders.some(({ byTerminal, state }) => byTerminal && state === 'taken');
  return (
    <>
      {!charged && (
        <WithReason
          words="Reverse receipt"
          ask="Why is it reversed?"
          danger
          act={(why) =>
            run(
              () => reverseReceiptAction({ receiptId: receipt.id, why }),
              'Receipt reversed; its charges are open again',
            )
          }
        />
      )}{' '}
      {!receipt.refund && <MoveReceipt receiptId={receipt.id} />}
    </>
  );
}
