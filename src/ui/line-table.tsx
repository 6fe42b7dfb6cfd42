'use client';
/**
 * The one line table: ledger, claim, remittance, payment. Columns with their sums, rows that unfold into lines under the
 * same columns, only those drawn that are seen.
 */
import type { HTMLAttributes, ReactNode } from 'react';
import { type Cents, sum } from '../core/money';
import { Money } from './figures';
import css from './line-table.module.css';
import { spansOf } from './spans';
import { type Column, DeskTable, FootRow } from './table';

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
  /** Summed in the foot; the sum itself, in cents, where not all rows are here. */
  sum?: true | Cents;
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
  fills?: 'list' | 'page' | 'window';
  fromEnd?: boolean;
  /** Lines of a row; none when it does not unfold. */
  lines?: (row: Row) => readonly SubLine[];
  unfolded?: ReadonlySet<string>;
  onUnfold?: (key: string) => void;
  /** The row that is lit, by its key. */
  lit?: string;
  rowClass?: (row: Row) => string;
  /** A row was pressed. */
  onRow?: (row: Row) => void;
  /** A key was pressed on a row, which then takes the focus; the arrow keys go from row to row. */
  onRowKey?: ((row: Row, key: string) => void) | undefined;
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
  onRow,
  onRowKey,
}: Props<Row>) {
  const drawn: Drawn<Row>[] = rows.flatMap((row) => {
    const key = rowKey(row);
    const under = lines && unfolded.has(key) ? lines(row) : [];
    return [{ key, row }, ...under.map((line) => ({ key: `${key}/${line.key}`, line }))];
  });
  const fold: Column<Drawn<Row>>[] = lines
    ? [
        {
          key: 'fold',
          title: <span className={css.unseen}>Unfold</span>,
          width: 34,
          render: ({ key, row }) =>
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
      columns={[
        ...fold,
        ...columns.map((column, index) => ({
          key: column.key,
          title: column.title,
          width: column.width ?? (column.money ? 92 : undefined),
          right: column.money !== undefined || column.right,
          span: ({ line, row }: Drawn<Row>) =>
            (line ? spans(line, columns) : covered(columns, row as Row))[index]!,
          render: ({ line, row }: Drawn<Row>) =>
            line ? cellOf(line, column.key, index) : shown(column, row as Row),
        })),
      ]}
      rowProps={({ key, row, line }, index) => ({
        ...(onRowKey && row !== undefined ? roving(index, (pressed) => onRowKey(row, pressed)) : {}),
        id: line?.id,
        // What can be pressed within a row is not the row.
        onClick:
          onRow && row !== undefined
            ? ({ target }) =>
                !(target instanceof Element && target.closest('a, button, input, label')) && onRow(row)
            : undefined,
        className: [
          line && css.line,
          line?.undone && css.undone,
          key === lit && css.lit,
          row !== undefined && rowClass?.(row),
        ]
          .filter(Boolean)
          .join(' '),
      })}
      foot={
        words !== undefined && (
          <FootRow
            words={words}
            columns={columns}
            before={fold.length}
            sumOf={(key) => {
              const { money, strong, sum: summed } = columns.find((column) => column.key === key)!;
              if (summed === undefined) return undefined;
              const all = summed === true ? sum(rows.flatMap((row) => money?.(row) ?? [])) : summed;
              return <Money cents={all} strong={strong} />;
            }}
          />
        )
      }
    />
  );
}

/** What a row needs that takes the focus: of all of them the first is on the way of the Tab key, the others are an arrow away. */
const roving = (index: number, press: (key: string) => void): HTMLAttributes<HTMLTableRowElement> => ({
  tabIndex: index === 0 ? 0 : -1,
  onKeyDown: (event) => {
    if (event.target !== event.currentTarget || event.ctrlKey || event.metaKey || event.altKey) return;
    const next = { ArrowDown: 'nextElementSibling', ArrowUp: 'previousElementSibling' } as const;
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      const row = event.currentTarget[next[event.key]];
      if (row instanceof HTMLTableRowElement && row.hasAttribute('tabindex')) row.focus();
      event.preventDefault();
    } else press(event.key.toLowerCase());
  },
});

/** How many columns each cell of a row covers; none where another covers it. */
function covered<Row>(columns: readonly LineColumn<Row>[], row: Row): number[] {
  let left = 0;
  return columns.map((column, index) => {
    if (left > 1) {
      left -= 1;
      return 0;
    }
    left = Math.min(column.span?.(row) ?? 1, columns.length - index);
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
