'use client';
import { useRouter } from 'next/navigation';
import { formatMoneyPlain, sum } from '../../../../../core/money';
import { reasonShows } from '../../../../../core/remittances/reason-words';
import { counted } from '../../../../../core/words';
import type { ReasonPage, ReasonUse } from '../../../../../server/remittances/reason-page';
import { useMay } from '../../../../../ui/desk';
import { Link } from '../../../../../ui/link';
import { type LineColumn, LineTable } from '../../../../../ui/line-table';
import { Head, Notice, Panel, Toolbar } from '../../../../../ui/page';
import { Period } from '../../../../../ui/period';
import css from './reason.module.css';

/** A reason code: what it means, where it shows, how often and how much by payer, and how it ended. */
export function ReasonView({ page }: { page: ReasonPage }) {
  const { code, rows, uses } = page;
  const router = useRouter();
  const maySetup = useMay()('read setup');
  const all: LineColumn<ReasonUse>[] = [
    {
      key: 'payer',
      title: 'Payer',
      render: (use) => <Link href={`/payers/${use.payerId}`}>{use.payer}</Link>,
    },
    { key: 'group', title: 'Group', width: 60, render: ({ group }) => group },
    { key: 'lines', title: 'Lines', width: 56, right: true, render: (use) => use.lines },
    {
      key: 'amount',
      title: 'Amount',
      width: 92,
      money: ({ amount }) => amount,
      strong: true,
      sum: true,
    },
    { key: 'off', title: 'Taken off', width: 88, money: ({ takenOff }) => takenOff, sum: true },
    { key: 'on', title: 'Passed on', width: 88, money: ({ passedOn }) => passedOn, sum: true },
    { key: 'waits', title: 'Waits', width: 84, money: ({ waits }) => waits, sum: true },
    { key: 'paid', title: 'Decided anew', width: 104, money: ({ paid }) => paid, sum: true },
    { key: 'up', title: 'Given up', width: 84, money: ({ givenUp }) => givenUp, sum: true },
    {
      key: 'to',
      title: 'Put to others',
      width: 104,
      money: ({ patients, nexts }) => sum([patients, nexts]),
      sum: true,
    },
    {
      key: 'open',
      title: 'Follow-ups',
      width: 84,
      right: true,
      render: ({ followUps }) => followUps || '–',
    },
  ];
  // A column in which nothing stands says nothing.
  const columns = all.filter(
    ({ key, money }) => !money || key === 'amount' || uses.some((use) => money(use) !== 0),
  );
  const lines = uses.reduce((many, use) => many + use.lines, 0);
  return (
    <>
      <Head
        title={`Reason ${code}`}
        note={`${rows[0]?.words ?? 'not in Setup'} · ${counted(lines, 'line')}, ${formatMoneyPlain(sum(uses.map(({ amount }) => amount)))}`}
      >
        {maySetup && <Link href={`/setup/reasons?search=${code}`}>In Setup</Link>}
      </Head>
      {rows.length === 0 && (
        <Notice>
          Setup does not know it: what a payer takes off for it is held until somebody says what it does.
        </Notice>
      )}
      <div className={css.rows}>
        {rows.map((row) => (
          <Panel
            key={row.group}
            title={`${row.group === '*' ? 'Every group that has no row of its own' : `${row.group}-${code}`}: ${row.words}`}
          >
            <p>{reasonShows(code, row).join(' ')}</p>
          </Panel>
        ))}
      </div>
      <Toolbar>
        <Period
          from={page.from}
          to={page.to}
          look={(days) => router.push(`/remittances/reasons/${code}?${String(new URLSearchParams(days))}`)}
        />
      </Toolbar>
      <LineTable
        label="Uses"
        rows={uses}
        rowKey={({ group, payerId }) => `${group}/${payerId}`}
        columns={columns}
        words={counted(uses.length, 'payer and group', 'payers and groups')}
        empty="No payer gave it on these days"
      />
      <p className="small quiet">
        Of decisions first posted on these days that stand. What a payer refused waits with it, was decided
        anew, was given up by us, or put to the patient or the next payer; open follow-ups are those of its
        lines.
      </p>
    </>
  );
}
