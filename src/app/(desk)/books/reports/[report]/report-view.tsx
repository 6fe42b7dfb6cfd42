'use client';
import { Select } from 'antd';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { cents } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import type { ReportPage, ReportRow } from '../../../../../server/reports/report';
import { AmountChart } from '../../../../../ui/charts';
import { DateInput } from '../../../../../ui/date-input';
import { Day, Money } from '../../../../../ui/figures';
import { Narrowing, useFilter } from '../../../../../ui/filters';
import { Link } from '../../../../../ui/link';
import { useKeys } from '../../../../../ui/keys';
import { type LineColumn, LineTable, type SubLine } from '../../../../../ui/line-table';
import { Head, Line, Panel, Toolbar } from '../../../../../ui/page';
import css from './report.module.css';

/** A row of the table: a row of the report, or a group that unfolds into its rows. */
interface Shown {
  key: string;
  values: ReportRow;
  inside: readonly ReportRow[];
}

/** Bars beyond so many are not read any more. */
const BARS = 12;

/** A report: what was chosen, the picture, the figures with their totals. */
export function ReportView({ report }: { report: ReportPage }) {
  const router = useRouter();
  const params = useSearchParams();
  useKeys([{ key: 'Escape', words: 'back to the reports', run: () => router.push('/books/reports') }]);
  const { columns, groups } = report;
  const grouped = groups.some((group) => group.words !== '');
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const rows: Shown[] = grouped
    ? groups.map((group) => ({
        key: group.words,
        values: { ...group.totals, [columns[0]!.key]: group.words },
        inside: group.rows,
      }))
    : (groups[0]?.rows ?? []).map((values, index) => ({ key: String(index), values, inside: [] }));
  const dense = columns.filter(({ kind }) => kind === 'money').length > 6;
  const shown: LineColumn<Shown>[] = columns.map(({ key, title, kind }, index) => ({
    key,
    title,
    width: kind === 'money' ? (dense ? 92 : 104) : kind === 'number' ? (dense ? 76 : 90) : undefined,
    ...(kind === 'money'
      ? {
          money: (row: Shown) => cents(Number(row.values[key] ?? 0)),
          sum: cents(report.totals[key] ?? 0),
          strong: grouped,
        }
      : {
          ...(kind === 'number' ? { right: true as const } : {}),
          render: (row: Shown) =>
            grouped && index === 0 ? (
              <strong>{row.values[key]}</strong>
            ) : grouped && kind === 'day' ? null : kind === 'day' ? (
              <Day date={row.values[key] as string | null} />
            ) : index === 0 && typeof row.values.leads === 'string' ? (
              <Link href={row.values.leads}>{row.values[key]}</Link>
            ) : (
              row.values[key]
            ),
        }),
  }));
  const lines = (row: Shown): SubLine[] =>
    row.inside.map((values, index) => ({
      key: String(index),
      cells: Object.fromEntries(
        columns.map(({ key, kind }) => [
          key,
          kind === 'money' ? (
            <Money cents={Number(values[key] ?? 0)} />
          ) : kind === 'day' ? (
            <Day date={values[key] as string | null} />
          ) : (
            (values[key] ?? '')
          ),
        ]),
      ),
    }));
  const file = (format: string): string => {
    const next = new URLSearchParams(params);
    next.set('format', format);
    return `/api/reports/${report.name}?${next}`;
  };
  return (
    <>
      <Head title={report.title} note={report.about} />
      <Toolbar
        right={
          <Line>
            <a href={file('csv')} download>
              CSV
            </a>
            <a href={file('xlsx')} download>
              XLSX
            </a>
            <a href={file('pdf')} target="_blank" rel="noreferrer">
              Print
            </a>
          </Line>
        }
      >
        <Parameters report={report} />
      </Toolbar>
      {report.chart && report.rows > 0 && (
        <Panel title={`${report.chart.draws.map((item) => item.title).join(', ')}`}>
          <AmountChart
            along={report.chart.along}
            draws={report.chart.draws}
            rows={groups.flatMap((group) => group.rows).slice(0, BARS)}
          />
          {report.rows > BARS && <span className="quiet small">The first {BARS} rows are drawn.</span>}
        </Panel>
      )}
      <div className={css.table}>
        <LineTable<Shown>
          label={report.title}
          fills="page"
          rows={rows}
          rowKey={(row) => row.key}
          columns={shown}
          words={
            report.shown < report.rows
              ? `The first ${report.shown} of ${counted(report.rows, 'row')}; sums are of all, files hold all`
              : counted(report.rows, 'row')
          }
          empty="Nothing to report for what was chosen"
          {...(grouped
            ? {
                lines,
                unfolded: new Set(rows.map((row) => row.key).filter((key) => !folded.has(key))),
                onUnfold: (key: string) =>
                  setFolded(
                    (now) => new Set(now.has(key) ? [...now].filter((one) => one !== key) : [...now, key]),
                  ),
              }
            : {})}
        />
      </div>
    </>
  );
}

/** What is chosen stands in the address. */
function Parameters({ report }: { report: ReportPage }) {
  const set = useFilter();
  const [typed, setTyped] = useState<Record<string, string>>({});
  return (
    <>
      <Narrowing filters={report.narrowed} />
      {report.parameters.map(({ key, label, kind, value, choices }) => (
        <label key={key} className={css.parameter}>
          {label}{' '}
          {kind === 'day' ? (
            <span className={css.day}>
              <DateInput
                label={label}
                value={typed[key] ?? value}
                onChange={(text) => {
                  setTyped({ ...typed, [key]: text });
                  if (/^\d{4}-\d\d-\d\d$/.test(text)) set(key, text);
                }}
              />
            </span>
          ) : (
            <Select
              aria-label={label}
              value={value}
              options={[...choices]}
              popupMatchSelectWidth={false}
              onChange={(next) => set(key, next)}
            />
          )}
        </label>
      ))}
    </>
  );
}
