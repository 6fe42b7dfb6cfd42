'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { negate } from '../../../../core/money';
import { type CauseGroup, owing } from '../../../../core/remittances/contract-check';
import { counted } from '../../../../core/words';
import type { ContractCheck, ContractLine } from '../../../../server/remittances/contract-check';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { useMay } from '../../../../ui/desk';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day } from '../../../../ui/figures';
import { useKeys } from '../../../../ui/keys';
import { Link } from '../../../../ui/link';
import { type LineColumn, LineTable } from '../../../../ui/line-table';
import { Head, Toolbar } from '../../../../ui/page';
import { Period } from '../../../../ui/period';
import { letContractLinesBeAction, lookAgainAction, writeContractLetterAction } from '../actions';
import css from './contract.module.css';

type Group = CauseGroup<ContractLine> & { payer: string };

const SIDE_WORDS = { short: 'Below the contract', over: 'Above the contract', 'let-be': 'Let be' } as const;
const EMPTY = {
  short: 'Nothing was allowed below a contract',
  over: 'Nothing was allowed above a contract',
  'let-be': 'Nothing is let be',
} as const;

/** How many of a cause's lines the payer was asked for. */
const ASKED: LineColumn<Group> = {
  key: 'asked',
  title: 'Asked',
  width: 90,
  right: true,
  render: ({ lines }) => {
    const asked = lines.filter(({ askedOn }) => askedOn !== null).length;
    return asked === 0 ? '–' : `${asked} of ${lines.length}`;
  },
};

/** Lines that may be named by who looks: those of closed accounts are not. */
const named = (lines: readonly ContractLine[]) =>
  lines.filter(({ closed }) => !closed).map(({ chargeId, coverageId }) => ({ chargeId, coverageId }));

/** Lines to write about, and what the press is called: those that nobody asked for yet, or all of them once more. */
function toAsk(lines: readonly ContractLine[]): { lines: readonly ContractLine[]; words: string } {
  const fresh = lines.filter(({ askedOn, closed }) => askedOn === null && !closed);
  if (fresh.length > 0) return { lines: fresh, words: `Letter about ${counted(fresh.length, 'line')}` };
  return { lines, words: `Ask again about ${counted(named(lines).length, 'line')}` };
}

/** What payers allowed against their contracts, by payer and cause; asked for by letter, or let be. */
export function ContractView({ check, groupKey }: { check: ContractCheck; groupKey: string | null }) {
  const { side, payers, known, payerId } = check;
  const router = useRouter();
  const may = useMay()('work follow-ups');
  const { busy, run } = useAct();
  const press = useOnce();
  const [letter, setLetter] = useState<number | null>(null);
  const address = (next: Record<string, string> = {}): string => {
    const all = {
      from: check.from,
      to: check.to,
      side,
      ...(payerId === null ? {} : { payer: String(payerId) }),
      ...next,
    };
    return String(new URLSearchParams(Object.entries(all).filter(([, value]) => value !== '')));
  };
  const go = (next: Record<string, string>): void => router.push(`/remittances/contract?${address(next)}`);
  const groups: Group[] = payers.flatMap(({ payer, groups: own }) =>
    own.map((group) => ({ ...group, payer })),
  );
  const lines = groups.flatMap((group) => group.lines);
  const group = groups.find(({ key }) => key === groupKey);
  const write = async (of: number, about: readonly ContractLine[]): Promise<void> => {
    const done = await run(
      () => writeContractLetterAction({ payerId: of, lines: named(about), key: press.key() }),
      'The letter is written: print it, or find it with the letters to payers',
    );
    if (!done) return;
    press.next();
    setLetter(done.value);
  };
  useKeys([
    {
      key: 'Escape',
      words: 'back to the follow-ups',
      run: () => router.push(group ? `/remittances/contract?${address()}` : '/remittances/follow-ups'),
    },
  ]);
  const columns: LineColumn<Group>[] = [
    { key: 'payer', title: 'Payer', width: 190, render: ({ payer }) => payer },
    {
      key: 'words',
      title: 'What',
      render: (one) => <Link href={`/remittances/contract?${address({ group: one.key })}`}>{one.words}</Link>,
    },
    { key: 'lines', title: 'Lines', width: 60, right: true, render: (one) => one.lines.length },
    { key: 'since', title: 'Since', width: 100, render: ({ since }) => <Day date={since} /> },
    {
      key: 'difference',
      title: side === 'over' ? 'Above' : 'Below',
      width: 100,
      money: (one) => (side === 'over' ? negate(one.difference) : one.difference),
      strong: true,
      sum: true,
    },
    {
      key: 'owed',
      title: side === 'over' ? 'Paid beyond' : 'Payer owes',
      width: 100,
      money: ({ owed }) => (side === 'over' ? negate(owed) : owed),
      sum: true,
    },
    ...(side === 'over' ? [] : [ASKED]),
  ];
  return (
    <>
      <Head
        title="Contract check"
        note={`${counted(lines.length, 'line')} ${SIDE_WORDS[side].toLowerCase()}, services of ${formatDate(check.from)} to ${formatDate(check.to)}`}
      >
        <a href={`/api/contract-check?${address({ format: 'csv' })}`}>CSV</a>
        <a href={`/api/contract-check?${address({ format: 'xlsx' })}`}>XLSX</a>
        {letter !== null && (
          <a href={`/api/contract-letters?id=${letter}`} target="_blank" rel="noreferrer">
            The letter as PDF
          </a>
        )}
        <Link href="/remittances/contract/letters">
          <Button>Letters</Button>
        </Link>
        {may && side === 'short' && payerId !== null && named(lines).length > 0 && (
          <Button type="primary" loading={busy} onClick={() => void write(payerId, toAsk(lines).lines)}>
            {toAsk(lines).words}
          </Button>
        )}
      </Head>
      <Toolbar>
        <Period from={check.from} to={check.to} look={go} />
        <Choose
          aria-label="Differences"
          className={css.side}
          value={side}
          onChange={(next) => go({ side: next })}
          options={Object.entries(SIDE_WORDS).map(([value, label]) => ({
            value: value as typeof side,
            label,
          }))}
        />
        <Choose
          aria-label="Payer"
          className={css.payer}
          value={payerId ?? 0}
          onChange={(id) => go({ payer: id ? String(id) : '' })}
          options={[
            { value: 0, label: 'Every payer' },
            ...known.map(({ id, name }) => ({ value: id, label: name })),
          ]}
        />
      </Toolbar>
      <LineTable
        label="Differences from contracts"
        rows={groups}
        rowKey={({ key }) => key}
        columns={columns}
        words={counted(groups.length, 'cause')}
        empty={EMPTY[side]}
      />
      <p className="small quiet">
        Of lines that a first payer decided and did not refuse: what it allowed against what its contract said
        when the claim went. What the payer owes is by the patient’s shares as it took them itself; the rest
        of the difference is the patient’s. Lines that it put together with others are compared as a whole
        when they are posted.
      </p>
      {group && (
        <DeskDrawer
          size={960}
          title={`${group.payer}: ${group.words}`}
          onClose={() => router.push(`/remittances/contract?${address()}`)}
          footer={
            may &&
            named(group.lines).length > 0 && (
              <div className={css.acts}>
                {side === 'short' && (
                  <Button
                    type="primary"
                    loading={busy}
                    onClick={() => void write(group.payerId, toAsk(group.lines).lines)}
                  >
                    {toAsk(group.lines).words}
                  </Button>
                )}
                {side === 'let-be' ? (
                  <Button
                    loading={busy}
                    onClick={() =>
                      void run(
                        () => lookAgainAction({ lines: named(group.lines) }),
                        (many) => `${counted(many, 'line')} looked at again`,
                      )
                    }
                  >
                    Look at them again
                  </Button>
                ) : (
                  <WithReason
                    words="Let it be"
                    ask="Why is it let be?"
                    size="middle"
                    act={(why) =>
                      run(
                        () => letContractLinesBeAction({ lines: named(group.lines), why }),
                        (many) => `${counted(many, 'line')} let be`,
                      )
                    }
                  />
                )}
                {letter !== null && (
                  <a href={`/api/contract-letters?id=${letter}`} target="_blank" rel="noreferrer">
                    The letter as PDF
                  </a>
                )}
              </div>
            )
          }
        >
          <Lines lines={group.lines} over={side === 'over'} />
        </DeskDrawer>
      )}
    </>
  );
}

