'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain, sum } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import type { ReasonPage, ReasonRow, ReasonUse } from '../../../../../server/remittances/reason-page';
import { DateInput } from '../../../../../ui/date-input';
import { useMay } from '../../../../../ui/desk';
import { Link } from '../../../../../ui/link';
import { type LineColumn, LineTable } from '../../../../../ui/line-table';
import { Head, Notice, Panel, Toolbar } from '../../../../../ui/page';
import css from './reason.module.css';

const FOLLOWED: Record<ReasonRow['followUp'], string> = {
  never: 'never followed up',
  'while-money': 'followed up while money is open',
  always: 'always followed up, even at zero',
};

/** What it does to the money, by its group. */
function moves({ group, denial, account }: ReasonRow): string {
  const own = denial
    ? 'refuses: what it takes stays with the payer until somebody settles it'
    : `takes off, as “${account}”; the report “Written off, by reason” names it`;
  if (group === '*')
    return `Under the payer’s own groups (CO, PI) it ${own}. Under PR it passes on, under OA it moves nothing.`;
  if (group === 'CO' || group === 'PI') return `It ${own}.`;
  if (group === 'PR')
    return denial
      ? 'It waits for a look before anybody is asked for it.'
      : 'It passes on to the next payer, or to the patient.';
  return 'It moves nothing by itself.';
}

/** Where a row of Setup shows, in sentences. */
function shows(row: ReasonRow): string[] {
  const by = row.owner === '' ? '' : ` by ${row.owner}`;
  const within = row.days === null ? '' : `, within ${counted(row.days, 'day')}`;
  return [
    moves(row),
    `On follow-ups: ${FOLLOWED[row.followUp]}${row.followUp === 'never' ? '' : `${by}${within}`}.`,
    row.patientWords === ''
      ? 'To the patient it is said in no words of its own.'
      : `On the statement and in the balance story: “${row.patientWords}”.`,
    row.travelsAs !== ''
      ? `To the next payer it goes on as ${row.travelsAs}.`
      : row.standard
        ? 'To the next payer it goes on as it is.'
        : 'It is a code of our own and names no standard one: the next payer’s claim stops at it.',
    ...(row.validFrom || row.validTo
      ? [
          `Valid${row.validFrom ? ` from ${formatDate(row.validFrom)}` : ''}${row.validTo ? ` until ${formatDate(row.validTo)}` : ''}.`,
        ]
      : []),
  ];
}

/** A reason code: what it means, where it shows, how often and how much by payer, and how it ended. */
export function ReasonView({ page }: { page: ReasonPage }) {
  const { code, rows, uses } = page;
  const router = useRouter();
  const maySetup = useMay()('read setup');
  const [days, setDays] = useState({ from: page.from as string, to: page.to as string });
  const go = (): void => router.push(`/remittances/reasons/${code}?${String(new URLSearchParams(days))}`);
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
            <p>{shows(row).join(' ')}</p>
          </Panel>
        ))}
      </div>
      <Toolbar>
        <DateInput
          label="From"
          value={days.from}
          onChange={(from) => setDays({ ...days, from })}
          onEnter={go}
        />
        <DateInput label="To" value={days.to} onChange={(to) => setDays({ ...days, to })} onEnter={go} />
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
