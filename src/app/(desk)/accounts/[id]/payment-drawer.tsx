'use client';
import { Alert, Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import {
  type Cents,
  ZERO,
  add,
  cents,
  formatMoneyPlain,
  minus,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import { oldestFirst, spreadBeside, spreadByHand } from '../../../../core/payments/spread';
import { TENDERS, TENDER_NAMES, type Tender } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/account-page/read';
import { useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { useDesk } from '../../../../ui/desk';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { LineTable } from '../../../../ui/line-table';
import { envelopeAction, takeReceiptAction } from '../../payments/actions';
import css from './account.module.css';

const given = (parts: Record<string, string>): [string, string][] =>
  Object.entries(parts).filter(([, part]) => part.trim() !== '');

/** What keeps a payment from being taken; empty when nothing does, null when nothing was typed yet. */
function faultOf(text: string, amount: Cents | null, tender: Tender, reference: string): string {
  if (text.trim() === '') return 'Enter the amount';
  if (amount === null) return 'Amount is not an amount such as 12.50';
  if (amount <= 0) return 'Amount must be more than zero';
  if (TENDERS[tender].needed && !reference.trim()) return `${TENDERS[tender].reference} is missing`;
  return '';
}

/** Takes a payment; the effect on each open charge shows before it is saved. */
export function PaymentDrawer({ account, onClose }: { account: AccountPage; onClose: () => void }) {
  const { busy, run } = useAct();
  const [owner, setOwner] = useState<number | null>(null);
  const ownOf = (patientId: number | null) =>
    account.open
      .filter(({ apart }) => patientId === null || apart === patientId)
      .map((charge) => ({ ...charge, account: '' }));
  const own = ownOf(owner);
  const [others, setOthers] = useState<typeof own | null>(null);
  const together = others !== null;
  const open = oldestFirst([...own, ...(others ?? [])]);
  const owed = sum(open.map((charge) => charge.owed));
  // What credit stands against is not asked for again.
  const asked = (lines: typeof own): Cents => sum(lines.map((charge) => charge.left));
  const credit = minus(owed, asked(open));
  const plans = account.plans.filter(({ status }) => status === 'accepted');
  const [forPlans, setForPlans] = useState<Readonly<Record<number, string>>>(
    Object.fromEntries(plans.filter(({ due }) => due > 0).map(({ id, due }) => [id, toDecimal(due)])),
  );
  const onPlans = sum(plans.map(({ id }) => parseMoney(forPlans[id] ?? '') ?? ZERO));
  const placement = account.placement?.proposed === false ? account.placement : null;
  const [forAgency, setForAgency] = useState(placement && asked(own) === 0 ? toDecimal(placement.open) : '');
  const toAgency = placement ? (parseMoney(forAgency) ?? ZERO) : ZERO;
  const aside = add(onPlans, toAgency);
  const [text, setText] = useState(add(asked(own), aside) > 0 ? toDecimal(add(asked(own), aside)) : '');
  /** The amount follows what is asked for and what goes aside, until it is typed. */
  const [typed, setTyped] = useState(false);
  const propose = (lines: typeof own, apart: Cents): void => {
    if (typed) return;
    const all = add(asked(lines), apart);
    setText(all > 0 ? toDecimal(all) : '');
  };
  const setAside = (plan: Readonly<Record<number, string>>, agency: string): void => {
    setForPlans(plan);
    setForAgency(agency);
    propose(
      open,
      add(
        sum(plans.map(({ id }) => parseMoney(plan[id] ?? '') ?? ZERO)),
        placement ? (parseMoney(agency) ?? ZERO) : ZERO,
      ),
    );
  };
  const payTogether = async (yes: boolean): Promise<void> => {
    const read = yes ? await run(() => envelopeAction(account.household.id)) : null;
    if (yes && !read) return;
    const now = read?.value ?? null;
    setOthers(now);
    propose([...own, ...(now ?? [])], aside);
    setParts({});
    setByHand(false);
  };
  const fromCaseId = (patientId: number | null): void => {
    setOwner(patientId);
    setOthers(null);
    propose(ownOf(patientId), aside);
    setParts({});
    setByHand(false);
  };
  const [tender, setTender] = useState<Tender>('check');
  const [reference, setReference] = useState('');
  const { today } = useDesk();
  const [receivedOn, setReceivedOn] = useState<string>(today);
  const [byHand, setByHand] = useState(false);
  const [parts, setParts] = useState<Record<string, string>>({});
  const press = useOnce();
  const amount = parseMoney(text);
  // A part that is no amount is below zero, which the spread refuses.
  const wanted = new Map(given(parts).map(([id, part]) => [Number(id), parseMoney(part) ?? cents(-1)]));
  // What goes to plans and to what is with an agency is not spread over the charges.
  const rest = amount === null ? null : minus(amount, aside);
  const spread =
    amount === null || amount <= 0 || rest === null
      ? null
      : rest < 0
        ? toAgency > 0
          ? 'More goes to what is with the agency than is paid'
          : 'More goes to plans than is paid'
        : byHand
          ? spreadByHand(rest, open, wanted)
          : spreadBeside(rest, open);
  const part = (id: number): Cents =>
    spread && typeof spread !== 'string'
      ? (spread.parts.find((item) => item.id === id)?.amount ?? ZERO)
      : ZERO;
  const fault = faultOf(text, amount, tender, reference) || (typeof spread === 'string' ? spread : '');
  const save = async (): Promise<void> => {
    if (fault || busy) return;
    const done = await run(
      (sure) =>
        takeReceiptAction({
          ...sure,
          owed,
          patientId: owner,
          together,
          plans: Object.fromEntries(
            Object.entries(forPlans).filter(([, part]) => (parseMoney(part) ?? ZERO) !== 0),
          ),
          householdId: account.household.id,
          agency: toAgency > 0 ? forAgency : null,
          amount: text,
          tender,
          reference,
          receivedOn,
          key: press.key(),
          ...(byHand ? { parts: Object.fromEntries(given(parts)) } : {}),
        }),
      `${formatMoneyPlain(amount ?? ZERO)} taken`,
    );
    if (!done) return;
    press.next();
    onClose();
  };
  const byHandNow = (hand: boolean): void => {
    // By hand begins with what was proposed.
    if (hand && spread && typeof spread !== 'string')
      setParts(Object.fromEntries(spread.parts.map((item) => [item.id, toDecimal(item.amount)])));
    setByHand(hand);
  };
  return (
    <DeskDrawer
      size={640}
      title={`Payment from ${account.household.first} ${account.household.last}`}
      onClose={onClose}
      footer={
        <div className={css.foot}>
          <Button type="primary" loading={busy} disabled={fault !== ''} onClick={() => void save()}>
            Take {amount !== null && amount > 0 ? formatMoneyPlain(amount) : 'payment'}
          </Button>
          <span className="quiet">{fault}</span>
        </div>
      }
    >
      <div className={css.payment}>
        <label>
          <span>Amount</span>
          <MoneyInput
            label="Amount"
            focus
            value={text}
            className={css.amount}
            onChange={(value) => {
              // Left as it was, it goes on following.
              if (value !== text) setTyped(true);
              setText(value);
            }}
            onEnter={() => void save()}
          />
        </label>
        <label>
          <span>{TENDERS[tender].reference}</span>
          <Input
            aria-label={TENDERS[tender].reference}
            value={reference}
            className={css.amount}
            onChange={(event) => setReference(event.target.value)}
            onPressEnter={() => void save()}
          />
        </label>
        <label>
          <span>Received</span>
          <DateInput label="Received" value={receivedOn} onChange={setReceivedOn} />
        </label>
        <Segmented
          aria-label="Tender"
          value={tender}
          onChange={setTender}
          options={TENDER_NAMES.map((value) => ({ value, label: TENDERS[value].words }))}
        />
        <Segmented
          aria-label="Spread"
          value={byHand ? 'hand' : 'oldest'}
          onChange={(value) => byHandNow(value === 'hand')}
          options={[
            { value: 'oldest', label: 'Oldest first' },
            { value: 'hand', label: 'By hand' },
          ]}
        />
      </div>
      {account.confidential.length > 0 && (
        <Segmented
          aria-label="Whose money"
          className={css.together}
          value={owner ?? 0}
          onChange={(value) => fromCaseId(value === 0 ? null : value)}
          options={[
            { value: 0, label: 'The household’s money' },
            ...account.confidential.map(({ patientId, patient }) => ({
              value: patientId,
              label: `${patient}’s own, kept apart`,
            })),
          ]}
        />
      )}
      {account.mailedWith.length > 0 && owner === null && (
        <Segmented
          aria-label="Accounts"
          className={css.together}
          value={together}
          onChange={(value) => void payTogether(value)}
          options={[
            { value: false, label: 'This account' },
            {
              value: true,
              label: `All of one envelope: ${[account.household, ...account.mailedWith].map(({ number }) => number).join(', ')}`,
            },
          ]}
        />
      )}
      {account.givenUp > 0 && (
        <p className="small">
          {formatMoneyPlain(account.givenUp)} was given up as bad debt. Money beyond what is owed becomes
          credit, and is applied to it on the account.
        </p>
      )}
      {plans.map((plan) => (
        <label key={plan.id} className={css.plan}>
          <span>
            To plan {plan.number}: {formatMoneyPlain(plan.due)} due, {formatMoneyPlain(plan.left)} left
          </span>
          <MoneyInput
            small
            label={`To plan ${plan.number}`}
            value={forPlans[plan.id] ?? ''}
            onChange={(value) => setAside({ ...forPlans, [plan.id]: value }, forAgency)}
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
            label="To what is with the agency"
            value={forAgency}
            onChange={(value) => setAside(forPlans, value)}
            onEnter={() => void save()}
          />
        </label>
      )}
      <LineTable
        label="What is paid"
        rows={open}
        rowKey={(row) => String(row.id)}
        empty="Nothing is owed now: the payment is held as credit"
        words={counted(open.length, 'open charge')}
        columns={[
          { key: 'date', title: 'Date', width: 96, render: (row) => <Day date={row.date} /> },
          {
            key: 'who',
            title: 'Who',
            width: 80,
            render: (row) => row.patient,
          },
          {
            key: 'service',
            title: 'Service',
            render: (row) => (row.account ? `${row.description} · ${row.account}` : row.description),
          },
          { key: 'owed', title: 'Owed', width: 84, money: (row) => row.owed, sum: true },
          {
            key: 'pays',
            title: 'Pays',
            width: 100,
            money: (row) => part(row.id),
            sum: true,
            ...(byHand
              ? {
                  render: (row: { id: number; description: string }) => (
                    <MoneyInput
                      small
                      label={`Part of ${row.description}`}
                      value={parts[row.id] ?? ''}
                      onChange={(value) => setParts({ ...parts, [row.id]: value })}
                      onEnter={() => void save()}
                    />
                  ),
                }
              : {}),
          },
          {
            key: 'left',
            title: 'Left',
            width: 84,
            money: (row) => minus(row.owed, part(row.id)),
            sum: true,
          },
        ]}
      />
      {credit > 0 && (
        <Alert
          type="info"
          className={css.left}
          title={
            <>
              {formatMoneyPlain(credit)} is held as credit and stands against this:{' '}
              {credit < owed ? formatMoneyPlain(minus(owed, credit)) : 'nothing'} is asked for.
            </>
          }
        />
      )}
      {spread && typeof spread !== 'string' && spread.left > 0 && (
        <Alert
          type="info"
          className={css.left}
          title={
            <>
              What is left, {formatMoneyPlain(spread.left)}, is held as credit
              {owner === null ? ' of this household' : ', kept apart'}.
            </>
          }
        />
      )}
    </DeskDrawer>
  );
}
