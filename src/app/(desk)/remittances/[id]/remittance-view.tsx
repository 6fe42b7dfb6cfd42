'use client';
import { Button, Input } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import { minus, negate, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { Adjustment } from '../../../../core/x12/remittance835';
import type { RemittanceClaimRow, RemittancePage } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Figure, Figures, Money } from '../../../../ui/figures';
import { useKeys } from '../../../../ui/keys';
import { Pages } from '../../../../ui/filters';
import { LineTable, type SubLine } from '../../../../ui/line-table';
import { Head, Line, Notice } from '../../../../ui/page';
import { RemitStatus } from '../../../../ui/remittances';
import { Work, useWork } from '../../../../ui/work';
import { matchAction, postAction, reverseRemittanceAction } from '../actions';
import { Tag, type Tone } from '../../../../ui/tag';

const HERE: Record<RemittanceClaimRow['status'], { words: string; tone?: Tone }> = {
  ready: { words: 'ready' },
  held: { words: 'held', tone: 'stop' },
  posted: { words: 'posted' },
  unmatched: { words: 'not ours', tone: 'look' },
  reversed: { words: 'reversed' },
};
const SAYS: Record<string, string> = {
  '1': 'primary',
  '2': 'secondary',
  '3': 'tertiary',
  '4': 'denied',
  '22': 'reversal',
};
/** Up to so many claims are unfolded from the beginning. */
const FEW = 8;

interface Props {
  remit: RemittancePage;
  page: number;
  pageSize: number;
  mayPost: boolean;
  mayReverse: boolean;
}

/** A remittance whole: what it says in words, what is posted, what is left. */
export function RemittanceView({ remit, page, pageSize, mayPost, mayReverse }: Props) {
  const posting = useWork();
  const router = useRouter();
  const { run } = useAct();
  const [unfolded, setUnfolded] = useState<ReadonlySet<string>>(
    new Set(remit.rows.length <= FEW ? remit.rows.map((row) => String(row.id)) : []),
  );
  const plb = sum(remit.providerAdjustments.map((item) => item.amount));
  const toPost = remit.status === 'ready' || remit.status === 'posting';
  const post = (): void => void posting.start(() => postAction({ remittanceIds: [remit.id] }));
  useKeys([
    ...(mayPost && toPost && !posting.busy ? [{ key: 's', words: 'post', run: post }] : []),
    { key: 'Escape', words: 'back to the list', run: () => router.push('/remittances') },
  ]);
  const reverse = (why: string, remittanceClaimId?: number) =>
    run(
      () => reverseRemittanceAction({ remittanceId: remit.id, why, remittanceClaimId }),
      (n) =>
        `${counted(n, 'entry', 'entries')} reversed${remittanceClaimId === undefined ? '' : '; the rest stays'}`,
    );
  return (
    <>
      <Head
        title={remit.payer}
        note={
          <Line>
            <RemitStatus status={remit.status} />
            <span>
              {remit.trace} · <Day date={remit.date} /> · {counted(remit.claims, 'claim')} ·{' '}
              {remit.file || 'keyed'}
            </span>
          </Line>
        }
      >
        {mayReverse && remit.status === 'posted' && (
          <WithReason
            words="Reverse all"
            ask="Why is it reversed?"
            danger
            size="middle"
            act={(why) => reverse(why)}
          />
        )}
        {mayPost && toPost && (
          <Button type="primary" loading={posting.busy} onClick={post}>
            {remit.claims === 0 ? 'Post its adjustments' : `Post ${counted(remit.claims, 'claim')}`} (S)
          </Button>
        )}
      </Head>
      <Work work={posting.work} />
      {remit.holdReasons.length > 0 && (
        <Notice>
          <strong>This remittance is kept but not posted:</strong>
          {remit.holdReasons.map((reason, index) => (
            <div key={index}>{reason}</div>
          ))}
          <div className="quiet">Ask the payer for a corrected file: it takes this one’s place.</div>
        </Notice>
      )}
      <Figures label="Where the payment is">
        <Figure words="Payment" cents={remit.amount} />
        <Figure words="Posted to claims" cents={remit.posted} />
        <Figure words="Held, not ours" cents={remit.held} />
        <Figure words="Provider adjustments" cents={negate(plb)} />
        <Figure
          words="Not posted yet"
          cents={
            remit.status === 'posted' ? 0 : minus(remit.amount, sum([remit.posted, remit.held, negate(plb)]))
          }
          owed
        />
      </Figures>
      {remit.providerAdjustments.map((item, index) => (
        <p key={index} className="small">
          Provider adjustment {item.code} {item.reference}: <Money cents={negate(item.amount)} />{' '}
          {item.code === 'L6' ? '(interest)' : ''}
        </p>
      ))}
      <LineTable<RemittanceClaimRow>
        label="Claims of this remittance"
        rows={remit.rows}
        rowKey={(row) => String(row.id)}
        empty="This remittance names no claim"
        fills="page"
        unfolded={unfolded}
        onUnfold={(key) =>
          setUnfolded((now) => new Set(now.has(key) ? [...now].filter((one) => one !== key) : [...now, key]))
        }
        lines={(row) => linesOf(row, remit.words)}
        words={counted(remit.rows.length, 'claim')}
        columns={[
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
              const name = `${row.content.patient.last}, ${row.content.patient.first}`;
              return row.householdId ? <Link href={`/accounts/${row.householdId}`}>{name}</Link> : name;
            },
          },
          {
            key: 'says',
            title: 'Payer says',
            width: 86,
            render: (row) => SAYS[row.content.status] ?? `status ${row.content.status}`,
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
              row.status === 'unmatched' && mayPost ? (
                <Match row={row} />
              ) : row.status === 'posted' && remit.status === 'posted' && mayReverse ? (
                <WithReason words="Reverse" ask="Why is it reversed?" act={(why) => reverse(why, row.id)} />
              ) : (
                <span className="quiet small">{row.holdReason}</span>
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
        ]}
      />
      <Pages count={remit.claims} size={pageSize} page={page} />
    </>
  );
}

