'use client';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { cents, formatMoneyPlain } from '../../../core/money';
import { counted } from '../../../core/words';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { useAct, useOnce } from '../../../ui/act';
import { Choose } from '../../../ui/choose';
import { useMay } from '../../../ui/desk';
import { useDialog } from '../../../ui/dialog';
import { Day, Money } from '../../../ui/figures';
import { FormDrawer } from '../../../ui/form';
import { List } from '../../../ui/list';
import { Facts, Head, Toolbar } from '../../../ui/page';
import { assignAction, draftLettersAction, proposePlacementsAction } from './actions';
import { ContactDrawer } from './contact-drawer';
import { OverdueViews } from './views';

type Row = RowOf<'overdue'>;

interface Props {
  list: StateOf<'overdue'>;
  people: readonly { id: string; name: string }[];
  agencies: { value: number; label: string }[];
}

/** The accounts that are past due. */
export function OverdueList({ list, people, agencies }: Props) {
  const mayWork = useMay()('work overdue');
  const { dialog, params, open, close } = useDialog();
  const [chosen, setChosen] = useState<number[]>([]);
  const rows = list.rows.filter(({ id }) => chosen.includes(id));
  const call = (row: Row): void => open('contact', { of: String(row.householdId) });
  return (
    <>
      <Head
        title="Overdue"
        note={`${counted(list.count, 'account')} · ${formatMoneyPlain(list.sums.pastDue ?? cents(0))} past due`}
      >
        <OverdueViews value="/overdue" />
      </Head>
      {mayWork && chosen.length > 0 && (
        <Chosen rows={rows} people={people} propose={() => open('propose')} done={() => setChosen([])} />
      )}
      <List
        list={list}
        label="Accounts past due"
        hint="Guarantor, account or phone"
        hrefOf={(row) => `/accounts/${row.householdId}`}
        selected={mayWork ? { ids: chosen, set: setChosen } : undefined}
        empty={list.search ? `Nobody found for “${list.search}”` : 'Nothing is to be done here'}
        filters={mayWork && list.view === 'letters' && list.count > 0 && <AllLetters count={list.count} />}
        cells={{
          account: {
            width: 84,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          pastDue: { width: 92, render: (row) => <Money cents={row.pastDue} strong /> },
          days: { width: 56 },
          stage: { width: 118, ellipsis: true },
          next: { width: 70, ellipsis: true },
          nextOn: { width: 96, render: (row) => <Day date={row.nextOn} /> },
          why: { ellipsis: true, render: (row) => <span title={row.why}>{row.why}</span> },
          lastContact: { width: 100 },
          owner: { width: 100, ellipsis: true },
          score: { width: 88, render: (row) => <Money cents={Math.round(row.score * 100)} /> },
        }}
        rowKeys={mayWork ? [{ key: 'c', words: 'note a contact', run: call }] : []}
        act={
          mayWork
            ? {
                width: 92,
                render: (row) => (
                  <Button size="small" onClick={() => call(row)}>
                    Contact
                  </Button>
                ),
              }
            : undefined
        }
        peek={(row) => ({ title: `${row.guarantor} · ${row.account}`, body: <Peek row={row} /> })}
      />
      <p className="quiet small">
        Per minute: what is past due × the chance that it is paid, by its age in the practice’s own history ÷
        the minutes of the next action (letter 2, call 6, agency 10).
      </p>
      {dialog === 'contact' && <ContactDrawer householdId={Number(params.get('of')) || 0} onClose={close} />}
      {dialog === 'propose' && (
        <ProposeDrawer
          householdIds={[...new Set(rows.map(({ householdId }) => householdId))]}
          agencies={agencies}
          onClose={close}
        />
      )}
    </>
  );
}

/** How a score came about, and what else is known. */
const Peek = ({ row }: { row: Row }) => (
  <Facts
    facts={[
      ['Past due', formatMoneyPlain(cents(row.pastDue))],
      [
        'Chance',
        `${Math.round(row.chance * 100)} %, ${row.own ? 'by our own history' : 'assumed: the history is too small'}`,
      ],
      ['Minutes', row.minutes === 0 ? 'nothing is to be done now' : String(row.minutes)],
      ['Per minute', formatMoneyPlain(cents(Math.round(row.score * 100)))],
      ['Stage', row.stage],
      ['Last letter', row.lastLetter && <Day key="letter" date={row.lastLetter} />],
      ['Next', `${row.next}${row.nextStage ? ` (${row.nextStage})` : ''}`],
      ['Why', row.why],
      ['Last payment', row.lastPayment && <Day key="payment" date={row.lastPayment} />],
      [
        'Promise',
        row.promiseBy && (
          <span key="promise">
            {formatMoneyPlain(cents(row.promise))} by <Day date={row.promiseBy} />
          </span>
        ),
      ],
      ['Plan', row.plan],
      ['Reach', row.reach],
      ['Owner', row.owner],
    ]}
  />
);

/** Prepares every letter that is due. */
function AllLetters({ count }: { count: number }) {
  const { busy, prepare } = usePrepare();
  return (
    <Button size="small" type="primary" loading={busy} onClick={() => void prepare(null)}>
      Prepare {counted(count, 'letter')}
    </Button>
  );
}

/** Prepares letters and goes to their batch. */
function usePrepare() {
  const { busy, run } = useAct();
  const press = useOnce();
  const router = useRouter();
  const prepare = async (householdIds: number[] | null): Promise<boolean> => {
    const made = await run(
      () => draftLettersAction({ householdIds, key: press.key() }),
      ({ pieces, left }) =>
        `Preparing ${counted(pieces, 'letter')}${left.length > 0 ? `; left out: ${left.map(({ account, why }) => `${account}: ${why}`).join('; ')}` : ''}`,
    );
    if (!made) return false;
    press.next();
    router.push(`/overdue/batches/${made.value.batchId}`);
    return true;
  };
  return { busy, prepare };
}

/** What can be done with those that are chosen. */
function Chosen({
  rows,
  people,
  propose,
  done,
}: {
  rows: readonly Row[];
  people: Props['people'];
  propose: () => void;
  done: () => void;
}) {
  const { busy, run } = useAct();
  const letters = usePrepare();
  const ids = [...new Set(rows.map(({ householdId }) => householdId))];
  const due = [
    ...new Set(rows.filter(({ action }) => action === 'letter').map(({ householdId }) => householdId)),
  ];
  const assign = async (userId: string): Promise<void> => {
    const given = await run(
      () => assignAction({ householdIds: ids, userId: userId === '-' ? null : userId }),
      (many) => `${counted(many, 'account')} assigned`,
    );
    if (given) done();
  };
  return (
    <Toolbar>
      {due.length > 0 && (
        <Button size="small" loading={letters.busy} onClick={() => void letters.prepare(due)}>
          Prepare {counted(due.length, 'letter')}
        </Button>
      )}
      <Choose<string>
        size="small"
        aria-label={`Give ${ids.length} to`}
        value=""
        disabled={busy}
        onChange={(userId) => userId && void assign(userId)}
        options={[
          { value: '', label: `Give ${ids.length} to …` },
          ...people.map(({ id, name }) => ({ value: id, label: name })),
          { value: '-', label: 'nobody' },
        ]}
      />
      <Button size="small" onClick={propose}>
        Propose {ids.length} for an agency
      </Button>
      <Button size="small" type="text" onClick={done}>
        Choose none
      </Button>
    </Toolbar>
  );
}

/** Proposes accounts for an agency. */
function ProposeDrawer({
  householdIds,
  agencies,
  onClose,
}: {
  householdIds: number[];
  agencies: Props['agencies'];
  onClose: () => void;
}) {
  const router = useRouter();
  return (
    <FormDrawer
      title={`Propose ${counted(householdIds.length, 'account')} for an agency`}
      initial={{ connectionId: agencies[0]?.value, why: '' }}
      along={{ householdIds }}
      action={proposePlacementsAction}
      done={() => router.push('/overdue/placements?view=proposed')}
      words={`Propose ${counted(householdIds.length, 'account')}`}
      onClose={onClose}
    >
      {(f) => (
        <>
          <f.Choice name="connectionId" label="Agency" options={agencies} needed />
          <f.Text name="why" label="Why" needed focus maxLength={300} />
          <p className="quiet small">
            A manager decides, with the evidence on one page. Nothing moves before.
          </p>
        </>
      )}
    </FormDrawer>
  );
}
