'use client';
import { Link } from '../../../../ui/link';
import { type ReactNode, useState } from 'react';
import { minus, negate, sum } from '../../../../core/money';
import { remitStatus } from '../../../../core/remittances/status';
import { remarkWords } from '../../../../core/remittances/remarks';
import { counted } from '../../../../core/words';
import type { Adjustment } from '../../../../core/x12/adjustments';
import type { RemittanceClaimRow, RemittancePage } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { useMay } from '../../../../ui/desk';
import { Day, Figure, Figures, Money } from '../../../../ui/figures';
import { Pages } from '../../../../ui/filters';
import { type LineColumn, LineTable, type SubLine } from '../../../../ui/line-table';
import { useNarrow } from '../../../../ui/narrow';
import { Line, Notice } from '../../../../ui/page';
import { ReasonTag, RemitStatus } from '../../../../ui/remittances';
import { Notices } from '../../notices';
import { Thing } from '../../../../ui/thing';
import { Work, useWork } from '../../../../ui/work';
import { checkRemittanceAction, postAction, reverseRemittanceAction, takeUpAgainAction } from '../actions';
import { Adjustments } from './adjustments';
import { Held } from './held';
import { Tag, type Tone } from '../../../../ui/tag';

const HERE: Record<RemittanceClaimRow['status'], { words: string; tone?: Tone }> = {
  ready: { words: 'ready' },
  posted: { words: 'posted' },
  unmatched: { words: 'held', tone: 'look' },
  noted: { words: 'noted' },
  returned: { words: 'returned' },
  kept: { words: 'kept as credit' },
  reversed: { words: 'reversed' },
};
/** What can be reversed by itself. */
const UNDONE_ALONE: ReadonlySet<RemittanceClaimRow['status']> = new Set(['posted', 'returned']);
/** Gives way to what can be done where there is less room. */
const LESS: ReadonlySet<string> = new Set(['charge', 'toPatient']);
/** Up to so many claims are unfolded from the beginning. */
const FEW = 8;

interface Props {
  remit: RemittancePage;
  page: number;
  pageSize: number;
  /** The charge of an account from whose ledger one comes, and the row that speaks of it. */
  from: { account: number; charge: number; row: number | null } | null;
}

