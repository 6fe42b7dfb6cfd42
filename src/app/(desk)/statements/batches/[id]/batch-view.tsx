'use client';
import { useMay } from '../../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../../ui/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { formatMoneyPlain } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import type { RowOf } from '../../../../../server/lists';
import type { StateOf } from '../../../../../server/lists/read';
import type { WorkPage } from '../../../../../server/jobs/read';
import type { BatchPage } from '../../../../../server/batches/read';
import { WithReason, useAct } from '../../../../../ui/act';
import { useDialog } from '../../../../../ui/dialog';
import { useKeys } from '../../../../../ui/keys';
import { List } from '../../../../../ui/list';
import { Head, Notice, Toolbar } from '../../../../../ui/page';
import { Work, isGoing, useFollowed, useWork } from '../../../../../ui/work';
import {
  putBackAction,
  refreshPiecesAction,
  sendBatchAction,
  takeOutAction,
  voidAction,
} from '../../actions';
import { AddDrawer, EditDrawer } from './edit-drawer';
import css from './batch.module.css';
import { AgainForm, PrintNotice } from './print-notice';

type Row = RowOf<'pieces'>;

/** How far a batch is, in words. */
const howFar = (counts: BatchPage['counts']): string =>
  (
    [
      [counts.draft, counted(counts.draft, 'draft')],
      [counts.made, `${counts.made} to go out`],
      [counts.sent, `${counts.sent} sent`],
      [counts.failed, `${counts.failed} failed`],
      [counts['taken-out'], `${counts['taken-out']} taken out`],
      [counts.void, `${counts.void} not sent after all`],
    ] as const
  )
    .flatMap(([count, words]) => (count > 0 ? [words] : []))
    .join(', ');

/** A batch: its pieces are looked through, changed, sent, printed, sent again or voided. */
export function BatchView({
  batch,
  list,
  going,
}: {
  batch: BatchPage;
  list: StateOf<'pieces'>;
  going: WorkPage | null;
}) {
  const mayPrepare = useMay()('prepare statements');
  const { busy, run } = useAct();
  const long = useWork();
  const { dialog, open, close } = useDialog();
  const [chosen, setChosen] = useState<number[]>([]);
  const { counts, changed } = batch;
  const letters = batch.kind === 'letter';
  const waiting = counts.draft + counts.failed;
  const send = (): void => void long.start(() => sendBatchAction({ batchId: batch.id }));
  useKeys(mayPrepare && waiting > 0 && !long.busy ? [{ key: 's', words: 'send the batch', run: send }] : []);
  return (
    <>
      <Head
        title={batch.title}
        note={`${howFar(counts)} · ${formatMoneyPlain(batch.due)} ${letters ? 'past due' : 'due'} · ${batch.by}`}
      >
        <Link href={letters ? '/overdue/letters?view=all' : '/statements?view=open'}>All batches</Link>
        {mayPrepare && (
          <>
            <a href={`/api/batches/${batch.id}?list=only`} target="_blank" rel="noreferrer">
              List as PDF
            </a>
            {!letters && <Button onClick={() => open('add')}>Add a household</Button>}
            {counts.sent + counts.made + counts.failed > 0 && (
              <Button onClick={() => open('again')}>Print or send again</Button>
            )}
            {waiting > 0 && (
              <Button type="primary" loading={long.busy} onClick={send}>
                Send {counted(waiting, 'piece')} (S)
              </Button>
            )}
          </>
        )}
      </Head>
      {going && !long.work && <Going work={going} />}
      <Work work={long.work} />
      {mayPrepare && batch.toPrint && (
        <PrintNotice batchId={batch.id} toPrint={batch.toPrint} notAsMade={batch.notAsMade} />
      )}
      {mayPrepare && changed.length > 0 && (
        <Notice>
          {counted(changed.length, 'draft has', 'drafts have')} changed since{' '}
          {changed.length === 1 ? 'it was' : 'they were'} prepared.{' '}
          <Button
            size="small"
            loading={busy}
            onClick={() =>
              void run(
                () => refreshPiecesAction({ pieceIds: changed }),
                (made) => `${counted(made, 'draft')} made anew`,
              )
            }
          >
            Make {changed.length === 1 ? 'it' : `all ${changed.length}`} anew
          </Button>
        </Notice>
      )}
      {dialog === 'again' && mayPrepare && (
        <Notice>
          <AgainForm batchId={batch.id} last={batch.last} failed={counts.failed} close={close} />
        </Notice>
      )}
      {mayPrepare && chosen.length > 0 && (
        <Chosen
          rows={list.rows.filter(({ id }) => chosen.includes(id))}
          edit={() => open('edit')}
          done={() => setChosen([])}
        />
      )}
      <List
        list={list}
        label="Pieces"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}`}
        selected={mayPrepare ? { ids: chosen, set: setChosen } : undefined}
        empty={list.search ? `Nobody found for “${list.search}”` : 'No pieces here'}
        cells={{
          number: { width: 56 },
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          delivery: { width: 110 },
          state: { width: 130 },
          said: { width: 240, ellipsis: true, render: (row) => <span title={row.said}>{row.said}</span> },
        }}
        act={{
          width: 80,
          render: (row) => (
            <a href={`/api/pieces/${row.id}`} target="_blank" rel="noreferrer">
              Pages
            </a>
          ),
        }}
        peek={(row) => ({
          title: `${row.number} · ${row.guarantor}`,
          body: (
            <iframe
              className={css.pages}
              title={`Pages for ${row.guarantor}`}
              src={`/api/pieces/${row.id}#view=FitH&toolbar=0`}
            />
          ),
        })}
      />
      {dialog === 'edit' && mayPrepare && <EditDrawer pieceIds={chosen} letters={letters} onClose={close} />}
      {dialog === 'add' && mayPrepare && <AddDrawer batchId={batch.id} onClose={close} />}
    </>
  );
}

