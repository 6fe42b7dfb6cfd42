'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { cents, formatMoneyPlain, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import { useMay } from '../../../../ui/desk';
import { Money } from '../../../../ui/figures';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { answerCreditLetterAction, handOverCreditAction, writeCreditLettersAction } from '../actions';
import css from '../day/day.module.css';

/** Credit whose owner is not heard of: written to, answered, or handed over to the state that keeps it for the owner. */
export function UnclaimedView({ list }: { list: StateOf<'unclaimed'> }) {
  const may = useMay();
  const { busy, run } = useAct();
  const press = useOnce();
  const [chosen, setChosen] = useState<number[]>([]);
  const [written, setWritten] = useState<number[]>([]);
  const [number, setNumber] = useState('');
  const rows = list.rows.filter(({ id, closed }) => chosen.includes(id) && !closed);
  const amount = sum(rows.map((row) => cents(row.amount)));
  const owners = rows.map(({ householdId, patientId }) => ({ householdId, patientId }));
  const mayWrite = may('reverse entries') && list.view === 'write';
  const mayHand = may('approve refunds') && list.view === 'hand';
  const write = async (): Promise<void> => {
    const done = await run(
      () => writeCreditLettersAction({ owners, key: press.key() }),
      (letters) => `${counted(letters.length, 'letter')} written: print them`,
    );
    if (!done) return;
    press.next();
    setWritten(done.value);
    setChosen([]);
  };
  const hand = async (): Promise<void> => {
    const done = await run(
      () => handOverCreditAction({ owners, number, key: press.key() }),
      (cents) => `${formatMoneyPlain(cents)} handed over under ${number}`,
    );
    if (!done) return;
    press.next();
    setNumber('');
    setChosen([]);
  };
  return (
    <>
      <Head title="Unclaimed credit" note={counted(list.count, 'account')}>
        {written.length > 0 && (
          <a href={`/api/credit-letters?ids=${written.join(',')}`}>
            {counted(written.length, 'letter')} as PDF
          </a>
        )}
        {mayWrite && rows.length > 0 && (
          <Button type="primary" loading={busy} onClick={() => void write()}>
            Write {counted(rows.length, 'letter')}
          </Button>
        )}
        {mayHand && rows.length > 0 && (
          <>
            <Input
              aria-label="Number of the check to the state"
              placeholder="Check to the state"
              className={css.number}
              value={number}
              onChange={(event) => setNumber(event.target.value)}
            />
            <Button type="primary" loading={busy} disabled={number.trim() === ''} onClick={() => void hand()}>
              Hand over {formatMoneyPlain(amount)}
            </Button>
          </>
        )}
      </Head>
      <List
        list={list}
        label="Unclaimed credit"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}?show=credit`}
        selected={mayWrite || mayHand ? { ids: chosen, set: setChosen } : undefined}
        empty={list.search ? `No credit found for “${list.search}”` : 'Nothing is here'}
        cells={{
          account: {
            width: 82,
            render: (row) => <Link href={`/accounts/${row.householdId}?show=credit`}>{row.account}</Link>,
          },
          owner: { ellipsis: true },
          state: { width: 56 },
          heard: { width: 98 },
          letter: { width: 92 },
          until: { width: 92 },
          amount: { width: 84, render: (row) => <Money cents={row.amount} strong /> },
        }}
        act={{
          width: 222,
          render: (row) =>
            row.letterId !== null && (
              <>
                <a href={`/api/credit-letters?ids=${row.letterId}`}>Letter</a>{' '}
                {may('take payments') && <Answered letterId={row.letterId} />}
              </>
            ),
        }}
      />
      <p className="quiet small">
        Credit never becomes income. It rests as long as the state of its owner’s last address says in Setup,
        from when the owner was last heard of; a letter asks the owner first.
      </p>
    </>
  );
}

function Answered({ letterId }: { letterId: number }) {
  const { run } = useAct();
  return (
    <WithReason
      words="Answered"
      ask="What did the owner say?"
      act={(words) =>
        run(
          () => answerCreditLetterAction({ creditLetterId: letterId, words }),
          'The credit rests anew from today',
        )
      }
    />
  );
}
