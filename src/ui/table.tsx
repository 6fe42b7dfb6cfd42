'use client';
/**
 * The table under every list and every ledger: a real table, so that a listener hears rows and columns. It scrolls inside
 * itself, draws only the rows that are seen, and has a name.
 */
import { useVirtualizer } from '@tanstack/react-virtual';
import { Empty } from 'antd';
import { type HTMLAttributes, type ReactNode, useEffect, useRef } from 'react';
import { usePrinting } from './printing';
import css from './table.module.css';

/** A column of a table. */
export interface Column<Row> {
  key: string;
  title: ReactNode;
  /** In pixels; columns without one share what is left. */
  width?: number;
  /** Stands at the right, as amounts do. */
  right?: boolean;
  /** Long words are cut short. */
  cut?: boolean;
  /** Stays at the right edge while the others are scrolled. */
  fixed?: boolean;
  /** The table can be ordered by it, and is: upward, downward, or not now. */
  order?: Order;
  render: (row: Row, index: number) => ReactNode;
  /** How many columns its cell covers in a row; 0 where another covers it, 1 where nothing is said. */
  span?: (row: Row) => number;
}

/** How a table is ordered by one of its columns. */
export type Order = 'up' | 'down' | 'none';

/** What a table needs. */
interface DeskTableProps<Row> {
  /** What it is called. */
  label: string;
  rows: readonly Row[];
  rowKey: (row: Row) => string | number;
  columns: readonly Column<Row>[];
  empty: ReactNode;
  /**
   * Fills what is left: of the screen below a list's head or a page's, or of the frame that its page is as high as the window;
   * else it is as high as its rows.
   */
  fills?: 'list' | 'page' | 'window';
  /** Begins at its end. */
  fromEnd?: boolean;
  /** The row that must be seen, as a number from 0. */
  at?: number;
  rowProps?: (row: Row, index: number) => HTMLAttributes<HTMLTableRowElement>;
  /** Rows of sums, see FootRow. */
  foot?: ReactNode;
  /** Somebody wants another order by a column. */
  onOrder?: (key: string, now: Order) => void;
}

/** Tables of up to so many rows are drawn whole. */
const FEW = 28;
/** Height of a row before it is measured, in pixels. */
const ROW = 29;
/** A column without a width of its own gets at least so much, in pixels. */
const LEAST = 104;

const ARIA = { up: 'ascending', down: 'descending', none: undefined } as const;
const names = (...all: (string | false | undefined)[]): string | undefined =>
  all.filter(Boolean).join(' ') || undefined;

/** The room of the rows that are not drawn. */
const Gap = ({ height, columns }: { height: number; columns: number }) =>
  height > 0 ? (
    <tr aria-hidden className={css.gap} style={{ height }}>
      <td colSpan={columns} />
    </tr>
  ) : null;