/** Work on this batch that somebody has begun. */
function Going({ work }: { work: WorkPage }) {
  const router = useRouter();
  const now = useFollowed(work);
  const over = !isGoing(now.status);
  useEffect(() => {
    if (over) router.refresh();
  }, [over, router]);
  return <Work work={now} />;
}

/** What can be done with the pieces that are chosen: each button says how many it acts on. */
function Chosen({ rows, edit, done }: { rows: readonly Row[]; edit: () => void; done: () => void }) {
  const { busy, run } = useAct();
  const ids = (...states: Row['status'][]): number[] =>
    rows.filter(({ status }) => states.includes(status)).map(({ id }) => id);
  const drafts = ids('draft');
  const open = ids('draft', 'made', 'failed');
  const out = ids('taken-out');
  const papers = rows
    .filter(
      ({ status, way }) => status === 'made' || status === 'failed' || (status === 'sent' && way !== 'email'),
    )
    .map(({ id }) => id);
  const act = async (what: Promise<{ value: unknown } | undefined>): Promise<unknown> => {
    const result = await what;
    if (result) done();
    return result;
  };
  return (
    <Toolbar>
      {drafts.length > 0 && (
        <>
          <Button size="small" onClick={edit}>
            Edit {drafts.length}
          </Button>
          <Button
            size="small"
            loading={busy}
            onClick={() =>
              void act(
                run(
                  () => refreshPiecesAction({ pieceIds: drafts }),
                  (made) => `${counted(made, 'draft')} made anew`,
                ),
              )
            }
          >
            Make {drafts.length} anew
          </Button>
        </>
      )}
      {open.length > 0 && (
        <WithReason
          words={`Take out ${open.length}`}
          ask="Why not"
          act={(why) =>
            act(
              run(
                () => takeOutAction({ pieceIds: open, why }),
                (many) => `${many} taken out`,
              ),
            )
          }
        />
      )}
      {out.length > 0 && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void act(
              run(
                () => putBackAction({ pieceIds: out }),
                (many) => `${many} put back`,
              ),
            )
          }
        >
          Put back {out.length}
        </Button>
      )}
      {papers.length > 0 && (
        <WithReason
          words={`Not sent after all: ${papers.length}`}
          ask="Why they do not count"
          act={(why) =>
            act(
              run(
                () => voidAction({ pieceIds: papers, why }),
                (many) => `${many} do not count`,
              ),
            )
          }
        />
      )}
      <Button size="small" type="text" onClick={done}>
        Choose none
      </Button>
    </Toolbar>
  );
}
