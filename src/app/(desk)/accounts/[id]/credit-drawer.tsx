'use client';
import { Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import {
  type Cents,
  ZERO,
  add,
  formatMoneyPlain,
  minus,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import { spreadInOrder } from '../../../../core/payments/spread';
import { TENDERS, TENDER_NAMES, type Tender } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/account-page/read';
import { useAct, useOnce } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { LineTable } from '../../../../ui/line-table';
import { refundCreditAction, spendCreditAction } from '../../payments/actions';
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
  const credit = sum(held.map(({ left }) => left));
  const openOf = (of: number) => account.open.filter((charge) => (charge.apart ?? 0) === of);
  const open = openOf(owner);
  const plans = owner === 0 ? account.plans.filter(({ status }) => status === 'accepted') : [];
  const placement = owner === 0 && account.placement?.proposed === false ? account.placement : null;
  const proposed = (of: number): Record<number, string> =>
    Object.fromEntries(
      spreadInOrder(
        sum(all.filter((one) => ownerOf(one) === of).map(({ left }) => left)),
        openOf(of),
      ).parts.map(({ id, amount }) => [id, toDecimal(amount)]),
    );
  const [parts, setParts] = useState(() => proposed(owner));
  const [forPlans, setForPlans] = useState<Record<number, string>>({});
  const [forAgency, setForAgency] = useState('');
  const [back, setBack] = useState<Receipt | null>(null);
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
      size={640}
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
            render: (row) => `${TENDERS[row.tender].words} ${row.reference}`.trim(),
          },
          { key: 'amount', title: 'Amount', width: 92, money: (row) => row.amount },
          { key: 'left', title: 'Held', width: 92, money: (row) => row.left, sum: true },
          ...(mayRefund
            ? [
                {
                  key: 'acts',
                  title: '',
                  width: 92,
                  render: (row: Receipt) =>
                    row.from === null && (
                      <Button size="small" onClick={() => setBack(row)}>
                        Give back
                      </Button>
                    ),
                },
              ]
            : []),
        ]}
      />
      {back && <Refund key={back.id} receipt={back} onDone={onClose} />}
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

/** Gives what is held of one receipt back. */
function Refund({ receipt, onDone }: { receipt: Receipt; onDone: () => void }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [text, setText] = useState(toDecimal(receipt.left));
  const [tender, setTender] = useState<Tender>(receipt.tender);
  const [reference, setReference] = useState('');
  const [why, setWhy] = useState('');
  const amount = parseMoney(text);
  const fault =
    amount === null || amount <= 0
      ? 'Enter the amount'
      : amount > receipt.left
        ? `${formatMoneyPlain(receipt.left)} of it is held`
        : TENDERS[tender].needed && reference.trim() === ''
          ? `${TENDERS[tender].reference} is missing`
          : why.trim() === ''
            ? 'Say why it is given back'
            : '';
  const save = async (): Promise<void> => {
    if (fault || busy) return;
    const done = await run(
      (sure) =>
        refundCreditAction({
          ...sure,
          receiptId: receipt.id,
          amount: text,
          tender,
          reference,
          why,
          seen: receipt.left,
          key: press.key(),
        }),
      `${formatMoneyPlain(amount ?? ZERO)} given back`,
    );
    if (!done) return;
    press.next();
    onDone();
  };
  return (
    <div className={css.refund} role="group" aria-label="Give back">
      <label>
        <span>Given back</span>
        <MoneyInput label="Given back" focus value={text} className={css.amount} onChange={setText} />
      </label>
      <Segmented
        aria-label="Goes back by"
        value={tender}
        onChange={setTender}
        options={TENDER_NAMES.filter((name) => name === receipt.tender || name === 'check').map((value) => ({
          value,
          label: TENDERS[value].words,
        }))}
      />
      <label>
        <span>{TENDERS[tender].reference}</span>
        <Input
          aria-label={`${TENDERS[tender].reference} of what goes back`}
          value={reference}
          className={css.amount}
          onChange={(event) => setReference(event.target.value)}
        />
      </label>
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
        Give back {amount !== null && amount > 0 ? formatMoneyPlain(amount) : ''}
      </Button>
      <span className="quiet small">{fault}</span>
    </div>
  );
}
