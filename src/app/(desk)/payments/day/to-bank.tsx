'use client';
import { Button, Checkbox, Input, Select } from 'antd';
import { useState } from 'react';
import { absolute, add, formatMoneyPlain, sum } from '../../../../core/money';
import { TENDERS } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import type { DayPage } from '../../../../server/payments/day';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Panel } from '../../../../ui/page';
import { makeDepositAction, undoDepositAction } from '../actions';
import css from './day.module.css';

/** What waits for the bank, chosen and taken there on one slip. */
export function ToBank({ page }: { page: DayPage }) {
  const { busy, run } = useAct();
  const press = useOnce();
  // What was handed over first, then what is cleared.
  const from = [
    ...page.places.filter(({ kind }) => kind === 'undeposited'),
    ...page.places.filter(({ kind }) => kind === 'clearing'),
  ];
  const banks = page.places.filter(({ kind }) => kind === 'bank');
  const [placeId, setPlaceId] = useState(
    from.find(({ id }) => page.waiting.some((one) => one.placeId === id))?.id ?? from[0]?.id ?? 0,
  );
  const [bankId, setBankId] = useState(banks[0]?.id ?? 0);
  const [number, setNumber] = useState('');
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  // What came after a day was not taken to the bank on it.
  const lies = page.waiting.filter(({ receivedOn }) => receivedOn <= page.day);
  const rows = lies.filter((one) => one.placeId === placeId);
  const differences = page.differences.filter((one) => one.placeId === placeId && one.day <= page.day);
  const chosen = rows.filter(({ id }) => !left.has(id));
  const withCash = chosen.some(({ tender }) => tender === 'cash');
  const over = withCash ? differences : [];
  const amount = add(sum(chosen.map((one) => one.amount)), sum(over.map((one) => one.amount)));
  const deposit = async (): Promise<void> => {
    const done = await run(
      () =>
        makeDepositAction({
          fromPlaceId: placeId,
          toPlaceId: bankId,
          date: page.day,
          number,
          tenderIds: chosen.map(({ id }) => id),
          drawerIds: over.map(({ id }) => id),
          key: press.key(),
        }),
      ({ amount: sent }) => `${formatMoneyPlain(sent)} taken to the bank`,
    );
    if (!done) return;
    press.next();
    setNumber('');
    setLeft(new Set());
  };
  return (
    <Panel title="To the bank" below>
      <div className={css.row}>
        {from.length > 1 && (
          <Select
            aria-label="Where it lies"
            value={placeId}
            onChange={(id) => {
              setPlaceId(id);
              setLeft(new Set());
            }}
            className={css.choice}
            options={from.map(({ id, name }) => ({
              value: id,
              label: `${name}: ${lies.filter((one) => one.placeId === id).length}`,
            }))}
          />
        )}
        <Select
          aria-label="To which account"
          value={bankId}
          onChange={setBankId}
          className={css.choice}
          options={banks.map(({ id, name }) => ({ value: id, label: name }))}
        />
        <Input
          aria-label="Number of the slip"
          placeholder="Number of the slip"
          className={css.number}
          value={number}
          onChange={(event) => setNumber(event.target.value)}
        />
        <Button
          type="primary"
          loading={busy}
          disabled={chosen.length === 0 || bankId === 0}
          onClick={() => void deposit()}
        >
          Deposit {formatMoneyPlain(amount)}, {counted(chosen.length, 'tender')}
        </Button>
      </div>
      {over.map((one) => (
        <p key={one.id} className="small">
          <Money cents={absolute(one.amount)} /> {one.amount < 0 ? 'short' : 'over'} is in it: {one.words}
        </p>
      ))}
      <LineTable
        label="What waits for the bank"
        rows={rows}
        rowKey={(row) => String(row.id)}
        empty="Nothing waits here"
        words={counted(rows.length, 'tender')}
        columns={[
          {
            key: 'choose',
            title: '',
            width: 34,
            render: (row) => (
              <Checkbox
                aria-label={`${TENDERS[row.tender].words} of ${row.from}, ${formatMoneyPlain(row.amount)}`}
                checked={!left.has(row.id)}
                onChange={(event) => {
                  const next = new Set(left);
                  if (event.target.checked) next.delete(row.id);
                  else next.add(row.id);
                  setLeft(next);
                }}
              />
            ),
          },
          { key: 'date', title: 'Received', width: 100, render: (row) => <Day date={row.receivedOn} /> },
          { key: 'tender', title: 'Tender', width: 110, render: (row) => TENDERS[row.tender].words },
          { key: 'reference', title: 'Number', width: 170, render: (row) => row.reference },
          {
            key: 'from',
            title: 'From',
            render: (row) =>
              row.account === '' ? (
                row.from
              ) : (
                <Link href={`/accounts/${row.householdId}`}>
                  {row.from} · {row.account}
                </Link>
              ),
          },
          { key: 'by', title: 'Taken by', width: 130, render: (row) => row.by },
          { key: 'amount', title: 'Amount', width: 100, money: (row) => row.amount, sum: true },
        ]}
      />
      {page.deposits.length > 0 && (
        <ul className={css.deposits} aria-label="Deposits of the day">
          {page.deposits.map((one) => (
            <li key={one.id} className={one.undone ? 'quiet' : undefined}>
              {one.number || 'Without number'}, {one.to}: <Money cents={one.amount} /> in{' '}
              {counted(one.tenders, 'tender')}, by {one.by}
              {one.undone ? (
                ', undone'
              ) : (
                <>
                  {' '}
                  <a href={`/api/deposits/${one.id}`}>Slip</a>{' '}
                  <WithReason
                    words="Undo"
                    ask="Why is it undone?"
                    act={(why) => run(() => undoDepositAction({ depositId: one.id, why }), 'It waits again')}
                  />
                </>
              )}
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
