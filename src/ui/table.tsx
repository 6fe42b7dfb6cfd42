'use client';
/** The table under every list and every ledger: it scrolls inside itself, draws only the rows that are seen, and has a name. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { Empty, Table } from 'antd';
import type { ColumnsType, TableProps } from 'antd/es/table';
import {
  type ComponentProps,
  type HTMLAttributes,
  createContext,
  useContext,
  useEffect,
  useMemo,
  useRef,
} from 'react';
import css from './table.module.css';

/** What a table needs. */
interface DeskTableProps<Row> {
  /** What it is called. */
  label: string;
  rows: readonly Row[];
  rowKey: (row: Row) => string | number;
  columns: ColumnsType<Row>;
  empty: React.ReactNode;
  /** Fills what is left of the screen; else it is as high as its rows. */
  fills?: 'list' | 'page';
  /** Begins at its end. */
  fromEnd?: boolean;
  /** The row that must be seen, as a number from 0. */
  at?: number;
  rowProps?: (row: Row, index: number) => HTMLAttributes<HTMLElement> & { className?: string };
  foot?: React.ReactNode;
  selection?: TableProps<Row>['rowSelection'];
  pagination?: TableProps<Row>['pagination'];
  onChange?: TableProps<Row>['onChange'];
}

/** Tables of up to so many rows are drawn whole. */
const FEW = 28;
/** Height of a row before it is measured, in pixels. */
const ROW = 29;
/** A column without a width of its own gets at least so much, in pixels. */
const LEAST = 104;

/** What the parts of the table are told: the room of the rows that are not drawn, and how to measure those that are. */
const Rows = createContext<{
  before: number;
  after: number;
  columns: number;
  measure: ((row: HTMLElement | null) => void) | undefined;
}>({ before: 0, after: 0, columns: 1, measure: undefined });

const Gap = ({ height, columns }: { height: number; columns: number }) =>
  height > 0 ? (
    <tr aria-hidden className={css.gap} style={{ height }}>
      <td colSpan={columns} />
    </tr>
  ) : null;

function Body({ children, ...props }: ComponentProps<'tbody'>) {
  const { before, after, columns } = useContext(Rows);
  return (
    <tbody {...props}>
      <Gap height={before} columns={columns} />
      {children}
      <Gap height={after} columns={columns} />
    </tbody>
  );
}

function Row(props: ComponentProps<'tr'>) {
  const { measure } = useContext(Rows);
  return <tr ref={measure} {...props} />;
}

const COMPONENTS = { body: { wrapper: Body, row: Row } };

/** The table. */
export function DeskTable<Item extends object>({
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
  selection,
  pagination = false,
  onChange,
}: DeskTableProps<Item>) {
  const box = useRef<HTMLDivElement>(null);
  const scroller = (): HTMLElement | null => box.current?.querySelector('.ant-table-content') ?? null;
  const windowed = fills !== undefined && rows.length > FEW;
  const virtual = useVirtualizer<HTMLElement, HTMLElement>({
    count: rows.length,
    getScrollElement: scroller,
    estimateSize: () => ROW,
    getItemKey: (index) => rowKey(rows[index]!),
    overscan: 4,
    enabled: windowed,
    initialRect: { width: 1100, height: fills === 'page' ? 360 : 560 },
    initialOffset: fromEnd ? rows.length * ROW : 0,
  });
  const items = windowed ? virtual.getVirtualItems() : [];
  const first = items[0]?.index ?? 0;
  const last = items.at(-1)?.index ?? rows.length - 1;
  const start = items[0]?.start ?? 0;
  const total = windowed ? virtual.getTotalSize() : 0;
  const after = items.length > 0 ? Math.max(0, total - items.at(-1)!.end) : 0;
  const drawn = columns.length + (selection ? 1 : 0);
  const room = useMemo(
    () => ({
      before: start,
      after,
      columns: drawn,
      measure: windowed ? virtual.measureElement : undefined,
    }),
    [start, after, drawn, windowed, virtual.measureElement],
  );

  useEffect(() => {
    if (at === undefined) return;
    if (windowed) virtual.scrollToIndex(at, { align: 'auto' });
    box.current?.querySelector(`tr[aria-rowindex="${at + 2}"]`)?.scrollIntoView({ block: 'nearest' });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [at]);
  useEffect(() => {
    const element = scroller();
    if (fromEnd && element && at === undefined) element.scrollTop = element.scrollHeight;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [fromEnd, rows.length]);

  const least = columns.reduce((all, column) => all + (Number(column.width) || LEAST), 0);
  const shown = windowed ? rows.slice(first, last + 1) : rows;
  return (
    <Rows.Provider value={room}>
      <div ref={box} className={fills ? `${css.table} ${css[fills]}` : css.table}>
        <Table<Item>
          size="small"
          aria-label={label}
          rowKey={rowKey}
          dataSource={shown as Item[]}
          columns={columns}
          components={COMPONENTS}
          scroll={{ x: least }}
          tableLayout="fixed"
          showSorterTooltip={false}
          pagination={pagination}
          onChange={onChange}
          locale={{ emptyText: <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description={empty} /> }}
          rowSelection={selection}
          onRow={(row, index = 0) =>
            ({
              'data-index': first + index,
              'aria-rowindex': first + index + 2,
              ...rowProps?.(row, first + index),
            }) as HTMLAttributes<HTMLElement>
          }
          summary={foot && rows.length > 0 ? () => <>{foot}</> : undefined}
        />
      </div>
    </Rows.Provider>
  );
}
