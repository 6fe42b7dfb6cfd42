'use client';
import { Alert, Button, Checkbox, Empty, Input, Select } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import {
  type Cents,
  ZERO,
  absolute,
  add,
  formatMoneyPlain,
  minus,
  parseMoney,
  sum,
} from '../../../../core/money';
import { formatDate } from '../../../../core/calendar';
import { TENDERS } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import type { BatchPage, DayPage, MoneyPlace } from '../../../../server/payments/day';
import type { DrawerRow } from '../../../../server/payments/drawers';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { Day, Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { useDesk, useMay } from '../../../../ui/desk';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Head, Panel } from '../../../../ui/page';
import {
  closeDrawerAction,
  compareDayAction,
  dropAction,
  makeDepositAction,
  openDrawerAction,
  undoDepositAction,
} from '../actions';
import css from './day.module.css';

/** The end of a day, in the order in which it is done: the drawer, what goes to the bank, the cards, what was taken. */
export function DayView({ page }: { page: DayPage }) {
  const router = useRouter();
  const { today } = useDesk();
  const mayRead = useMay()('read books');
  const total = sum(page.taken.map(({ came, back }) => add(came, back)));
  return (
    <>
      <Head
        title="Day’s end"
        note={`${formatDate(page.day)}: ${formatMoneyPlain(total)} ${page.whole ? 'taken' : 'taken by you'}`}
      >
        <DateInput
          label="Day"
          value={page.day}
          onChange={(day) => {
            if (/^\d{4}-\d\d-\d\d$/.test(day)) router.push(`/payments/day?day=${day}`);
          }}
        />
      </Head>
      <Panel title="Drawers">
        {page.drawers.length === 0 && (
          <p className="quiet">
            No drawer was opened: cash and checks go to where they wait for the bank, and nobody counts them
            by user.
          </p>
        )}
        {page.drawers.map((drawer) => (
          <Drawer key={drawer.id} drawer={drawer} />
        ))}
        {page.day === today && <OpenOne page={page} />}
      </Panel>
      {page.whole && <ToBank page={page} />}
      {page.merchants.length > 0 && (
        <Panel title="Cards" below>
          {page.merchants.map((place) => (
            <CardBatch key={place.id} place={place} page={page} />
          ))}
        </Panel>
      )}
      <Panel title="Taken" below>
        <LineTable
          label="Taken, by user and tender"
          rows={page.taken}
          rowKey={(row) => `${row.by}/${row.site}/${row.tender}`}
          empty="Nothing was taken on this day"
          words={counted(page.taken.length, 'row')}
          columns={[
            { key: 'by', title: 'Taken by', render: (row) => row.by },
            { key: 'site', title: 'At', width: 180, render: (row) => row.site },
            { key: 'tender', title: 'Tender', width: 140, render: (row) => row.words },
            { key: 'count', title: 'How many', width: 90, right: true, render: (row) => row.count },
            { key: 'came', title: 'Came', width: 110, money: (row) => row.came, sum: true },
            { key: 'back', title: 'Given back', width: 110, money: (row) => row.back, sum: true },
            {
              key: 'surcharge',
              title: 'Surcharges in it',
              width: 120,
              money: (row) => row.surcharge,
              sum: true,
            },
          ]}
        />
        {mayRead && (
          <p>
            <Link href={`/books/reports/takings?from=${page.day}&to=${page.day}`}>
              Each of them: who took what, from whom
            </Link>
          </p>
        )}
      </Panel>
    </>
  );
}

