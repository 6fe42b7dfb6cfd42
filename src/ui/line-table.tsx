'use client';
/**
 * The one line table: ledger, claim, remittance, payment. Columns with their sums, rows that unfold into lines under the
 * same columns, only those drawn that are seen.
 */
import { Table } from 'antd';
import type { ColumnsType, TableProps } from 'antd/es/table';
import type { HTMLAttributes, ReactNode } from 'react';
import { type Cents, sum } from '../core/money';
import { Money } from './figures';
import css from './line-table.module.css';
import { spansOf } from './spans';
import { DeskTable } from './table';

/** A column: an amount, or whatever is drawn of a row. */
export interface LineColumn<Row> {
  key: string;
  title: string;
  width?: number;
  render?: (row: Row) => ReactNode;
  /** An amount in cents; null leaves the cell empty. */
  money?: (row: Row) => Cents | null;
  strong?: boolean;
  /** Stands at the right, as amounts do. */
  right?: true;
  /** How many columns its cell covers in a row; one where nothing is said. */
  span?: (row: Row) => number;
  /** Summed in the foot. */
  sum?: true;
}

/** A line under a row: what stands in each column, or something as wide as the table. */
export interface SubLine {
  key: string;
  /** So that an address can point at it. */
  id?: string;
  /** Undone by a later one. */
  undone?: boolean;
  cells?: Readonly<Record<string, ReactNode>>;
  wide?: ReactNode;
}

interface Props<Row> {
  label: string;
  rows: readonly Row[];
  rowKey: (row: Row) => string;
  columns: readonly LineColumn<Row>[];
  /** The words before the sums; without them there is no foot. */
  words?: string;
  empty: ReactNode;
  fills?: 'page';
  fromEnd?: boolean;
  /** Lines of a row; none when it does not unfold. */
  lines?: (row: Row) => readonly SubLine[];
  unfolded?: ReadonlySet<string>;
  onUnfold?: (key: string) => void;
  /** The row that is lit, by its key. */
  lit?: string;
  rowClass?: (row: Row) => string;
  pagination?: TableProps<object>['pagination'];
}

/** What the table below draws: rows, and the lines under those that are unfolded. */
type Drawn<Row> = { key: string } & ({ row: Row; line?: undefined } | { line: SubLine; row?: undefined });

/** How many columns each cell of a line covers. */
const spans = <Row,>(line: SubLine, columns: readonly LineColumn<Row>[]): number[] =>
  line.wide !== undefined
    ? columns.map((_, index) => (index === 0 ? columns.length : 0))
    : spansOf(
        columns.map(({ key }) => line.cells?.[key] !== undefined),
        columns.map(({ money }) => money !== undefined),
      );

/** The table. */
export function LineTable<Row>({
  label,
  rows,
  rowKey,
  columns,
  words,
  empty,
  fills,
  fromEnd,
  lines,
  unfolded = new Set(),
  onUnfold,
  lit,
  rowClass,
  pagination,
}: Props<Row>) {
  const drawn: Drawn<Row>[] = rows.flatMap((row) => {
    const key = rowKey(row);
    const under = lines && unfolded.has(key) ? lines(row) : [];
    return [{ key, row }, ...under.map((line) => ({ key: `${key}/${line.key}`, line }))];
  });
  const folds = lines !== undefined;
  const fold: ColumnsType<Drawn<Row>> = folds
    ? [
        {
          key: 'fold',
          title: <span className={css.unseen}>Unfold</span>,
          width: 34,
          render: (_, { key, row }) =>
            row !== undefined && lines(row).length > 0 ? (
              <button
                type="button"
                className={css.fold}
                aria-expanded={unfolded.has(key)}
                aria-label={unfolded.has(key) ? 'Fold' : 'Unfold'}
                onClick={() => onUnfold?.(key)}
              >
                {unfolded.has(key) ? '▾' : '▸'}
              </button>
            ) : null,
        },
      ]
    : [];
  const at = lit === undefined ? -1 : drawn.findIndex((item) => item.key === lit);
  return (
    <DeskTable<Drawn<Row>>
      label={label}
      rows={drawn}
      rowKey={(item) => item.key}
      fills={fills}
      fromEnd={fromEnd}
      at={at >= 0 ? at : undefined}
      empty={empty}
      pagination={pagination as never}
      columns={[
        ...fold,
        ...columns.map((column, index) => ({
          key: column.key,
          title: column.title,
          width: column.width ?? (column.money ? 92 : undefined),
          align: column.money || column.right ? ('right' as const) : ('left' as const),
          onCell: (item: Drawn<Row>) => ({
            colSpan: item.line ? spans(item.line, columns)[index] : covered(columns, item.row as Row)[index],
          }),
          render: (_: unknown, item: Drawn<Row>) =>
            item.line ? cellOf(item.line, column.key, index) : shown(column, item.row as Row),
        })),
      ]}
      rowProps={({ key, row, line }) =>
        ({
          id: line?.id,
          className: [
            line && css.line,
            line?.undone && css.undone,
            key === lit && css.lit,
            row !== undefined && rowClass?.(row),
          ]
            .filter(Boolean)
            .join(' '),
        }) as HTMLAttributes<HTMLElement>
      }
      foot={words !== undefined && <Foot columns={columns} rows={rows} words={words} folds={folds} />}
    />
  );
}

/** How many columns each cell of a row covers; none where another covers it. */
function covered<Row>(columns: readonly LineColumn<Row>[], row: Row): number[] {
  let left = 0;
  return columns.map((column) => {
    if (left > 1) {
      left -= 1;
      return 0;
    }
    left = column.span?.(row) ?? 1;
    return left;
  });
}

const cellOf = (line: SubLine, key: string, index: number): ReactNode =>
  line.wide !== undefined ? (index === 0 ? line.wide : null) : line.cells?.[key];

function shown<Row>(column: LineColumn<Row>, row: Row): ReactNode {
  if (column.render) return column.render(row);
  const amount = column.money?.(row) ?? null;
  return amount === null ? null : <Money cents={amount} strong={column.strong} />;
}

/** The words, and under each column that is summed its sum. */
function Foot<Row>({
  columns,
  rows,
  words,
  folds,
}: {
  columns: readonly LineColumn<Row>[];
  rows: readonly Row[];
  words: string;
  folds: boolean;
}) {
  const before = folds ? 1 : 0;
  const found = columns.findIndex((column) => column.sum);
  const first = found === -1 ? columns.length : found;
  return (
    <Table.Summary.Row>
      <Table.Summary.Cell index={0} colSpan={first + before}>
        {words}
      </Table.Summary.Cell>
      {columns.slice(first).map((column, index) => (
        <Table.Summary.Cell key={column.key} index={first + before + index} align="right">
          {column.sum && (
            <Money cents={sum(rows.flatMap((row) => column.money?.(row) ?? []))} strong={column.strong} />
          )}
        </Table.Summary.Cell>
      ))}
    </Table.Summary.Row>
  );
}
