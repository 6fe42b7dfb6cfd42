'use client';
import { Segmented } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { MOST_COMPARED } from '../../../../core/fees/compare';
import type { ComparedFee } from '../../../../core/fees/compare';
import { shareWords } from '../../../../core/fees/review';
import { counted } from '../../../../core/words';
import type { ComparedSchedules, readSchedules } from '../../../../server/fees/read';
import { Several } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { Money } from '../../../../ui/figures';
import { Link } from '../../../../ui/link';
import { type LineColumn, LineTable } from '../../../../ui/line-table';
import { Head, Toolbar } from '../../../../ui/page';
import { useKeys } from '../../../../ui/keys';
import css from './compare.module.css';

/** Up to four schedules side by side, and how each differs from the first. */
export function CompareView({
  schedules,
  ids,
  on,
  differing,
  billed,
  found,
}: {
  schedules: Awaited<ReturnType<typeof readSchedules>>;
  ids: readonly number[];
  on: string;
  differing: boolean;
  billed: boolean;
  found: ComparedSchedules | null;
}) {
  const router = useRouter();
  const [day, setDay] = useState(on);
  useKeys([{ key: 'Escape', words: 'back to the schedules', run: () => router.push('/setup/schedules') }]);
  const to = (next: { ids?: readonly number[]; on?: string; only?: readonly string[] }): string =>
    `/fees/compare?${new URLSearchParams({
      with: (next.ids ?? ids).join('.'),
      on: next.on ?? on,
      only: (next.only ?? [differing && 'differing', billed && 'billed'].filter(Boolean)).join('.'),
    })}`;
  const file = (format: string): string =>
    `/api/fees/compare?${new URLSearchParams({ with: ids.join('.'), on, only: [differing && 'differing', billed && 'billed'].filter(Boolean).join('.'), format })}`;
  const columns: LineColumn<ComparedFee>[] = [
    { key: 'code', title: 'Code', width: 70, render: ({ code }) => code },
    { key: 'what', title: 'Service', render: ({ description }) => description },
    { key: 'units', title: 'Units', width: 60, right: true, render: ({ units }) => units || '–' },
    ...(found?.schedules ?? []).flatMap(({ id, name }, at): LineColumn<ComparedFee>[] => [
      { key: `fee${id}`, title: name, width: 100, money: ({ fees }) => fees[at] ?? null },
      ...(at === 0
        ? []
        : [
            {
              key: `by${id}`,
              title: 'Difference',
              width: 88,
              money: ({ differences }: ComparedFee) => differences[at - 1]?.amount ?? null,
            },
            {
              key: `share${id}`,
              title: '%',
              width: 68,
              right: true as const,
              render: ({ differences }: ComparedFee) => (
                <span className="quiet">{shareWords(differences[at - 1]?.share ?? null)}</span>
              ),
            },
          ]),
    ]),
  ];
  return (
    <>
      <Head title="Schedules compared" note={found && counted(found.rows.length, 'service')}>
        {found && (
          <>
            <a href={file('csv')}>CSV</a>
            <a href={file('xlsx')}>XLSX</a>
          </>
        )}
        <Link href="/setup/schedules">Schedules</Link>
      </Head>
      <Toolbar>
        <div className={css.which}>
          <Several
            aria-label="Which schedules"
            placeholder="choose two to four"
            value={[...ids]}
            maxCount={MOST_COMPARED}
            onChange={(next) => router.push(to({ ids: next }))}
            options={schedules.map(({ id, name }) => ({ value: id, label: name }))}
          />
        </div>
        <DateInput
          label="As of"
          value={day}
          onChange={(next) => {
            setDay(next);
            if (/^\d{4}-\d\d-\d\d$/.test(next)) router.push(to({ on: next }));
          }}
        />
        <Segmented
          aria-label="What is shown"
          value={`${differing}/${billed}`}
          onChange={(value) => {
            const [one, two] = value.split('/');
            router.push(to({ only: [one === 'true' ? 'differing' : '', two === 'true' ? 'billed' : ''] }));
          }}
          options={[
            { value: 'false/false', label: 'All' },
            { value: 'true/false', label: 'What differs' },
            { value: 'false/true', label: 'What was billed' },
            { value: 'true/true', label: 'Both' },
          ]}
        />
      </Toolbar>
      {found === null ? (
        <p className="quiet">Choose two schedules or more: each is compared with the first.</p>
      ) : (
        <>
          <ul className={css.totals} aria-label="What it comes to">
            {found.totals.map(({ amount, without }, at) => (
              <li key={found.schedules[at + 1]!.id}>
                With the units of the last year “{found.schedules[at + 1]!.name}” comes to{' '}
                <strong>
                  <Money cents={Math.abs(amount)} />
                </strong>{' '}
                {amount < 0 ? 'less' : 'more'} than “{found.schedules[0]!.name}”
                {without > 0 && (
                  <span className="quiet">; of {counted(without, 'unit')} one of them has no fee</span>
                )}
                .
              </li>
            ))}
          </ul>
          <LineTable
            label="Fees side by side"
            rows={found.rows}
            rowKey={({ code }) => code}
            columns={columns}
            fills="list"
            empty="Nothing is different"
          />
        </>
      )}
    </>
  );
}