/** Opens one's own drawer. */
function OpenOne({ page }: { page: DayPage }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const free = page.sites.filter(
    ({ id }) => !page.drawers.some((one) => one.locationId === id && one.userId === page.me && !one.closed),
  );
  const [site, setSite] = useState(free[0]?.id ?? null);
  const [opening, setOpening] = useState('');
  if (free.length === 0) return null;
  const chosen = free.some(({ id }) => id === site) ? site : free[0]!.id;
  const open = async (): Promise<void> => {
    const done = await run(
      () =>
        openDrawerAction({
          locationId: chosen,
          opening: opening.trim() === '' ? null : opening,
          key: press.key(),
        }),
      'Your drawer is open',
    );
    if (done) press.next();
  };
  return (
    <div className={css.row}>
      <label>
        <span>Site</span>
        <Select
          aria-label="Site of the drawer"
          value={chosen}
          onChange={setSite}
          className={css.choice}
          options={free.map(({ id, name }) => ({ value: id, label: name }))}
        />
      </label>
      <label>
        <span>In it for change</span>
        <MoneyInput label="In it for change" value={opening} onChange={setOpening} className={css.amount} />
      </label>
      <Button loading={busy} onClick={() => void open()}>
        Open my drawer
      </Button>
      <span className="quiet small">Left empty: as the practice does it</span>
    </div>
  );
}

/** One drawer: what is in it, drops, and its count. */
function Drawer({ drawer }: { drawer: DrawerRow }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [counting, setCounting] = useState<'drop' | 'close' | null>(null);
  const [amount, setAmount] = useState('');
  const [checks, setChecks] = useState('');
  const [why, setWhy] = useState('');
  const { closed } = drawer;
  const typed = parseMoney(amount);
  const difference = typed === null ? null : minus(typed, drawer.expected);
  const off =
    difference !== null && (difference !== 0 || (checks !== '' && Number(checks) !== drawer.checks));
  const done = (value: unknown): void => {
    if (value === undefined) return;
    press.next();
    setCounting(null);
    setAmount('');
    setWhy('');
    setChecks('');
  };
  return (
    <div className={css.drawer} role="group" aria-label={`Drawer of ${drawer.by}, ${drawer.site}`}>
      <div className={css.facts}>
        <strong>
          {drawer.by}, {drawer.site}
        </strong>
        <span className="quiet">
          <Day date={drawer.day} />
          {closed ? `, closed by ${closed.by}` : ', open'}
        </span>
        <Fact words="For change" cents={drawer.opening} />
        <Fact words="Cash taken" cents={drawer.cash} />
        <Fact words="Taken out" cents={drawer.dropped} />
        <Fact words="To be in it" cents={drawer.expected} />
        <span>
          {counted(drawer.checks, 'check')} <Money cents={drawer.checkAmount} />
        </span>
        {closed && (
          <>
            <Fact words="Counted" cents={closed.counted} />
            <span className={closed.difference === 0 ? 'good' : undefined}>
              {closed.difference === 0 ? (
                'Exact'
              ) : (
                <>
                  {closed.difference < 0 ? 'Short' : 'Over'} <Money cents={closed.difference} />
                </>
              )}
              {closed.why && `: ${closed.why}`}
            </span>
          </>
        )}
      </div>
      {!closed && counting === null && (
        <div className={css.row}>
          <Button onClick={() => setCounting('close')}>Count and close</Button>
          <Button onClick={() => setCounting('drop')}>Take cash out</Button>
        </div>
      )}
      {counting === 'drop' && (
        <div className={css.row}>
          <label>
            <span>Taken out</span>
            <MoneyInput
              label="Taken out of the drawer"
              focus
              value={amount}
              onChange={setAmount}
              className={css.amount}
            />
          </label>
          <label>
            <span>Where it goes</span>
            <Input aria-label="Where it goes" value={why} onChange={(event) => setWhy(event.target.value)} />
          </label>
          <Button
            loading={busy}
            disabled={typed === null || typed <= 0}
            onClick={() =>
              void run(
                () => dropAction({ drawerId: drawer.id, amount, words: why, key: press.key() }),
                (left) => `${formatMoneyPlain(left)} is to be in it now`,
              ).then((answer) => done(answer))
            }
          >
            Take out {typed !== null && typed > 0 ? formatMoneyPlain(typed) : ''}
          </Button>
          <Button onClick={() => setCounting(null)}>Leave it</Button>
        </div>
      )}
      {counting === 'close' && (
        <div className={css.row}>
          <label>
            <span>Cash counted</span>
            <MoneyInput
              label="Cash counted"
              focus
              value={amount}
              onChange={setAmount}
              className={css.amount}
            />
          </label>
          <label>
            <span>Checks counted</span>
            <Input
              aria-label="Checks counted"
              inputMode="numeric"
              className={css.amount}
              value={checks}
              onChange={(event) => setChecks(event.target.value)}
            />
          </label>
          {off && (
            <label className={css.why}>
              <span>
                {difference !== 0 && difference !== null
                  ? `${formatMoneyPlain(absolute(difference))} ${difference < 0 ? 'is missing' : 'is too much'}: why`
                  : 'Other checks than were taken: why'}
              </span>
              <Input
                aria-label="Why it is another amount"
                value={why}
                onChange={(event) => setWhy(event.target.value)}
              />
            </label>
          )}
          <Button
            type="primary"
            loading={busy}
            disabled={typed === null || typed < 0 || (off && why.trim() === '')}
            onClick={() =>
              void run(
                () =>
                  closeDrawerAction({
                    drawerId: drawer.id,
                    counted: amount,
                    checks: checks === '' ? drawer.checks : checks,
                    why,
                    key: press.key(),
                  }),
                'Closed and locked; what was in it waits for the bank',
              ).then((answer) => done(answer))
            }
          >
            Close the drawer
          </Button>
          <Button onClick={() => setCounting(null)}>Leave it</Button>
        </div>
      )}
    </div>
  );
}

