'use client';
import { App, Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import {
  type Cents,
  ZERO,
  add,
  formatMoneyPlain,
  least,
  minus,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import { surchargeBack } from '../../../../core/payments/surcharge';
import { spreadInOrder } from '../../../../core/payments/spread';
import { TENDERS, TENDER_NAMES, type Tender } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import { formatDate } from '../../../../core/calendar';
import type { AccountTender } from '../../../../server/accounts/receipts';
import type { AccountPage } from '../../../../server/account-page/read';
import { useAct, useOnce } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { PersonField } from '../../../../ui/person-field';
import { LineTable } from '../../../../ui/line-table';
import { giveBackAction, spendCreditAction, transferCreditAction } from '../../payments/actions';
import css from './account.module.css';

type Receipt = AccountPage['receipts'][number];

const moneyOf = (text: string | undefined): Cents => parseMoney(text ?? '') ?? ZERO;
const filled = (parts: Readonly<Record<number, string>>): Record<string, string> =>
  Object.fromEntries(Object.entries(parts).filter(([, part]) => moneyOf(part) !== 0));

/** What is held as credit: what it is used for, or that it goes back. */
export function CreditDrawer({
  account,
  mayRefund,
  onClose,
}: {
  account: AccountPage;
  mayRefund: boolean;
  onClose: () => void;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const apart = account.confidential.map(({ patientId }) => patientId);
  const ownerOf = ({ patientId }: Receipt): number =>
    patientId !== null && apart.includes(patientId) ? patientId : 0;
  const all = account.receipts.filter(({ left }) => left > 0);
  const [owner, setOwner] = useState(all.some((one) => ownerOf(one) === 0) ? 0 : (apart[0] ?? 0));
  const held = all.filter((one) => ownerOf(one) === owner);
  // What is reserved for a visit to come pays nothing else.
  const free = (receipts: readonly Receipt[]): Cents =>
    sum(receipts.filter(({ reservedFor }) => reservedFor === null).map(({ left }) => left));
  const credit = free(held);
  const openOf = (of: number) => account.open.filter((charge) => (charge.apart ?? 0) === of);
  const open = openOf(owner);
  const plans = owner === 0 ? account.plans.filter(({ status }) => status === 'accepted') : [];
  const placement = owner === 0 && account.placement?.proposed === false ? account.placement : null;
  const proposed = (of: number): Record<number, string> =>
    Object.fromEntries(
      spreadInOrder(free(all.filter((one) => ownerOf(one) === of)), openOf(of)).parts.map(
        ({ id, amount }) => [id, toDecimal(amount)],
      ),
    );
  const [parts, setParts] = useState(() => proposed(owner));
  const [forPlans, setForPlans] = useState<Record<number, string>>({});
  const [forAgency, setForAgency] = useState('');
  const [back, setBack] = useState<Receipt | null>(null);
  const [elsewhere, setElsewhere] = useState<Receipt | null>(null);
  const used = add(
    sum([...Object.values(parts), ...Object.values(forPlans)].map(moneyOf)),
    placement ? moneyOf(forAgency) : ZERO,
  );
  const fault =
    used > credit
      ? `${formatMoneyPlain(credit)} is held, less than ${formatMoneyPlain(used)}`
      : used === 0
        ? 'Say what it is used for'
        : '';
  const save = async (): Promise<void> => {
    if (fault || busy) return;
    const done = await run(
      () =>
        spendCreditAction({
          householdId: account.household.id,
          patientId: owner || null,
          parts: filled(parts),
          plans: filled(forPlans),
          agency: placement ? forAgency : null,
          key: press.key(),
        }),
      (amount) => `${formatMoneyPlain(amount)} of credit used`,
    );
    if (!done) return;
    press.next();
    onClose();
  };
  return (
    <DeskDrawer
      size={760}
      title={`Credit of ${account.household.first} ${account.household.last}`}
      onClose={onClose}
      footer={
        <div className={css.foot}>
          <Button type="primary" loading={busy} disabled={fault !== ''} onClick={() => void save()}>
            Use {formatMoneyPlain(used)}
          </Button>
          <span className="quiet">{fault || `${formatMoneyPlain(minus(credit, used))} stays as credit`}</span>
        </div>
      }
    >
      {apart.length > 0 && (
        <Segmented
          aria-label="Whose credit"
          className={css.together}
          value={owner}
          onChange={(value) => {
            setOwner(value);
            setParts(proposed(value));
            setForPlans({});
            setForAgency('');
            setBack(null);
          }}
          options={[
            { value: 0, label: 'The household’s' },
            ...account.confidential.map(({ patientId, patient }) => ({
              value: patientId,
              label: `${patient}’s own, kept apart`,
            })),
          ]}
        />
      )}
      <LineTable
        label="What is held"
        rows={held}
        rowKey={(row) => String(row.id)}
        empty="Nothing is held as credit"
        words={counted(held.length, 'receipt')}
        columns={[
          { key: 'date', title: 'Date', width: 96, render: (row) => <Day date={row.date} /> },
          {
            key: 'how',
            title: 'Came by',
            render: (row) =>
              [
                row.how,
                row.reservedFor !== null && `reserved for the visit of ${formatDate(row.reservedFor)}`,
                row.askedBack !== null &&
                  `${formatMoneyPlain(row.askedBack)} is asked back and waits for a manager`,
              ]
                .filter(Boolean)
                .join(', '),
          },
          { key: 'amount', title: 'Amount', width: 92, money: (row) => row.amount },
          { key: 'left', title: 'Held', width: 92, money: (row) => row.left, sum: true },
          ...(mayRefund
            ? [
                {
                  key: 'acts',
                  title: '',
                  width: 230,
                  render: (row: Receipt) =>
                    row.from === null && (
                      <>
                        <Button size="small" onClick={() => setBack(row)}>
                          Give back
                        </Button>{' '}
                        {row.reservedFor === null && (
                          <Button size="small" onClick={() => setElsewhere(row)}>
                            To another account
                          </Button>
                        )}
                      </>
                    ),
                },
              ]
            : []),
        ]}
      />
      {back && <Refund key={back.id} receipt={back} onDone={onClose} />}
      {elsewhere && (
        <Elsewhere
          key={elsewhere.id}
          receipt={elsewhere}
          householdId={account.household.id}
          onDone={onClose}
        />
      )}
      {plans.map((plan) => (
        <label key={plan.id} className={css.plan}>
          <span>
            To plan {plan.number}: {formatMoneyPlain(plan.due)} due, {formatMoneyPlain(plan.left)} left
          </span>
          <MoneyInput
            small
            label={`Credit to plan ${plan.number}`}
            value={forPlans[plan.id] ?? ''}
            onChange={(value) => setForPlans({ ...forPlans, [plan.id]: value })}
            onEnter={() => void save()}
          />
        </label>
      ))}
      {placement && (
        <label className={css.plan}>
          <span>
            To what is with {placement.agency}: {formatMoneyPlain(placement.open)} open. It is told, and its
            fee is owed.
          </span>
          <MoneyInput
            small
            label="Credit to what is with the agency"
            value={forAgency}
            onChange={setForAgency}
            onEnter={() => void save()}
          />
        </label>
      )}
      <LineTable
        label="What it pays"
        rows={open}
        rowKey={(row) => String(row.id)}
        empty="Nothing is owed now"
        words={counted(open.length, 'open charge')}
        columns={[
          { key: 'date', title: 'Date', width: 96, render: (row) => <Day date={row.date} /> },
          { key: 'who', title: 'Who', width: 80, render: (row) => row.patient },
          { key: 'service', title: 'Service', render: (row) => row.description },
          { key: 'owed', title: 'Owed', width: 84, money: (row) => row.owed, sum: true },
          {
            key: 'pays',
            title: 'Pays',
            width: 100,
            money: (row) => moneyOf(parts[row.id]),
            sum: true,
            render: (row) => (
              <MoneyInput
                small
                label={`Credit for ${row.description}`}
                value={parts[row.id] ?? ''}
                onChange={(value) => setParts({ ...parts, [row.id]: value })}
                onEnter={() => void save()}
              />
            ),
          },
          {
            key: 'left',
            title: 'Left',
            width: 84,
            money: (row) => minus(row.owed, moneyOf(parts[row.id])),
            sum: true,
          },
        ]}
      />
    </DeskDrawer>
  );
}

/** Puts what is held of one receipt on another account, where it is credit. */
function Elsewhere({
  receipt,
  householdId,
  onDone,
}: {
  receipt: Receipt;
  householdId: number;
  onDone: () => void;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [text, setText] = useState(toDecimal(receipt.left));
  const [to, setTo] = useState<number | null>(null);
  const [why, setWhy] = useState('');
  const amount = parseMoney(text);
  const fault =
    amount === null || amount <= 0
      ? 'Enter the amount'
      : amount > receipt.left
        ? `${formatMoneyPlain(receipt.left)} of it is held`
        : to === null
          ? 'Say whose account'
          : why.trim() === ''
            ? 'Say why it goes there'
            : '';
  const save = async (): Promise<void> => {
    if (fault || busy || to === null) return;
    const done = await run(
      (sure) =>
        transferCreditAction({
          ...sure,
          receiptId: receipt.id,
          fromHouseholdId: householdId,
          toHouseholdId: to,
          amount: text,
          why,
          key: press.key(),
        }),
      'It is credit of the other account',
    );
    if (!done) return;
    press.next();
    onDone();
  };
  return (
    <div className={css.refund} role="group" aria-label="To another account">
      <label>
        <span>How much</span>
        <MoneyInput
          label="How much goes there"
          focus
          value={text}
          className={css.amount}
          onChange={setText}
        />
      </label>
      <PersonField
        id={`credit-to-${receipt.id}`}
        label="To whose account …"
        choose={(href) => setTo(Number(/\/accounts\/(\d+)/.exec(href)?.[1]))}
      />
      <label className={css.why}>
        <span>Why</span>
        <Input
          aria-label="Why it goes there"
          value={why}
          onChange={(event) => setWhy(event.target.value)}
          onPressEnter={() => void save()}
        />
      </label>
      <Button loading={busy} disabled={fault !== ''} onClick={() => void save()}>
        Put it there
      </Button>
      <span className="quiet small">{fault}</span>
    </div>
  );
}

/** How what came by a tender may go back: as it came, a card by its terminal alone; otherwise also by check. */
const waysBack = (tender: AccountTender | undefined): Tender[] =>
  tender === undefined || tender.tender === 'card'
    ? tender === undefined
      ? ['transfer', 'check']
      : ['card']
    : TENDER_NAMES.filter(
        (name) =>
          name === tender.tender || name === 'check' || (tender.tender === 'bank' && name === 'transfer'),
      );

/** Gives what is held of one receipt back, to the tender that it came with. */
function Refund({ receipt, onDone }: { receipt: Receipt; onDone: () => void }) {
  const { busy, run } = useAct();
  const { message } = App.useApp();
  const press = useOnce();
  const tenders = receipt.tenders.filter(({ state, left }) => state === 'taken' && left > 0);
  const [tenderId, setTenderId] = useState(tenders[0]?.id ?? null);
  const of = tenders.find(({ id }) => id === tenderId);
  const most = of ? least(of.left, receipt.left) : receipt.left;
  const [text, setText] = useState(toDecimal(most));
  const [tender, setTender] = useState<Tender>(waysBack(of)[0]!);
  const [reference, setReference] = useState('');
  const [why, setWhy] = useState('');
  const amount = parseMoney(text);
  const byTerminal = tender === 'card' && of?.byTerminal === true;
  const fault =
    amount === null || amount <= 0
      ? 'Enter the amount'
      : amount > most
        ? `${formatMoneyPlain(most)} of it ${most < receipt.left ? 'can go back by this' : 'is held'}`
        : TENDERS[tender].needed && !byTerminal && reference.trim() === ''
          ? `${TENDERS[tender].reference} is missing`
          : why.trim() === ''
            ? 'Say why it is given back'
            : '';
  const back =
    of && amount !== null && amount > 0 && amount <= of.left && of.surcharge > 0
      ? surchargeBack(amount, of, {
          amount: minus(of.amount, of.left),
          surcharge: surchargeBack(minus(of.amount, of.left), of, { amount: ZERO, surcharge: ZERO }),
        })
      : ZERO;
  const save = async (): Promise<void> => {
    if (fault || busy) return;
    const done = await run(
      (sure) =>
        giveBackAction({
          ...sure,
          receiptId: receipt.id,
          tenderId,
          amount: text,
          tender,
          reference,
          why,
          seen: receipt.left,
          key: press.key(),
        }),
      ({ card, refundId }) =>
        refundId === null
          ? `${formatMoneyPlain(amount ?? ZERO)} is above what you may give back: it waits for a manager`
          : card
            ? ''
            : `${formatMoneyPlain(amount ?? ZERO)} given back`,
    );
    if (!done) return;
    press.next();
    const { card } = done.value;
    if (card)
      void message[card.state === 'approved' ? 'success' : 'warning']({ content: card.words, duration: 6 });
    onDone();
  };
  return (
    <div className={css.refund} role="group" aria-label="Give back">
      {tenders.length > 1 && (
        <Segmented
          aria-label="Of which tender"
          value={tenderId ?? 0}
          onChange={(value) => {
            const next = tenders.find(({ id }) => id === value);
            setTenderId(value);
            setTender(waysBack(next)[0]!);
            setText(toDecimal(next ? least(next.left, receipt.left) : receipt.left));
          }}
          options={tenders.map(({ id, how, left }) => ({
            value: id,
            label: `${how}, ${formatMoneyPlain(left)}`,
          }))}
        />
      )}
      <label>
        <span>Given back</span>
        <MoneyInput label="Given back" focus value={text} className={css.amount} onChange={setText} />
      </label>
      <Segmented
        aria-label="Goes back by"
        value={tender}
        onChange={setTender}
        options={waysBack(of).map((value) => ({
          value,
          label: TENDERS[value].words,
        }))}
      />
      {!byTerminal && (
        <label>
          <span>{TENDERS[tender].reference}</span>
          <Input
            aria-label={`${TENDERS[tender].reference} of what goes back`}
            value={reference}
            className={css.amount}
            onChange={(event) => setReference(event.target.value)}
          />
        </label>
      )}
      <label className={css.why}>
        <span>Why</span>
        <Input
          aria-label="Why it is given back"
          value={why}
          onChange={(event) => setWhy(event.target.value)}
          onPressEnter={() => void save()}
        />
      </label>
      <Button loading={busy} disabled={fault !== ''} onClick={() => void save()}>
        Give back {amount !== null && amount > 0 ? formatMoneyPlain(add(amount, back)) : ''}
      </Button>
      <span className="quiet small">
        {fault || (back > 0 ? `with ${formatMoneyPlain(back)} of the surcharge` : '')}
      </span>
    </div>
  );
}
