'use client';
import { Alert, App, Button, Input, Upload } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain, sum } from '../../../../core/money';
import { MOST_VISITS_BYTES } from '../../../../core/payments/input';
import { counted } from '../../../../core/words';
import type { VisitRow, VisitsBrought } from '../../../../server/payments/visits';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { useDesk } from '../../../../ui/desk';
import { useKeys } from '../../../../ui/keys';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Head, Panel } from '../../../../ui/page';
import { PersonField } from '../../../../ui/person-field';
import {
  cancelVisitAction,
  expectVisitAction,
  freeReservedAction,
  importVisitsAction,
  matchVisitAction,
} from '../actions';
import { CheckIn } from './check-in';
import css from './visits.module.css';

/** What is to be said of a visit beside its money. */
const stateOf = (row: VisitRow): string =>
  row.canceled !== ''
    ? `does not come: ${row.canceled}`
    : row.charged
      ? 'charged'
      : row.patientId === null
        ? 'not known whose'
        : '';

/** The visits of a day. */
export function VisitsView({ day, rows }: { day: string; rows: VisitRow[] }) {
  const router = useRouter();
  const { today } = useDesk();
  const [checking, setChecking] = useState<VisitRow | null>(null);
  const [adding, setAdding] = useState(false);
  const [brought, setBrought] = useState<VisitsBrought | null>(null);
  const { run } = useAct();
  const { message } = App.useApp();
  useKeys([
    {
      key: 'n',
      words: 'add a visit',
      run: (event) => {
        event.preventDefault();
        setAdding(true);
      },
    },
  ]);
  const mayCheckIn = (row: VisitRow): boolean =>
    row.patientId !== null && row.canceled === '' && row.freed === '' && !row.closed && day >= today;
  const begin = (row: VisitRow): void => {
    if (mayCheckIn(row)) setChecking(row);
  };
  const bring = async (file: File): Promise<void> => {
    if (file.size > MOST_VISITS_BYTES)
      return void message.error(`${file.name} is more than 1.5 MB: bring in the visits of the next months`);
    const done = await run(async () =>
      importVisitsAction({ name: file.name.slice(0, 120), text: await file.text() }),
    );
    if (done) setBrought(done.value);
  };
  return (
    <>
      <Head title="Expected visits" note={`${formatDate(day as never)}: ${counted(rows.length, 'visit')}`}>
        <DateInput
          label="Day"
          value={day}
          onChange={(next) => {
            if (/^\d{4}-\d\d-\d\d$/.test(next)) router.push(`/payments/visits?day=${next}`);
          }}
        />
        <Upload
          accept=".csv,.ics,text/csv,text/calendar"
          showUploadList={false}
          beforeUpload={(file) => {
            void bring(file);
            return false;
          }}
        >
          <Button>Bring in a file</Button>
        </Upload>
        <Button onClick={() => setAdding(true)}>Add a visit (N)</Button>
      </Head>
      {brought && (
        <Alert
          className={css.brought}
          type={brought.faults.length > 0 || brought.unmatched > 0 ? 'warning' : 'success'}
          closable={{ onClose: () => setBrought(null) }}
          title={`${brought.fresh} new, ${brought.changed} changed, ${brought.canceled} canceled${
            brought.unmatched > 0 ? `; of ${brought.unmatched} it is not known whose they are` : ''
          }`}
          description={
            brought.faults.length > 0 ? (
              <ul>
                {brought.faults.slice(0, 12).map((fault) => (
                  <li key={fault}>{fault}</li>
                ))}
                {brought.faults.length > 12 && <li>and {brought.faults.length - 12} more</li>}
              </ul>
            ) : undefined
          }
        />
      )}
      {adding && <AddVisit day={day < today ? today : day} onDone={() => setAdding(false)} />}
      <Panel>
        <LineTable
          label="Expected visits"
          rows={rows}
          rowKey={(row) => String(row.id)}
          empty="No visit is expected on this day. They come by file from the program that plans visits, or are typed."
          words={counted(rows.length, 'visit')}
          fills="page"
          onRowKey={(row, key) => {
            if (key === 'Enter' || key === 'i') begin(row);
          }}
          columns={[
            { key: 'time', title: 'Time', width: 60, render: (row) => row.time },
            {
              key: 'who',
              title: 'Who',
              width: 150,
              render: (row) =>
                row.householdId === null || row.closed ? (
                  row.name
                ) : (
                  <>
                    <Link href={`/accounts/${row.householdId}`}>
                      {row.name} · {row.account}
                    </Link>
                    <div className="quiet small">{row.coverage || 'no coverage'}</div>
                  </>
                ),
            },
            {
              key: 'with',
              title: 'With, at',
              width: 110,
              render: (row) => (
                <>
                  {row.provider}
                  <div className="quiet small">{row.site}</div>
                </>
              ),
            },
            {
              key: 'what',
              title: 'Reason',
              render: (row) => (
                <>
                  {[row.reason, row.codes.join(' ')].filter(Boolean).join(' · ')}
                  {row.notices.map((words) => (
                    <div key={words} className={css.notice}>
                      {words}
                    </div>
                  ))}
                </>
              ),
            },
            { key: 'owed', title: 'Owed before', width: 84, money: (row) => row.owed, sum: true },
            { key: 'reserved', title: 'Taken for it', width: 84, money: (row) => row.reserved, sum: true },
            {
              key: 'acts',
              title: '',
              width: 226,
              render: (row) => (
                <span className={css.acts}>
                  {stateOf(row) !== '' && <span className="quiet">{stateOf(row)}</span>}
                  {row.patientId === null && !row.closed && <Whose visit={row} />}
                  {mayCheckIn(row) && (
                    <Button size="small" type="primary" onClick={() => begin(row)}>
                      Check in
                    </Button>
                  )}
                  {row.reserved > 0 && !row.closed && (
                    <WithReason
                      words="Free its money"
                      ask="Why is it free?"
                      act={(why) =>
                        run(
                          () => freeReservedAction({ expectedVisitId: row.id, why }),
                          'It is credit as any other now',
                        )
                      }
                    />
                  )}
                  {mayCheckIn(row) && !row.charged && (
                    <WithReason
                      words="Does not come"
                      ask="Why does it not come?"
                      act={(why) =>
                        run(
                          () => cancelVisitAction({ expectedVisitId: row.id, why }),
                          'Said; its money is free',
                        )
                      }
                    />
                  )}
                </span>
              ),
            },
          ]}
        />
      </Panel>
      <p className="quiet">
        {formatMoneyPlain(sum(rows.map((row) => row.reserved)))} is reserved for visits of this day. It pays
        what they leave open by itself; the day after, what is left is free.
      </p>
      {checking && <CheckIn visit={checking} onClose={() => setChecking(null)} />}
    </>
  );
}

