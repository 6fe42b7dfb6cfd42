'use client';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useEffect, useState } from 'react';
import { ENTRY_KINDS } from '../../../../core/books/kinds';
import { type ChargeTotals, chargedIn, openIn } from '../../../../core/books/strip';
import { type Cents, absolute, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { LedgerCharge } from '../../../../server/accounts/ledger';
import { DELIVERIES, OUTCOMES } from '../../../../core/mail/pieces';
import type { AccountPage } from '../../../../server/accounts/read';
import type { LedgerEntry } from '../../../../server/books/entries';
import { claimWords } from '../../../../ui/claims';
import { LinkIfSeen } from '../../../../ui/desk';
import { Day, FeeStrip, Money, StripKey } from '../../../../ui/figures';
import { type LineColumn, LineTable, type SubLine } from '../../../../ui/line-table';
import css from './account.module.css';
import { ChargeActs, Expected, ReceiptActs, WriteOffActs } from './ledger-acts';
import type { Rights } from './rights';
import { Tag } from '../../../../ui/tag';

type Row = { key: string; date: string; order: number } & (
  | { kind: 'charge'; charge: LedgerCharge }
  | { kind: 'receipt'; receipt: AccountPage['receipts'][number] }
  | { kind: 'statement'; statement: AccountPage['statements'][number] }
  | { kind: 'letter'; letter: AccountPage['letters'][number] }
);

interface Props {
  charges: LedgerCharge[];
  receipts: AccountPage['receipts'];
  statements: AccountPage['statements'];
  letters: AccountPage['letters'];
  rights: Rights;
  today: string;
  onStory: (chargeId: number) => void;
  /** The charge that the address points at. */
  lit: number;
  /** Only the columns that decide; `story` also has the balance story beside them, on a narrow screen. */
  narrow: false | 'narrow' | 'story';
  /** A charge's row was pressed. */
  onLight?: (chargeId: number) => void;
}

/** The ledger: charges, receipts and statements in the order of time, newest at the bottom. */
export function Ledger({
  charges,
  receipts,
  statements,
  letters,
  rights,
  today,
  onStory,
  lit,
  narrow,
  onLight,
}: Props) {
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(new Set(lit ? [`c${lit}`] : []));
  useEffect(() => {
    if (lit) setUnfolded((now) => new Set([...now, `c${lit}`]));
  }, [lit]);
  const lines = (row: Row): SubLine[] =>
    row.kind === 'charge'
      ? chargeLines(row.charge, rights, today, onStory)
      : row.kind === 'receipt'
        ? receiptLines(row.receipt, charges, rights)
        : [];
  return (
    <>
      <LineTable<Row>
        label="Ledger"
        fills="page"
        fromEnd
        rows={inOrder({ charges, receipts, statements, letters })}
        rowKey={(row) => row.key}
        columns={narrow ? COLUMNS.filter(({ key }) => BESIDE[narrow].has(key)) : COLUMNS}
        onRow={onLight && ((row) => row.kind === 'charge' && onLight(row.charge.id))}
        empty="Nothing is charged yet: enter the first service in the line below"
        words={counted(charges.length, 'charge')}
        lines={lines}
        unfolded={unfolded}
        onUnfold={(key) =>
          setUnfolded((now) => new Set(now.has(key) ? [...now].filter((one) => one !== key) : [...now, key]))
        }
        lit={lit ? `c${lit}` : undefined}
      />
      <StripKey />
    </>
  );
}

/** Everything in the order of time; on one day charges stand before the money for them. */
function inOrder({
  charges,
  receipts,
  statements,
  letters,
}: Pick<Props, 'charges' | 'receipts' | 'statements' | 'letters'>): Row[] {
  return [
    ...charges.map((charge) => ({
      key: `c${charge.id}`,
      date: charge.date,
      order: 0,
      kind: 'charge' as const,
      charge,
    })),
    ...receipts.map((receipt) => ({
      key: `r${receipt.id}`,
      date: receipt.date,
      order: 1,
      kind: 'receipt' as const,
      receipt,
    })),
    ...statements.map((statement) => ({
      key: `s${statement.id}`,
      date: statement.date,
      order: 2,
      kind: 'statement' as const,
      statement,
    })),
    ...letters.map((letter) => ({
      key: `l${letter.pieceId}`,
      date: letter.date,
      order: 3,
      kind: 'letter' as const,
      letter,
    })),
  ].sort((a, b) => (a.date === b.date ? a.order - b.order : a.date < b.date ? -1 : 1));
}

const amount = (
  key: string,
  title: string,
  of: (totals: ChargeTotals) => Cents,
  strong?: boolean,
): LineColumn<Row> => ({
  key,
  title,
  width: 82,
  money: (row) => (row.kind === 'charge' ? of(row.charge) : null),
  strong,
  sum: true,
});

/** What still stands where there is less room. */
const BESIDE: Record<'narrow' | 'story', ReadonlySet<string>> = {
  narrow: new Set(['date', 'who', 'what', 'withPayer', 'withPatient']),
  story: new Set(['date', 'what', 'withPatient']),
};

const COLUMNS: readonly LineColumn<Row>[] = [
  { key: 'date', title: 'Date', width: 92, render: (row) => <Day date={row.date} /> },
  {
    key: 'who',
    title: 'Who',
    width: 72,
    render: (row) => (row.kind === 'charge' ? row.charge.patient : ''),
  },
  {
    key: 'what',
    title: 'What',
    render: (row) => <What row={row} />,
    // What is no charge has no amounts of its own in the columns.
    span: (row) => (row.kind === 'charge' ? 1 : 99),
  },
  {
    key: 'strip',
    title: 'Where it is',
    width: 92,
    render: (row) => (row.kind === 'charge' ? <FeeStrip totals={row.charge} /> : null),
  },
  amount('fee', 'Charged', chargedIn),
  amount('payerPaid', 'Payer paid', (totals) => totals.payerPaid),
  amount('patientPaid', 'Patient paid', (totals) => sum([totals.patientPaid, totals.agencyPaid])),
  amount('reduced', 'Written off', (totals) => totals.reduced),
  amount('withPayer', 'Waiting', (totals) => totals.withPayer),
  amount('withPatient', 'Owed', (totals) => totals.withPatient, true),
];

/** What became of a piece of mail, in words. */
const becameOf = (piece: {
  voided: string | null;
  delivery: keyof typeof DELIVERIES;
  outcome: '' | keyof typeof OUTCOMES;
}): string =>
  piece.voided === null
    ? [DELIVERIES[piece.delivery], piece.outcome && OUTCOMES[piece.outcome]].filter(Boolean).join(' · ')
    : `not sent after all: ${piece.voided}`;

function What({ row }: { row: Row }) {
  if (row.kind === 'letter') {
    const { letter } = row;
    return (
      <span>
        <a href={`/api/pieces/${letter.pieceId}`} target="_blank" rel="noreferrer">
          {letter.name}, <Money cents={letter.amount} /> past due
        </a>{' '}
        <span className="quiet">{becameOf(letter)}</span>
      </span>
    );
  }
  if (row.kind === 'statement') {
    const { statement } = row;
    return (
      <span>
        <a href={`/api/statements/${statement.id}`} target="_blank" rel="noreferrer">
          Statement, <Money cents={statement.amount} /> due <Day date={statement.dueDate} />
        </a>{' '}
        <span className="quiet">{becameOf(statement)}</span>
      </span>
    );
  }
  if (row.kind === 'receipt') {
    const { receipt } = row;
    return (
      <span className={receipt.reversed ? 'quiet' : 'good'}>
        {receipt.reversed ? 'Reversed: ' : receipt.refund ? 'Given back: ' : 'Received: '}
        <Money cents={absolute(receipt.amount)} /> {receipt.tender} {receipt.reference}
        {receipt.reversed && (
          <>
            {' '}
            on <Day date={receipt.reversed.date} /> by {receipt.reversed.by}: {receipt.reversed.why}
          </>
        )}
        {receipt.from && ` taken on ${receipt.from}, pays charges here`}
        {receipt.left > 0 && (
          <>
            {' '}
            · <Money cents={receipt.left} /> held as credit
            {receipt.patientId !== null && ', kept apart'}
          </>
        )}
      </span>
    );
  }
  const { charge } = row;
  const marks = (
    <>
      {charge.status === 'planned' && (
        <>
          <Tag>planned</Tag> <Money cents={charge.plannedFee} />{' '}
        </>
      )}
      {charge.keptFromPayers && (
        <>
          <Tag>kept from insurers</Tag>{' '}
        </>
      )}
      {charge.forbidden > 0 && (
        <span className="small warn">
          <Money cents={charge.forbidden} /> may not be billed
        </span>
      )}
    </>
  );
  if (charge.status === 'void')
    return (
      <span className="quiet">
        <Tag>void</Tag>{' '}
        <span className={css.void}>
          {charge.code} {charge.description}
        </span>
      </span>
    );
  return (
    <span>
      {charge.code} {charge.description}
      {charge.units > 1 && ` × ${charge.units}`}
      {charge.tooth && ` · tooth ${charge.tooth}${charge.surfaces}`}{' '}
      {charge.payers.map(
        ({ coverageId, claimId, claimStatus, payer }) =>
          claimId &&
          claimStatus && (
            <LinkIfSeen key={coverageId} to="claims" id={claimId} className="small" title={payer}>
              {claimStatus === 'closed' ? 'claim' : `claim ${claimWords(claimStatus)}`}
            </LinkIfSeen>
          ),
      )}
      {charge.payers.some((payer, index) => index === 0 && payer.claimId === null && payer.withPayer > 0) && (
        <span className="small warn">not billed yet</span>
      )}
      {marks}
    </span>
  );
}

/** What an entry moved, under the columns of the charge. */
function entryCells(entry: LedgerEntry, charge: LedgerCharge): SubLine['cells'] {
  const paid = (of: Cents) => (of === 0 ? undefined : <Money cents={of} />);
  return {
    date: <Day date={entry.date} />,
    who: <span className="quiet">{ENTRY_KINDS[entry.kind].label}</span>,
    what: (
      <>
        {entry.memo}
        {entry.by && <span className="quiet"> ({entry.by})</span>}{' '}
        {entry.remittanceId && (
          <LinkIfSeen way to="remittances" id={entry.remittanceId}>
            whole remittance
          </LinkIfSeen>
        )}
        {entry.reasons.map((reason, index) => (
          <div key={index}>
            <Tag>{reason.code}</Tag>
            {reason.words} <Money cents={reason.amount} />
          </div>
        ))}
      </>
    ),
    ...(entry.kind === 'charge' ? { fee: <Money cents={chargedIn(charge)} /> } : {}),
    payerPaid: paid(entry.paidByPayer),
    patientPaid: paid(sum([entry.paidByPatient, entry.paidByAgency])),
    reduced: paid(sum(entry.reduced.map((item) => item.amount))),
  };
}

/** Write-offs and what was passed on by decision, which are taken back by themselves. */
const takenBackHere = (entry: LedgerEntry): boolean =>
  !entry.undone && ['write-off', 'bad-debt', 'to-patient', 'to-next-payer'].includes(entry.kind);

function chargeLines(
  charge: LedgerCharge,
  rights: Rights,
  today: string,
  onStory: (id: number) => void,
): SubLine[] {
  const untouched = charge.status === 'done' && charge.withPayer > 0 && openIn(charge) === chargedIn(charge);
  return [
    ...charge.entries.map((entry) => ({
      key: `e${entry.entryId}`,
      id: `entry-${entry.entryId}`,
      undone: entry.undone,
      cells: entryCells(entry, charge),
    })),
    ...(rights.reverse
      ? charge.entries.filter(takenBackHere).map((entry) => ({
          key: `u${entry.entryId}`,
          wide: (
            <WriteOffActs
              entryId={entry.entryId}
              passed={entry.kind === 'to-patient' || entry.kind === 'to-next-payer'}
            />
          ),
        }))
      : []),
    ...(untouched && charge.caseId !== null
      ? [{ key: 'expected', wide: <Expected caseId={charge.caseId} chargeId={charge.id} /> }]
      : []),
    {
      key: 'acts',
      wide: (
        <span className={css.acts}>
          <Button type="link" className={css.link} onClick={() => onStory(charge.id)}>
            Tell this charge
          </Button>
          {charge.diagnoses.length > 0 && (
            <span className="quiet">
              Diagnoses {charge.diagnoses.join(', ')} · {charge.provider}
            </span>
          )}
          {rights.charges &&
            charge.status !== 'void' &&
            charge.payers.every((payer) => payer.claimId === null) && (
              <>
                {charge.kind === 'service' && charge.status === 'done' && (
                  <Link href={`?show=charge&charge=${charge.id}`} scroll={false}>
                    Change this charge
                  </Link>
                )}
                <ChargeActs charge={charge} today={today} />
              </>
            )}
        </span>
      ),
    },
  ];
}

/** What a receipt paid, and what can be done with it. */
function receiptLines(
  receipt: AccountPage['receipts'][number],
  charges: readonly LedgerCharge[],
  rights: Rights,
): SubLine[] {
  const paid = charges.flatMap((charge) =>
    charge.entries
      .filter((entry) => entry.receiptId === receipt.id && entry.kind === 'allocation')
      .map((entry) => ({
        key: `e${entry.entryId}`,
        undone: entry.undone,
        cells: {
          date: <Day date={charge.date} />,
          who: charge.patient,
          what: `${charge.code} ${charge.description}`,
          patientPaid: <Money cents={entry.paidByPatient} />,
        },
      })),
  );
  const acts =
    rights.reverse && !receipt.reversed && receipt.from === null
      ? [{ key: 'acts', wide: <ReceiptActs receiptId={receipt.id} /> }]
      : [];
  return [...paid, ...acts];
}
