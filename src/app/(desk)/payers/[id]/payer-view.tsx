'use client';
import { Button } from 'antd';
import { useSearchParams } from 'next/navigation';
import { type CalendarDate, formatDate } from '../../../../core/calendar';
import { formatMoneyPlain, sum } from '../../../../core/money';
import { FILING_CODES, WAYS } from '../../../../core/payers/words';
import { counted } from '../../../../core/words';
import type { Pinned } from '../../../../server/notes/notes';
import type { PayerPage } from '../../../../server/payers/read';
import type { SetupPage, readSetupRow } from '../../../../server/setup/read';
import { ClaimStatus } from '../../../../ui/claims';
import { useMay } from '../../../../ui/desk';
import { useDialog } from '../../../../ui/dialog';
import { Money } from '../../../../ui/figures';
import { FormDrawer } from '../../../../ui/form';
import { Link } from '../../../../ui/link';
import { useNarrow } from '../../../../ui/narrow';
import { Columns, Facts, Line, Notice, Panel } from '../../../../ui/page';
import { DeskTable } from '../../../../ui/table';
import { Tag } from '../../../../ui/tag';
import { Thing } from '../../../../ui/thing';
import { NotesDrawer } from '../../accounts/[id]/notes-drawer';
import { Notices } from '../../notices';
import { mergePayersAction } from '../../setup/actions';
import { RowDrawer } from '../../setup/[table]/row-drawer';
import css from './payer.module.css';

interface Props {
  payer: PayerPage;
  own: Awaited<ReturnType<typeof readSetupRow>>;
  parts: SetupPage[];
  notices: readonly Pinned[];
}

/** The fields of its form that a finding names otherwise. */
const FIELD_OF: Readonly<Record<string, string>> = {
  payerId: 'payer_id',
  connection: 'connection_id',
  filingCode: 'filing_code',
};

/** The page of a payer. Its parts are tables of Setup, of this payer alone. */
export function PayerView({ payer, own, parts, notices }: Props) {
  const may = useMay();
  const mayChange = may('change setup');
  const { dialog, params, open, close } = useDialog();
  const field = useSearchParams().get('field') ?? '';
  const part = parts.find(({ key }) => key === dialog);
  const row = part?.list.rows.find(({ key }) => key === params.get('row'));
  const waits = sum(payer.claims.map(({ total }) => total));
  return (
    <>
      <Thing
        title={payer.name}
        note={
          <Line>
            <span>
              {[
                `Claims go ${WAYS[payer.accepts]}${payer.connection && payer.accepts === 'electronic' ? `: ${payer.connection}` : ''}`,
                payer.payerId && `id ${payer.payerId}`,
                FILING_CODES[own.row.values.filing_code as keyof typeof FILING_CODES],
              ]
                .filter(Boolean)
                .join(' · ')}
            </span>
            {payer.unfinished && <Tag tone="look">not set up yet</Tag>}
            {payer.retiredOn && <Tag>retired on {formatDate(payer.retiredOn)}</Tag>}
          </Line>
        }
        back={{
          href: '/setup/payers',
          words: 'back to the payers',
          first: () => {
            if (dialog) close();
            return dialog !== null;
          },
        }}
        acts={[
          mayChange && { words: 'Change', key: 'c', kind: 'claims', rank: 'main', does: () => open('own') },
          may('write notes') && {
            words: 'Notes',
            key: 'e',
            kind: 'record',
            rank: 'often',
            does: () => open('notes'),
          },
          mayChange &&
            payer.mergedInto === null && {
              words: 'Merge into another',
              key: 'm',
              kind: 'record',
              does: () => open('merge'),
            },
        ]}
      >
        <Notices notices={notices} />
        {payer.mergedInto && (
          <Notice>
            It was merged into <Link href={`/payers/${payer.mergedInto.id}`}>{payer.mergedInto.name}</Link>:
            all that it had is there.
          </Notice>
        )}
        {payer.unfinished && (
          <Notice>
            It was entered at the desk. Its claims stop until somebody says how they go, its payer id and its
            kind, and takes “Not set up yet” away.
          </Notice>
        )}
        <Columns>
          <div>
            <Panel title="What is passed on for it">
              <Transactions payer={payer} />
            </Panel>
            {parts.slice(0, 4).map((one) => (
              <Part key={one.key} part={one} payer={payer} mayChange={mayChange} open={open} />
            ))}
          </div>
          <div>
            <Panel title="Open with it">
              {payer.claims.length === 0 ? (
                <p className="quiet">No claim is open.</p>
              ) : (
                <ul className={css.plain}>
                  {payer.claims.map(({ status, count, total }) => (
                    <li key={status}>
                      <span>
                        <ClaimStatus status={status} />
                      </span>
                      <span>{counted(count, 'claim')}</span>
                      <Money cents={total} />
                    </li>
                  ))}
                </ul>
              )}
              <Facts
                facts={[
                  ['Claims', waits === 0 ? '' : formatMoneyPlain(waits)],
                  ['Waits with it', formatMoneyPlain(payer.waiting)],
                ]}
              />
            </Panel>
            <Panel title="Its plans" below>
              {payer.plans.length === 0 ? (
                <p className="quiet">It has no plan yet.</p>
              ) : (
                <ul className={css.plain}>
                  {payer.plans.map(({ id, name, schedule, scheduleId, people }) => (
                    <li key={id}>
                      <Link href={`/terms/${id}`}>{name}</Link>
                      {schedule === null ? (
                        <span className="quiet">no schedule</span>
                      ) : (
                        <Link href={`/fees/${scheduleId}`}>{schedule}</Link>
                      )}
                      <span className="quiet">{counted(people, 'person', 'people')}</span>
                    </li>
                  ))}
                </ul>
              )}
            </Panel>
            {parts.slice(4).map((one) => (
              <Part key={one.key} part={one} payer={payer} mayChange={mayChange} open={open} />
            ))}
          </div>
        </Columns>
      </Thing>
      {mayChange && dialog === 'own' && (
        <RowDrawer
          table="payers"
          noun="payer"
          fields={own.fields}
          row={own.row}
          focus={FIELD_OF[field] ?? field}
          onClose={close}
        />
      )}
      {mayChange && part && (
        <RowDrawer
          table={part.key}
          noun={part.list.noun[0]}
          fields={part.fields}
          row={row ?? 'new'}
          along={{ payer_id: String(payer.id) }}
          onClose={close}
        />
      )}
      {dialog === 'notes' && <NotesDrawer of={{ payerId: payer.id }} onClose={close} />}
      {mayChange && dialog === 'merge' && (
        <FormDrawer
          title={`Merge ${payer.name} into another payer`}
          along={{ payerId: payer.id }}
          action={mergePayersAction}
          done={close}
          onClose={close}
          words="Merge"
        >
          {(f) => (
            <>
              <p className="quiet small">
                Its plans, claims and money are the other’s from now on. What was written of it stays as it
                was, and its number goes on being known.
              </p>
              <f.Choice
                name="intoId"
                label="Into"
                needed
                focus
                options={payer.others.map(({ id, name }) => ({ value: id, label: name }))}
              />
              <f.Text name="why" label="How they were found to be one" needed maxLength={200} />
            </>
          )}
        </FormDrawer>
      )}
    </>
  );
}

