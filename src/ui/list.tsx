'use client';
/** A list with its three depths: the rows, a peek that follows the cursor (Space), the page (Enter). */
import { Drawer, Empty, Table } from 'antd';
import type { ColumnsType } from 'antd/es/table';
import type { SorterResult } from 'antd/es/table/interface';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { type Key, useCallback, useEffect, useRef, useState } from 'react';
import { type ColumnKind, LISTS, type ListColumn, type ListName } from '../core/reports/lists';
import { counted } from '../core/words';
import type { ListState, RowOf } from '../server/lists/read';
import { ListTools } from './columns';
import { Day, Money } from './figures';
import { useFilter } from './filters';

/** How a column's cells look; without it they show the field as its kind. */
interface Cell<Row> {
  width?: number;
  render?: (row: Row) => React.ReactNode;
  /** Long words are cut short. */
  ellipsis?: boolean;
}

/** What a list needs. */
interface ListProps<Name extends ListName, Row extends { id: number } = RowOf<Name>> {
  list: ListState<Name>;
  cells: Record<string, Cell<Row>>;
  /** A last column with what can be done with a row. */
  act?: { width: number; render: (row: Row) => React.ReactNode };
  /** Views and search, at the left of the toolbar. */
  filters?: React.ReactNode;
  hrefOf?: (row: Row) => string;
  peek?: (row: Row) => { title: React.ReactNode; body: React.ReactNode };
  selected?: { ids: number[]; set: (ids: number[]) => void; may?: (row: Row) => boolean };
  empty: string;
  label: string;
}

const PEEK_WIDTH = 420;

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (/^(INPUT|TEXTAREA|SELECT|BUTTON|A)$/.test(target.tagName) || target.isContentEditable) &&
  !(target instanceof HTMLInputElement && target.type === 'checkbox');

/** One column as Ant Design wants it. */
function tableColumn<Row>(
  column: ListColumn,
  cell: Cell<Row> | undefined,
  order: string,
): ColumnsType<Row>[number] {
  const field = (row: Row) => row[column.key as keyof Row];
  const right = column.kind === 'money' || column.kind === 'number';
  const shown: Record<ColumnKind, (row: Row) => React.ReactNode> = {
    words: (row) => field(row) as React.ReactNode,
    number: (row) => field(row) as React.ReactNode,
    day: (row) => <Day date={field(row) as string | null} />,
    money: (row) => <Money cents={field(row) as number} />,
  };
  return {
    key: column.key,
    title: column.title,
    align: right ? 'right' : 'left',
    width: cell?.width ?? { words: undefined, number: 80, day: 110, money: 110 }[column.kind],
    ellipsis: cell?.ellipsis,
    render: (_, row) => (cell?.render ?? shown[column.kind])(row),
    ...(column.unordered
      ? {}
      : {
          sorter: true,
          sortOrder: order === column.key ? 'ascend' : order === `-${column.key}` ? 'descend' : null,
        }),
  };
}

/** What a list still shows beside its peek: what a row is, how it stands, and its amount. */
function besidePeek(columns: readonly ListColumn[]): ListColumn[] {
  const amount = columns.findLast((column) => column.kind === 'money');
  return columns.filter((column, index) => index < 2 || column.key === 'status' || column === amount);
}

/** One line of sums under a list: words from the left, each sum under its column. */
function SumRow({
  words,
  columns,
  sums,
  before,
  after,
}: {
  words: string;
  columns: readonly ListColumn[];
  sums: Record<string, number>;
  /** Columns of the table before and after those of the list. */
  before: number;
  after: number;
}) {
  const found = columns.findIndex((column) => column.key in sums);
  const first = found === -1 ? columns.length : found;
  // An amount may stand first: then the words have no column of their own.
  const apart = first + before > 0;
  return (
    <Table.Summary.Row>
      {apart && (
        <Table.Summary.Cell index={0} colSpan={first + before}>
          {words}
        </Table.Summary.Cell>
      )}
      {columns.slice(first).map((column, index) => (
        <Table.Summary.Cell key={column.key} index={first + before + index} align="right">
          {!apart && index === 0 && `${words} `}
          {column.key in sums && <Money cents={sums[column.key]!} />}
        </Table.Summary.Cell>
      ))}
      {after > 0 && <Table.Summary.Cell index={columns.length + before} colSpan={after} />}
    </Table.Summary.Row>
  );
}

