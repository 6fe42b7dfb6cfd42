'use client';
import { App } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { type ChargeTotals, chargedIn } from '../../../../core/books/strip';
import type { ClaimStatus } from '../../../../core/claims/life';
import { type Cents, ZERO, add, formatMoneyPlain, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/account-page/read';
import { UNREACHED } from '../../../../ui/act';
import { claimWords } from '../../../../ui/claims';
import { LinkIfSeen } from '../../../../ui/desk';
import { Day, FeeStrip, StripKey } from '../../../../ui/figures';
import { type LineColumn, LineTable } from '../../../../ui/line-table';
import type { LedgerRow } from './rows/row';
import { ledgerRows } from './rows/rows';
import { type AccountDesk, useAccount } from './section';
import css from './account.module.css';

/** The ledger: what was charged, paid and sent in the order of time, newest at the bottom. */
export function Ledger() {
  const desk = useAccount();
  const { params, dialog, narrow, set } = desk;
  const lit = Number(params.get('charge')) || 0;
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set(lit ? [`c${lit}`] : []));
  useEffect(() => {
    if (lit) setUnfolded((now) => new Set([...now, `c${lit}`]));
  }, [lit]);
  const rows = ledgerRows(desk);
  const { message } = App.useApp();
  const under = useUnder(rows, unfolded, desk.account, (key, words) => {
    // What could not be read is folded, so that it can be asked for again.
    setUnfolded((now) => new Set([...now].filter((one) => one !== key)));
    if (words) void message.error(words);
  });
  const expects = desk.account.charges.some(({ expected }) => expected !== 0);
  const { claims, together: lighted } = litClaims(desk);
  const told = dialog === 'story';
  // Beside the story, and on a narrow screen, there is room for what decides.
  const room = told ? (narrow ? 'story' : 'narrow') : narrow ? 'narrow' : 'all';
  return (
    <>
      <LineTable<LedgerRow>
        label="Ledger"
        fills="window"
        fromEnd
        rows={rows}
        rowKey={({ key }) => key}
        columns={COLUMNS.filter(
          ({ key }) =>
            (room === 'all' || BESIDE[room].has(key)) &&
            // Most practices count write-offs when payers answer.
            (key !== 'expected' || expects),
        )}
        // Beside the story a row lights its sentences.
        // Elsewhere it lights what is on its claims, and those.
        onRow={({ charge }) =>
          charge && (told ? set('charge', String(charge.id)) : set('line', String(charge.id), 'claim'))
        }
        rowClass={({ charge }) => (charge && lighted.has(charge.id) ? css.together! : '')}
        empty="Nothing is charged yet: enter the first service in the line below"
        words={counted(rows.filter(({ charge }) => charge).length, 'charge')}
        lines={({ key, lines }) => lines(under.get(key))}
        unfolded={unfolded}
        onUnfold={(key) =>
          setUnfolded((now) => new Set(now.has(key) ? [...now].filter((one) => one !== key) : [...now, key]))
        }
        lit={lit ? `c${lit}` : undefined}
      />
      <OnClaims claims={claims} />
      <StripKey expected={expects} />
    </>
  );
}

/** A claim of the ledger that is lit: what of it stands here. */
interface LitClaim {
  id: number;
  number: string;
  status: ClaimStatus;
  payer: string;
  lines: number;
  total: Cents;
}

/** The claims that are chosen, or those of the charge that is, and all charges that are on them. */
function litClaims({ account, params }: AccountDesk): { claims: LitClaim[]; together: ReadonlySet<number> } {
  const claim = Number(params.get('claim')) || 0;
  const line = Number(params.get('line')) || 0;
  const on = new Map<number, LitClaim>();
  const together = new Set<number>();
  if (claim + line === 0) return { claims: [], together };
  const wanted = new Set(
    claim > 0
      ? [claim]
      : account.charges.find(({ id }) => id === line)?.payers.flatMap(({ claimId }) => claimId ?? []),
  );
  for (const charge of account.charges)
    for (const { claimId: id, claimNumber: number, claimStatus: status, payer } of charge.payers) {
      if (id === null || !number || !status || !wanted.has(id)) continue;
      together.add(charge.id);
      const one = on.get(id) ?? { id, number, status, payer, lines: 0, total: ZERO };
      on.set(id, { ...one, lines: one.lines + 1, total: add(one.total, chargedIn(charge)) });
    }
  // A charge on no claim is lit by itself.
  if (line > 0) together.add(line);
  return { claims: [...on.values()], together };
}