/** For each kind of transaction whether it is taken, and who has an agreement. */
function Transactions({ payer }: { payer: PayerPage }) {
  return (
    <>
      {payer.accepts === 'electronic' && (
        <p className="small quiet">
          {payer.listed
            ? `${payer.connection} calls it ${payer.listed}.`
            : payer.hasList
              ? `${payer.payerId || 'Its id'} is not on the list of ${payer.connection}.`
              : `${payer.connection || 'Its connection'} has delivered no list of payers yet.`}
        </p>
      )}
      <DeskTable
        label="What is passed on for it"
        rows={payer.transactions}
        rowKey={({ kind }) => kind}
        columns={[
          { key: 'kind', title: 'Transaction', render: ({ words }) => words },
          {
            key: 'taken',
            title: 'Taken',
            width: 128,
            render: ({ taken, needs }) => (taken ? (needs ? 'with agreement' : 'yes') : '–'),
          },
          {
            key: 'who',
            title: 'Agreed for',
            render: ({ agreements, needs, taken }) =>
              agreements.length > 0 ? (
                agreements.map(({ who, since }) => `${who} since ${formatDate(since)}`).join(', ')
              ) : needs && taken ? (
                <span className="warn">nobody yet</span>
              ) : (
                '–'
              ),
          },
        ]}
        empty="–"
      />
    </>
  );
}

/** One of the tables that stand on the page. */
function Part({
  part,
  payer,
  mayChange,
  open,
}: {
  part: SetupPage;
  payer: PayerPage;
  mayChange: boolean;
  open: (name: string, more?: Record<string, string>) => void;
}) {
  const { list, title, key } = part;
  const narrow = useNarrow();
  const columns = list.columns.filter(({ key: name }) => name !== 'payer_id').slice(0, narrow ? 2 : 4);
  return (
    <Panel title={title.replace(/ (at|of|with) a payer$/, '')} below>
      <p className="small quiet">{part.about}</p>
      {list.rows.length > 0 && (
        <DeskTable
          label={title}
          rows={list.rows}
          rowKey={({ key: row }) => row}
          columns={[
            ...columns.map((column) => ({
              key: column.key,
              title: column.title,
              cut: true,
              render: (row: (typeof list.rows)[number]) => {
                const value = String(row[column.key] ?? '');
                return value === '' ? '–' : column.kind === 'day' ? formatDate(value as CalendarDate) : value;
              },
            })),
            ...(mayChange
              ? [
                  {
                    key: 'act',
                    title: '',
                    width: 84,
                    fixed: true,
                    render: (row: (typeof list.rows)[number]) => (
                      <Button size="small" onClick={() => open(key, { row: row.key })}>
                        Change
                      </Button>
                    ),
                  },
                ]
              : []),
          ]}
          empty="–"
        />
      )}
      {mayChange && payer.mergedInto === null && (
        <Button size="small" onClick={() => open(key)}>
          Add {list.noun[0]}
        </Button>
      )}
    </Panel>
  );
}