/** A remittance whole: what it says in words, what is posted, what is left. */
export function RemittanceView({ remit, page, pageSize, from }: Props) {
  const may = useMay();
  const mayPost = may('post remittances');
  const mayReverse = may('reverse entries');
  const posting = useWork();
  const narrow = useNarrow();
  const { busy, run } = useAct();
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(
    new Set(
      remit.rows.length <= FEW
        ? remit.rows.map((row) => String(row.id))
        : from?.row
          ? [String(from.row)]
          : [],
    ),
  );
  const plb = sum(remit.providerAdjustments.map((item) => item.amount));
  const toPost = remit.status === 'ready' || remit.status === 'posting';
  const post = (): void => void posting.start(() => postAction({ remittanceIds: [remit.id] }));
  const check = (): void =>
    void run(
      () => checkRemittanceAction({ remittanceId: remit.id }),
      (reasons) => (reasons.length === 0 ? 'Ready to post' : `Still held: ${reasons[0]}`),
    );
  const anew = (): void =>
    void run(
      () => takeUpAgainAction({ remittanceId: remit.id }),
      (n) => `${counted(n, 'claim')} ready to post anew`,
    );
  const reverse = (why: string, remittanceClaimId?: number) =>
    run(
      () => reverseRemittanceAction({ remittanceId: remit.id, why, remittanceClaimId }),
      (n) =>
        `${counted(n, 'entry', 'entries')} reversed${remittanceClaimId === undefined ? '' : '; the rest stays'}`,
    );
  return (
    <Thing
      title={remit.payer}
      note={
        <Line>
          <RemitStatus status={remit.status} />
          <span>
            {remit.trace} · <Day date={remit.date} /> · {counted(remit.claims, 'claim')} ·{' '}
            {remit.keyedId === null ? (
              remit.file || 'keyed'
            ) : (
              <Link href={`/remittances/keyed/${remit.keyedId}`}>keyed from paper</Link>
            )}
          </span>
        </Line>
      }
      back={
        from
          ? {
              href: `/accounts/${from.account}${from.charge === 0 ? '' : `?charge=${from.charge}`}`,
              words: 'back to the account',
            }
          : { href: '/remittances', words: 'back to the list' }
      }
      acts={[
        mayPost &&
          toPost && {
            words: remit.claims === 0 ? 'Post its adjustments' : `Post ${counted(remit.claims, 'claim')}`,
            key: 's',
            kind: 'money',
            rank: 'main',
            busy: posting.busy,
            does: post,
          },
        mayPost &&
          remit.status === 'held' && {
            words: 'Check again',
            key: 'c',
            kind: 'money',
            rank: 'main',
            busy,
            does: check,
          },
        mayPost &&
          remit.status === 'posted' &&
          remit.reversed && {
            words: 'Make ready to post anew',
            key: 'a',
            kind: 'money',
            rank: 'waits',
            busy,
            does: anew,
          },
      ]}
      beside={
        mayReverse &&
        remit.status === 'posted' &&
        !(remit.reversed && remit.posted === 0 && remit.held === 0) && (
          <WithReason
            words="Reverse all"
            ask="Why is it reversed?"
            danger
            size="middle"
            act={(why) => reverse(why)}
          />
        )
      }
    >
      {from && (
        <p>
          <Link href={`/accounts/${from.account}${from.charge === 0 ? '' : `?charge=${from.charge}`}`}>
            ← back to the account
          </Link>
        </p>
      )}
      <Notices notices={remit.notices} />
      <Work work={posting.work} />
      {remit.holdReasons.length > 0 && (
        <Notice>
          <strong>This remittance is kept but not posted:</strong>
          {remit.holdReasons.map((reason, index) => (
            <div key={index}>{reason}</div>
          ))}
          <div className="quiet">
            Put right in Setup what is missing there and check again, or ask the payer for a corrected file:
            it takes this one’s place.
          </div>
        </Notice>
      )}
      <Figures label="Where the payment is">
        <Figure words="Payment" cents={remit.amount} />
        <Figure words="Posted to claims" cents={remit.posted} />
        <Figure words="Held for the payer" cents={remit.held} />
        {remit.returned !== 0 && <Figure words="Returned" cents={remit.returned} />}
        <Figure words="Provider adjustments" cents={negate(plb)} />
        <Figure
          words="Not posted yet"
          cents={
            remit.status === 'posted'
              ? 0
              : minus(remit.amount, sum([remit.posted, remit.held, remit.returned, negate(plb)]))
          }
          owed
        />
      </Figures>
      {remit.providerAdjustments.length > 0 && (
        <Adjustments rows={remit.providerAdjustments} maySettle={mayPost} mayUndo={mayReverse} />
      )}
      <LineTable<RemittanceClaimRow>
        label="Claims of this remittance"
        rows={remit.rows}
        rowKey={(row) => String(row.id)}
        empty="This remittance names no claim"
        fills="page"
        lit={from?.row ? String(from.row) : undefined}
        unfolded={unfolded}
        onUnfold={(key) =>
          setUnfolded((now) => new Set(now.has(key) ? [...now].filter((one) => one !== key) : [...now, key]))
        }
        lines={(row) => linesOf(row, remit.words)}
        rowClass={(row) => (row.status === 'reversed' ? 'quiet' : '')}
        words={counted(remit.rows.length, 'claim')}
        columns={(
          [
            {
              key: 'claim',
              title: 'Claim',
              width: 150,
              render: (row) =>
                row.claimId ? (
                  <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>
                ) : (
                  row.controlNumber
                ),
            },
            {
              key: 'patient',
              title: 'Patient',
              width: 150,
              render: (row) => {
                const name = [row.content.patient.last, row.content.patient.first].filter(Boolean).join(', ');
                return row.householdId ? <Link href={`/accounts/${row.householdId}`}>{name}</Link> : name;
              },
            },
            {
              key: 'says',
              title: 'Payer says',
              width: 86,
              render: (row) => remitStatus(row.content.status)?.words ?? `status ${row.content.status}`,
            },
            {
              key: 'here',
              title: 'Here',
              width: 84,
              render: (row) => <Tag tone={HERE[row.status].tone}>{HERE[row.status].words}</Tag>,
            },
            {
              key: 'act',
              title: 'What can be done',
              render: (row) =>
                (row.status === 'unmatched' || row.status === 'kept') && mayPost ? (
                  <Held row={row} />
                ) : UNDONE_ALONE.has(row.status) && remit.status === 'posted' && mayReverse ? (
                  <Line>
                    <WithReason
                      words="Reverse"
                      ask="Why is it reversed?"
                      act={(why) => reverse(why, row.id)}
                    />
                    {row.note && <div className="warn small">{row.note}</div>}
                  </Line>
                ) : (
                  <div className="quiet small">{row.holdReason || row.note}</div>
                ),
            },
            { key: 'charge', title: 'Charge', width: 100, money: (row) => row.charge, sum: true },
            { key: 'paid', title: 'Paid', width: 100, money: (row) => row.paid, strong: true, sum: true },
            {
              key: 'toPatient',
              title: 'To patient',
              width: 100,
              money: (row) => row.content.patientResponsibility,
              sum: true,
            },
          ] satisfies LineColumn<RemittanceClaimRow>[]
        ).filter(({ key }) => !narrow || !LESS.has(key))}
      />
      <Pages count={remit.count} size={pageSize} page={page} />
    </Thing>
  );
}