/** The lines of a cause, each with how what it should have been paid comes about. */
function Lines({ lines, over }: { lines: readonly ContractLine[]; over: boolean }) {
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(
    new Set(lines.slice(0, 1).map(({ chargeId }) => String(chargeId))),
  );
  const turn = (key: string): void => {
    const next = new Set(unfolded);
    if (!next.delete(key)) next.add(key);
    setUnfolded(next);
  };
  return (
    <LineTable
      label="Lines"
      rows={lines}
      rowKey={({ chargeId }) => String(chargeId)}
      unfolded={unfolded}
      onUnfold={turn}
      lines={(line) => [
        {
          key: 'steps',
          wide: (
            <span className="small">
              {line.steps.join(', ')}
              {line.letBe && ` · let be: ${line.letBe}`}
            </span>
          ),
        },
      ]}
      columns={[
        {
          key: 'service',
          title: 'Service',
          width: 100,
          render: (line: ContractLine) => <Day date={line.serviceDate} />,
        },
        {
          key: 'patient',
          title: 'Patient',
          render: (line) =>
            line.closed ? (
              <span className="quiet">closed account</span>
            ) : (
              <Link href={`/accounts/${line.householdId}?charge=${line.chargeId}`}>{line.patient}</Link>
            ),
        },
        {
          key: 'claim',
          title: 'Claim',
          width: 110,
          render: (line) => (line.closed ? null : <Link href={`/claims/${line.claimId}`}>{line.claim}</Link>),
        },
        { key: 'expected', title: 'Contract', width: 84, money: (line) => line.expected, sum: true },
        { key: 'allowed', title: 'Allowed', width: 84, money: (line) => line.allowed, sum: true },
        { key: 'pays', title: 'Should pay', width: 90, money: (line) => line.pays, sum: true },
        { key: 'paid', title: 'Paid', width: 84, money: (line) => line.paid, sum: true },
        {
          key: 'owed',
          title: over ? 'Beyond' : 'Owes',
          width: 84,
          money: (line) => (over ? negate(owing(line)) : owing(line)),
          strong: true,
          sum: true,
        },
        {
          key: 'asked',
          title: 'Asked',
          width: 100,
          render: (line) => (line.askedOn ? <Day date={line.askedOn} /> : '–'),
        },
      ]}
      words={counted(lines.length, 'line')}
      empty="No line"
    />
  );
}