/** What the payer says of the whole claim, and of each line, under the columns of the claim. */
function linesOf({ content }: RemittanceClaimRow, words: Record<string, string>): SubLine[] {
  const whole: SubLine[] =
    content.adjustments.length === 0
      ? []
      : [
          {
            key: 'whole',
            cells: {
              claim: 'Whole claim',
              patient: <Reasons list={content.adjustments} words={words} remarks={[]} />,
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
        patient: <Reasons list={line.adjustments} words={words} remarks={line.remarks} />,
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
          <Tag>
            {item.group}-{item.reason}
          </Tag>
          {words[`${item.group}-${item.reason}`] ??
            words[`*-${item.reason}`] ??
            'not in the reason code table'}{' '}
          <Money cents={item.amount} />
        </div>
      ))}
      {remarks.length > 0 && <span className="quiet">Remarks {remarks.join(', ')}</span>}
    </>
  );
}

function Match({ row }: { row: RemittanceClaimRow }) {
  const { busy, run } = useAct();
  const [controlNumber, setNumber] = useState('');
  const go = (): Promise<unknown> =>
    run(() => matchAction({ remittanceClaimId: row.id, controlNumber }), 'Matched and posted');
  return (
    <span title={row.holdReason}>
      <Line>
        <Input
          size="small"
          placeholder="Our claim number"
          aria-label="Our claim number"
          value={controlNumber}
          onChange={(event) => setNumber(event.target.value)}
          onPressEnter={() => void go()}
        />
        <Button size="small" loading={busy} disabled={!controlNumber.trim()} onClick={() => void go()}>
          Match
        </Button>
      </Line>
    </span>
  );
}