/** What is said of the claims that are lit. */
function OnClaims({ claims }: { claims: readonly LitClaim[] }) {
  if (claims.length === 0) return null;
  return (
    <p className="small" role="status">
      {claims.map(({ id, number, status, payer, lines, total }) => (
        <span key={id} className={css.onClaim}>
          <LinkIfSeen to="claims" id={id}>
            {number}
          </LinkIfSeen>{' '}
          to {payer}, {claimWords(status)}: {counted(lines, 'charge')}, {formatMoneyPlain(total)}
        </span>
      ))}
    </p>
  );
}

/** What lies under the rows that are unfolded, read when they are, and anew when the account was. */
function useUnder(
  rows: readonly LedgerRow[],
  unfolded: ReadonlySet<string>,
  account: AccountPage,
  failed: (key: string, words: string) => void,
): ReadonlyMap<string, unknown> {
  const [under, setUnder] = useState<ReadonlyMap<string, unknown>>(new Map());
  const latest = useRef({ rows, failed });
  const asked = useRef<{ of: AccountPage; keys: Set<string> }>({ of: account, keys: new Set() });
  useEffect(() => {
    latest.current = { rows, failed };
  });
  useEffect(() => {
    if (asked.current.of !== account) asked.current = { of: account, keys: new Set() };
    const { keys } = asked.current;
    for (const key of keys) if (!unfolded.has(key)) keys.delete(key);
    for (const { key, read } of latest.current.rows) {
      if (!read || !unfolded.has(key) || keys.has(key)) continue;
      keys.add(key);
      void read()
        .catch(() => UNREACHED)
        .then((answer) => {
          // What was asked of an older account comes too late.
          if (asked.current.of !== account) return;
          if (answer.ok) setUnder((now) => new Map(now).set(key, answer.value));
          else latest.current.failed(key, answer.message);
        });
    }
  }, [unfolded, account]);
  return under;
}

const amount = (
  key: string,
  title: string,
  of: (totals: ChargeTotals) => Cents,
  strong?: boolean,
): LineColumn<LedgerRow> => ({
  key,
  title,
  width: 82,
  money: ({ charge }) => (charge ? of(charge) : null),
  strong,
  sum: true,
});

/** What still stands where there is less room. */
const BESIDE: Record<'narrow' | 'story', ReadonlySet<string>> = {
  narrow: new Set(['date', 'who', 'what', 'withPayer', 'withPatient']),
  story: new Set(['date', 'what', 'withPatient']),
};

const COLUMNS: readonly LineColumn<LedgerRow>[] = [
  { key: 'date', title: 'Date', width: 92, render: ({ date }) => <Day date={date} /> },
  { key: 'who', title: 'Who', width: 72, render: ({ charge }) => charge?.patient ?? '' },
  {
    key: 'what',
    title: 'What',
    render: ({ what }) => what(),
    // What is no charge has no amounts of its own in the columns.
    span: ({ charge }) => (charge ? 1 : 99),
  },
  {
    key: 'strip',
    title: 'Where it is',
    width: 92,
    render: ({ charge }) => charge && <FeeStrip totals={charge} />,
  },
  amount('fee', 'Charged', chargedIn),
  amount('payerPaid', 'Payer paid', (totals) => totals.payerPaid),
  amount('patientPaid', 'Patient paid', (totals) => sum([totals.patientPaid, totals.agencyPaid])),
  amount('reduced', 'Written off', (totals) => totals.reduced),
  amount('expected', 'Expected off', (totals) => totals.expected),
  amount('withPayer', 'Waiting', (totals) => totals.withPayer),
  amount('withPatient', 'Owed', (totals) => totals.withPatient, true),
];
