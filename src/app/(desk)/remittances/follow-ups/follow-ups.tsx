'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import { counted } from '../../../../core/words';
import type { RowOf } from '../../../../server/lists';
import type { StateOf } from '../../../../server/lists/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { Row as Fields, FormDrawer } from '../../../../ui/form';
import { List } from '../../../../ui/list';
import { Head, Line } from '../../../../ui/page';
import { buildClaimsAction } from '../../claims/actions';
import { changeFollowUpAction, closeFollowUpAction } from '../actions';
import { Settle } from '../settle';
import { Tag } from '../../../../ui/tag';

type Row = RowOf<'follow-ups'>;

/** Denials and short payments to work, the most pressing first. */
export function FollowUps({
  list,
  today,
  owners,
}: {
  list: StateOf<'follow-ups'>;
  today: string;
  /** Who may work one, by name. */
  owners: readonly string[];
}) {
  const mayWriteOff = useMay()('reverse entries');
  const [going, setGoing] = useState<number | null>(null);
  const row = list.rows.find((item) => item.id === going);
  return (
    <>
      <Head title="Follow-ups" note={`${list.count} open`}>
        <Link href="/remittances/contract">
          <Button>Contract check</Button>
        </Link>
      </Head>
      <List
        list={list}
        label="Follow-ups"
        hint="What, claim or patient"
        empty="Nothing to follow up"
        hrefOf={(row) => (row.claimId ? `/claims/${row.claimId}` : `/accounts/${row.householdId}`)}
        cells={{
          dueDate: {
            width: 92,
            render: (row) => (
              <span className={row.dueDate !== null && row.dueDate < today ? 'stop' : ''}>
                <Day date={row.dueDate} />
              </span>
            ),
          },
          kind: {
            width: 104,
            render: (row) => <Tag tone={row.kind === 'denial' ? 'stop' : 'look'}>{row.kind}</Tag>,
          },
          words: {
            width: 168,
            // A claim asks for it now.
            render: (row) => (row.kind === 'next payer' && row.billed ? `${row.words} · billed` : row.words),
          },
          patient: {
            width: 120,
            render: (row) => (
              <Link href={`/accounts/${row.householdId}?charge=${row.chargeId ?? ''}`}>
                {row.patient ?? row.account}
              </Link>
            ),
          },
          controlNumber: {
            width: 90,
            render: (row) => row.claimId && <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>,
          },
          amount: { width: 78 },
          waiting: { width: 88 },
        }}
        rowKeys={[{ key: 'g', words: 'go on with it', run: (item) => setGoing(item.id) }]}
        peek={(item) => ({ title: item.patient ?? item.account, body: <Peek row={item} /> })}
        act={{
          width: 208,
          render: (item) => <Ways row={item} mayWriteOff={mayWriteOff} onGoOn={() => setGoing(item.id)} />,
        }}
      />
      {row && <GoOn key={row.id} row={row} owners={owners} onClose={() => setGoing(null)} />}
    </>
  );
}

/** The ways out of a follow-up, and the way on. */
function Ways({ row, mayWriteOff, onGoOn }: { row: Row; mayWriteOff: boolean; onGoOn: () => void }) {
  const { run } = useAct();
  const mayBill = useMay()('work claims');
  const { id: followUpId, chargeId, coverageId, householdId } = row;
  return (
    <Line>
      {/* What is overpaid closes itself when the balance is right. */}
      {row.kind !== 'overpaid' && (
        <>
          <Button size="small" onClick={onGoOn}>
            Go on
          </Button>
          {row.waiting === 0 && (
            <WithReason
              words="Done"
              ask="What came of it?"
              act={(outcome) => run(() => closeFollowUpAction({ followUpId, outcome }), 'Closed')}
            />
          )}
        </>
      )}
      {mayBill && row.kind === 'next payer' && row.waiting > 0 && !row.billed && householdId && (
        <Button
          size="small"
          onClick={() =>
            void run(
              () => buildClaimsAction({ householdId, which: 'next' }),
              (built) => `${counted(built.length, 'claim')} built, with what was decided before`,
            )
          }
        >
          Bill it
        </Button>
      )}
      {mayWriteOff && row.waiting > 0 && chargeId && (
        <Settle chargeId={chargeId} coverageId={coverageId ?? undefined} />
      )}
    </Line>
  );
}

/** What was said and done about a follow-up, the newest first. */
function Peek({ row }: { row: Row }) {
  return (
    <>
      <p>
        {row.words} · due <Day date={row.dueDate} />
        {row.owner && ` · ${row.owner}`}
      </p>
      <p>
        <Money cents={row.amount} strong /> · {row.service}
        {row.waiting !== 0 && (
          <>
            {' '}
            · <Money cents={row.waiting} /> waits with {row.payer ?? 'the payer'}
          </>
        )}
      </p>
      {row.notes.length === 0 && <p className="quiet">Nothing was noted yet.</p>}
      {row.notes.map((note, index) => (
        <p key={index} className="small">
          <Day date={note.day} /> {note.words} <span className="quiet">({note.by})</span>
        </p>
      ))}
    </>
  );
}

/** Another date, who works it, and what was said. */
function GoOn({ row, owners, onClose }: { row: Row; owners: readonly string[]; onClose: () => void }) {
  return (
    <FormDrawer
      title={row.words}
      initial={{ dueDate: row.dueDate, owner: row.owner }}
      along={{ followUpId: row.id }}
      version={row.version}
      action={changeFollowUpAction}
      done={onClose}
      onClose={onClose}
      words="Keep"
      below={<Peek row={row} />}
    >
      {(f) => (
        <>
          <f.Text name="note" label="What was said" focus maxLength={500} />
          <Fields>
            <f.Date name="dueDate" label="Next look" needed />
            <f.Choice
              name="owner"
              label="Owner"
              empty="Nobody"
              options={owners.map((name) => ({ value: name, label: name }))}
            />
          </Fields>
        </>
      )}
    </FormDrawer>
  );
}