/** The table. */
export function DeskTable<Row>({
  label,
  rows,
  rowKey,
  columns,
  empty,
  fills,
  fromEnd,
  at,
  rowProps,
  foot,
  onOrder,
}: DeskTableProps<Row>) {
  const box = useRef<HTMLDivElement>(null);
  const printing = usePrinting();
  const windowed = fills !== undefined && rows.length > FEW && !printing;
  const virtual = useVirtualizer<HTMLDivElement, HTMLElement>({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    // Rows may have gone since an element was measured.
    getItemKey: (index) => (rows[index] === undefined ? index : rowKey(rows[index])),
    overscan: 4,
    enabled: windowed,
    initialRect: { width: 1092, height: fills === 'list' ? 604 : 420 },
    initialOffset: fromEnd ? rows.length * ROW : 0,
  });
  const items = windowed ? virtual.getVirtualItems() : [];
  const first = items[0]?.index ?? 0;
  const shown = windowed ? rows.slice(first, (items.at(-1)?.index ?? rows.length - 1) + 1) : rows;
  const after = items.length > 0 ? Math.max(0, virtual.getTotalSize() - items.at(-1)!.end) : 0;

  useEffect(() => {
    if (at === undefined) return;
    if (windowed) virtual.scrollToIndex(at, { align: 'auto' });
    box.current?.querySelector(`tr[aria-rowindex="${at + 2}"]`)?.scrollIntoView({ block: 'nearest' });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [at]);
  useEffect(() => {
    if (fromEnd && box.current && at === undefined) box.current.scrollTop = box.current.scrollHeight;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [fromEnd, rows.length]);

  // What scrolls can be scrolled by keyboard, where no row takes the focus.
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const scrolls =
      element.scrollHeight > element.clientHeight + 1 || element.scrollWidth > element.clientWidth + 1;
    if (scrolls) element.tabIndex = 0;
    else element.removeAttribute('tabindex');
  });

  const least = columns.reduce((all, column) => all + (column.width ?? LEAST), 0);
  return (
    <div ref={box} className={names(css.box, fills && css[fills])}>
      <table
        className={css.table}
        style={{ minWidth: least }}
        aria-label={label}
        aria-rowcount={rows.length + 1}
      >
        <colgroup>
          {columns.map(({ key, width }) => (
            <col key={key} style={width ? { width } : undefined} />
          ))}
        </colgroup>
        <thead>
          <tr aria-rowindex={1}>
            {columns.map(({ key, title, right, fixed, order }) => (
              <th
                key={key}
                scope="col"
                className={names(right && css.right, fixed && css.fixed)}
                aria-sort={ARIA[order ?? 'none']}
              >
                {order === undefined ? (
                  title
                ) : (
                  <button type="button" className={css.order} onClick={() => onOrder?.(key, order)}>
                    {title}
                  </button>
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap height={items[0]?.start ?? 0} columns={columns.length} />
          {shown.map((row, index) => {
            const props = rowProps?.(row, first + index);
            return (
              <tr
                key={rowKey(row)}
                ref={windowed ? virtual.measureElement : undefined}
                data-index={first + index}
                aria-rowindex={first + index + 2}
                {...props}
              >
                {columns.map(({ key, right, cut, fixed, render, span }) => {
                  const covers = span?.(row) ?? 1;
                  return covers === 0 ? null : (
                    <td
                      key={key}
                      colSpan={covers === 1 ? undefined : covers}
                      className={names(right && css.right, cut && css.cut, fixed && css.fixed)}
                    >
                      {render(row, first + index)}
                    </td>
                  );
                })}
              </tr>
            );
          })}
          <Gap height={after} columns={columns.length} />
          {rows.length === 0 && (
            <tr className={css.empty}>
              <td colSpan={columns.length}>
                <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description={empty} />
              </td>
            </tr>
          )}
        </tbody>
        {foot && rows.length > 0 && <tfoot>{foot}</tfoot>}
      </table>
    </div>
  );
}

/**
 * A row of sums: words from the left, and each sum under its column.
 * @param before columns of the table before those named
 * @param after columns of the table after them
 */
export function FootRow({
  words,
  columns,
  sumOf,
  before = 0,
  after = 0,
}: {
  words: string;
  columns: readonly { key: string }[];
  /** What stands under a column; undefined where it has no sum. */
  sumOf: (key: string) => ReactNode;
  before?: number;
  after?: number;
}) {
  const sums = columns.map(({ key }) => ({ key, sum: sumOf(key) }));
  const found = sums.findIndex(({ sum }) => sum !== undefined);
  const first = found === -1 ? columns.length : found;
  // An amount may stand first: then the words have no column of their own.
  const apart = first + before > 0;
  return (
    <tr>
      {apart && <td colSpan={first + before}>{words}</td>}
      {sums.slice(first).map(({ key, sum }, index) => (
        <td key={key} className={css.right}>
          {!apart && index === 0 && `${words} `}
          {sum}
        </td>
      ))}
      {after > 0 && <td colSpan={after} />}
    </tr>
  );
}
