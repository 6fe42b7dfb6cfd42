'use client';
/** Drawers: opened, counted and closed. */
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import {
  type Cents,
  ZERO,
  absolute,
  formatMoneyPlain,
  minus,
  parseMoney,
  toDecimal,
} from '../../../../core/money';
import { DENOMINATIONS, countedCash } from '../../../../core/payments/tenders';
import { counted } from '../../../../core/words';
import type { DayPage } from '../../../../server/payments/day';
import type { DrawerRow } from '../../../../server/payments/drawers';
import { useAct, useOnce } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { closeDrawerAction, dropAction, openDrawerAction } from '../actions';
import css from './day.module.css';

/** Opens one's own drawer. */
export function OpenOne({ page }: { page: DayPage }) {
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
export function Drawer({ drawer }: { drawer: DrawerRow }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [counting, setCounting] = useState<'drop' | 'close' | null>(null);
  const [amount, setAmount] = useState('');
  const [checks, setChecks] = useState('');
  const [why, setWhy] = useState('');
  /** How many of each bill and coin, where it is counted so. */
  const [pieces, setPieces] = useState<Record<number, string> | null>(null);
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
    setPieces(null);
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
                  {closed.difference < 0 ? 'Short' : 'Over'} <Money cents={absolute(closed.difference)} />
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
          <Button onClick={() => setPieces(pieces ? null : {})} aria-expanded={pieces !== null}>
            By bill and coin
          </Button>
          {pieces && (
            <Pieces
              pieces={pieces}
              set={(next) => {
                setPieces(next);
                setAmount(toDecimal(countedCash(next) ?? ZERO));
              }}
            />
          )}
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

/** How many of each bill and coin: what is typed adds up to the cash that was counted. */
function Pieces({
  pieces,
  set,
}: {
  pieces: Readonly<Record<number, string>>;
  set: (next: Record<number, string>) => void;
}) {
  return (
    <span className={css.pieces} role="group" aria-label="By bill and coin">
      {DENOMINATIONS.map((each) => (
        <label key={each}>
          <span>{formatMoneyPlain(each)}</span>
          <Input
            aria-label={`How many of ${formatMoneyPlain(each)}`}
            inputMode="numeric"
            maxLength={5}
            status={countedCash({ [each]: pieces[each] ?? '' }) === null ? 'error' : undefined}
            value={pieces[each] ?? ''}
            onChange={(event) => set({ ...pieces, [each]: event.target.value })}
          />
        </label>
      ))}
    </span>
  );
}