/** Says whose a visit is that its file did not say well enough. */
function Whose({ visit }: { visit: VisitRow }) {
  const { run } = useAct();
  return (
    <PersonField
      id={`whose-${visit.id}`}
      label={`Who is ${visit.name}?`}
      choose={(_, patientId) =>
        void run(() => matchVisitAction({ expectedVisitId: visit.id, patientId }), 'Known now')
      }
    />
  );
}

/** Adds a visit by hand. */
function AddVisit({ day: first, onDone }: { day: string; onDone: () => void }) {
  const { message } = App.useApp();
  const { busy, run } = useAct();
  const press = useOnce();
  const [patientId, setPatientId] = useState<number | null>(null);
  const [day, setDay] = useState(first);
  const [time, setTime] = useState('');
  const [reason, setReason] = useState('');
  const save = async (): Promise<void> => {
    if (patientId === null) return void message.info('Say who comes');
    const done = await run(
      () => expectVisitAction({ patientId, day, time, reason, key: press.key() }),
      'Expected',
    );
    if (!done) return;
    press.next();
    onDone();
  };
  return (
    <div className={css.add} role="group" aria-label="Add a visit">
      <PersonField id="visit-of" label="Who comes …" choose={(_, id) => setPatientId(id)} />
      <DateInput label="Day of the visit" value={day} onChange={setDay} />
      <Input
        aria-label="Time"
        placeholder="09:30"
        className={css.time}
        value={time}
        onChange={(event) => setTime(event.target.value)}
      />
      <Input
        aria-label="Reason"
        placeholder="Reason"
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        onPressEnter={() => void save()}
      />
      <Button type="primary" loading={busy} disabled={patientId === null} onClick={() => void save()}>
        Expect it
      </Button>
      <Button onClick={onDone}>Leave it</Button>
    </div>
  );
}