/** What the payer says of the whole claim, and of each line, under the columns of the claim. */
function linesOf({ content, outside }: RemittanceClaimRow, words: Record<string, string>): SubLine[] {
  const whole: SubLine[] =
    content.adjustments.length === 0 && content.remarks.length === 0
      ? []
      : [
          {
            key: 'whole',
            cells: {
              claim: 'Whole claim',
              patient: <Reasons list={content.adjustments} words={words} remarks={content.remarks} />,
            },
          },
        ];
  return [
    ...whole,
    ...content.lines.map((line, index): SubLine => {
      const cells: Record<string, ReactNode> = {
        claim: (
          <>
            {line.code} {line.modifiers.join(' ')}{' '}
            {line.date && (
              <span className="quiet">
                <Day date={line.date} />
              </span>
            )}
          </>
        ),
        patient: (
          <>
            <Reasons list={line.adjustments} words={words} remarks={line.remarks} />
            {outside[index]?.map((said) => (
              <div key={said} className="quiet small">
                {said} (CAQH CORE 360)
              </div>
            ))}
          </>
        ),
        charge: <Money cents={line.charge} />,
        paid: <Money cents={line.paid} strong />,
        toPatient: (
          <Money
            cents={sum(line.adjustments.filter((item) => item.group === 'PR').map((item) => item.amount))}
          />
        ),
      };
      return { key: String(index), cells };
    }),
  ];
}

function Reasons({
  list,
  words,
  remarks,
}: {
  list: readonly Adjustment[];
  words: Record<string, string>;
  remarks: readonly string[];
}) {
  return (
    <>
      {list.map((item, index) => (
        <div key={index}>
          <ReasonTag code={`${item.group}-${item.reason}`} />{' '}
          {words[`${item.group}-${item.reason}`] ??
            words[`*-${item.reason}`] ??
            'not in the reason code table'}{' '}
          <Money cents={item.amount} />
        </div>
      ))}
      {remarks.map((code) => (
        <div key={code} className="quiet small">
          {remarkWords(code)}
        </div>
      ))}
    </>
  );
}