const Fact = ({ words, cents }: { words: string; cents: Cents }) => (
  <span>
    <span className="quiet">{words}</span> <Money cents={cents} />
  </span>
);

/** What waits for the bank, chosen and taken there on one slip. */
function ToBank({ page }: { page: DayPage }) {
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
  const rows = page.waiting.filter((one) => one.placeId === placeId && one.receivedOn <= page.day);
  const differences = page.differences.filter((one) => one.placeId === placeId);
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
              label: `${name}: ${page.waiting.filter((one) => one.placeId === id).length}`,
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
          <Money cents={one.amount} /> {one.amount < 0 ? 'short' : 'over'} is in it: {one.words}
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

/** The terminal's list of the day against ours. */
function CardBatch({ place, page }: { place: MoneyPlace; page: DayPage }) {
  const { busy, run } = useAct();
  const [batch, setBatch] = useState<BatchPage | null>(null);
  return (
    <div className={css.drawer} role="group" aria-label={place.name}>
      <div className={css.row}>
        <strong>{place.name}</strong>
        <Button
          loading={busy}
          onClick={() =>
            void run(() => compareDayAction({ placeId: place.id, day: page.day })).then(
              (done) => done && setBatch(done.value),
            )
          }
        >
          Compare with the terminal
        </Button>
        {batch && (
          <span>
            {counted(batch.count, 'row')} there, <Money cents={batch.theirs} />; in our books{' '}
            <Money cents={batch.ours} />
          </span>
        )}
      </div>
      {batch &&
        (batch.differences.length === 0 ? (
          batch.count === 0 && batch.ours === ZERO ? (
            <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="No card was charged on this day" />
          ) : (
            <Alert type="success" title="Row by row the same" />
          )
        ) : (
          <LineTable
            label={`Differences with the terminal of ${place.name}`}
            rows={batch.differences}
            rowKey={(row) => row.key}
            empty=""
            columns={[
              { key: 'words', title: 'What', render: (row) => row.words },
              {
                key: 'card',
                title: 'Card',
                width: 160,
                render: (row) => (row.theirs ? `${row.theirs.brand} ${row.theirs.lastFour}` : ''),
              },
              {
                key: 'authorization',
                title: 'Authorization',
                width: 130,
                render: (row) => row.theirs?.authorization ?? row.ours?.authorization ?? '',
              },
              { key: 'theirs', title: 'There', width: 110, money: (row) => row.theirs?.amount ?? null },
              {
                key: 'ours',
                title: 'Here',
                width: 110,
                money: (row) => row.ours?.amount ?? null,
              },
            ]}
          />
        ))}
    </div>
  );
}