/** The list. Arrow keys (or j and k) move, Space peeks, Enter opens, Esc goes back one depth, X selects. */
export function List<Name extends ListName>({
  list,
  cells,
  act,
  filters,
  hrefOf,
  peek,
  selected,
  empty,
  label,
}: ListProps<Name>) {
  type Row = RowOf<Name>;
  const { count, pageSize, page } = list;
  const rows = list.rows as Row[];
  const router = useRouter();
  const params = useSearchParams();
  const path = usePathname();
  const [cursor, setCursor] = useState(0);
  const [peeking, setPeeking] = useState(params.get('peek') !== null);
  const box = useRef<HTMLDivElement>(null);
  const at = Math.min(cursor, Math.max(0, rows.length - 1));
  const row = rows[at];

  const remember = useCallback(
    (id: number | null) => {
      const next = new URLSearchParams(window.location.search);
      if (id === null) next.delete('peek');
      else next.set('peek', String(id));
      // Past the router: told of it, the router would drop a search that is still on its way.
      History.prototype.replaceState.call(
        window.history,
        window.history.state,
        '',
        `${path}${next.size > 0 ? `?${next}` : ''}`,
      );
    },
    [path],
  );

  useEffect(() => {
    const wanted = Number(new URLSearchParams(window.location.search).get('peek'));
    const index = rows.findIndex((item) => item.id === wanted);
    if (index >= 0) setCursor(index);
  }, [rows]);

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        typing(event.target) ||
        document.querySelector('.ant-modal-wrap, [data-dialog]')
      )
        return;
      const move = (to: number): void => {
        const next = Math.max(0, Math.min(rows.length - 1, to));
        setCursor(next);
        if (peeking && rows[next]) remember(rows[next].id);
        box.current?.querySelectorAll('tr.ant-table-row')[next]?.scrollIntoView({ block: 'nearest' });
        event.preventDefault();
      };
      if (event.key === 'ArrowDown' || event.key === 'j') move(at + 1);
      else if (event.key === 'ArrowUp' || event.key === 'k') move(at - 1);
      else if (event.key === 'Home') move(0);
      else if (event.key === 'End') move(rows.length - 1);
      else if (event.key === ' ' && peek && row) {
        setPeeking(!peeking);
        remember(peeking ? null : row.id);
        event.preventDefault();
      } else if (event.key === 'Enter' && row && hrefOf) router.push(hrefOf(row));
      else if (event.key === 'Escape' && peeking) {
        setPeeking(false);
        remember(null);
      } else if (event.key === 'x' && row && selected && (selected.may?.(row) ?? true)) {
        selected.set(
          selected.ids.includes(row.id)
            ? selected.ids.filter((id) => id !== row.id)
            : [...selected.ids, row.id],
        );
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [rows, at, row, peeking, peek, hrefOf, selected, router, remember]);

  const shown = peeking && row && peek ? peek(row) : null;
  const columns = shown ? besidePeek(list.columns) : list.columns;
  const filter = useFilter();
  const [one, many] = LISTS[list.name].noun;
  const picked = selected ? rows.filter((item) => selected.ids.includes(item.id)) : [];
  const pickedSums = Object.fromEntries(
    Object.keys(list.sums).map((key) => [
      key,
      picked.reduce((all, item) => all + Number(item[key as keyof Row] ?? 0), 0),
    ]),
  );
  const around = { columns, before: selected ? 1 : 0, after: act ? 1 : 0 };
  return (
    <div ref={box} aria-label={label}>
      <div className="toolbar">
        {filters}
        <ListTools list={list} />
      </div>
      <Table<Row>
        style={shown ? { marginRight: PEEK_WIDTH - 10 } : undefined}
        size="small"
        rowKey="id"
        dataSource={rows}
        columns={[
          ...columns.map((column) => tableColumn(column, cells[column.key], list.order)),
          ...(act
            ? [{ key: 'act', width: act.width, render: (_: unknown, item: Row) => act.render(item) }]
            : []),
        ]}
        showSorterTooltip={false}
        onChange={(_pagination, _filters, sorter, { action }) => {
          if (action !== 'sort') return;
          const { columnKey, order } = sorter as SorterResult<Row>;
          filter('order', order ? `${order === 'descend' ? '-' : ''}${String(columnKey)}` : '');
        }}
        locale={{ emptyText: <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description={empty} /> }}
        rowClassName={(_row, index) => (index === at ? 'cursor' : '')}
        onRow={(item, index) => ({
          onClick: () => setCursor(index ?? 0),
          onDoubleClick: () => hrefOf && router.push(hrefOf(item)),
        })}
        rowSelection={
          selected
            ? {
                selectedRowKeys: selected.ids,
                onChange: (keys: Key[]) => selected.set(keys.map(Number)),
                getCheckboxProps: (item) =>
                  ({ disabled: !(selected.may?.(item) ?? true), 'aria-label': 'Select' }) as never,
              }
            : undefined
        }
        pagination={
          count > pageSize
            ? {
                total: count,
                pageSize,
                current: page,
                showSizeChanger: false,
                size: 'small',
                onChange: (next) =>
                  router.push(
                    `${path}?${new URLSearchParams({ ...Object.fromEntries(params), page: String(next) })}`,
                  ),
              }
            : false
        }
        summary={
          rows.length === 0
            ? undefined
            : () => (
                <>
                  {picked.length > 0 && (
                    <SumRow {...around} words={`${picked.length} selected`} sums={pickedSums} />
                  )}
                  <SumRow {...around} words={counted(count, one, many)} sums={list.sums} />
                </>
              )
        }
      />
      <p className="quiet small" style={{ margin: '6px 2px' }}>
        ↑ ↓ move{peek ? ' · Space looks' : ''}
        {hrefOf ? ' · Enter opens' : ''}
        {selected ? ' · X selects' : ''}
      </p>
      {shown && (
        <Drawer
          open
          mask={false}
          size={PEEK_WIDTH}
          title={shown.title}
          onClose={() => (setPeeking(false), remember(null))}
          keyboard={false}
          autoFocus={false}
        >
          {shown.body}
        </Drawer>
      )}
    </div>
  );
}
