'use client';
/** A list with its three depths: the rows, a peek that follows the cursor (Space), the page (Enter). */
import { Checkbox, Drawer, Table } from 'antd';
import type { ColumnsType } from 'antd/es/table';
import type { SorterResult } from 'antd/es/table/interface';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { type Key, useCallback, useEffect, useRef, useState } from 'react';
import type { ColumnKind, ListColumn } from '../core/reports/lists';
import { counted } from '../core/words';
import type { ListState } from '../server/lists/read';
import { ListTools } from './columns';
import { Day, Money } from './figures';
import { SearchField, Views, useFilter } from './filters';
import { useKeys } from './keys';
import css from './list.module.css';
import { Toolbar } from './page';
import { DeskTable } from './table';

/** How a column's cells look; without it they show the field as its kind. */
interface Cell<Row> {
  width?: number;
  render?: (row: Row) => React.ReactNode;
  /** Long words are cut short. */
  ellipsis?: boolean;
}

/** What a list needs. */
interface ListProps<Row extends { id: number }> {
  list: ListState<Row>;
  cells?: Partial<Record<keyof Row & string, Cell<Row>>>;
  /** A last column with what can be done with a row. */
  act?: { width: number; render: (row: Row) => React.ReactNode };
  /** What the search field says that it finds. */
  hint?: string;
  /** Further filters, at the left of the toolbar. */
  filters?: React.ReactNode;
  hrefOf?: (row: Row) => string;
  /** What Enter does with a row that has no page. */
  onOpen?: (row: Row) => void;
  peek?: (row: Row) => { title: React.ReactNode; body: React.ReactNode };
  /** Loads the code of the page that a row opens, once somebody moves in the list. */
  warm?: () => Promise<unknown>;
  selected?: { ids: number[]; set: (ids: number[]) => void; may?: (row: Row) => boolean };
  empty: string;
  label: string;
}

const PEEK_WIDTH = 420;

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
    money: (row) => (field(row) === null ? null : <Money cents={field(row) as number} />),
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

/** The cursor of a list, which is the focus itself: a number from 0, and how it moves. */
function useCursor<Row extends { id: number }>(rows: readonly Row[]) {
  const [cursor, setCursor] = useState(0);
  const box = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  const at = Math.min(cursor, Math.max(0, rows.length - 1));
  useEffect(() => {
    if (!moved.current) return;
    moved.current = false;
    box.current?.querySelector<HTMLElement>(`tr[aria-rowindex="${at + 2}"]`)?.focus({ preventScroll: true });
  });
  const move = (to: number): number => {
    const next = Math.max(0, Math.min(rows.length - 1, to));
    moved.current = true;
    setCursor(next);
    return next;
  };
  return { at, move, setCursor, box };
}

/** The list. Arrow keys (or j and k) move, Space peeks, Enter opens, Esc goes back one depth, X selects. */
export function List<Row extends { id: number }>({
  list,
  cells = {},
  act,
  hint,
  filters,
  hrefOf,
  onOpen,
  peek,
  warm,
  selected,
  empty,
  label,
}: ListProps<Row>) {
  const { rows, count, pageSize, page } = list;
  const router = useRouter();
  const params = useSearchParams();
  const path = usePathname();
  const { at, move, setCursor, box } = useCursor(rows);
  const [peeking, setPeeking] = useState(params.get('peek') !== null);
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
  }, [rows, setCursor]);

  const warmed = useRef(false);
  const warmUp = (): void => {
    if (warmed.current) return;
    warmed.current = true;
    void warm?.().catch(() => undefined);
  };
  const step = (to: number) => (event: KeyboardEvent) => {
    event.preventDefault();
    warmUp();
    const next = rows[move(to)];
    if (peeking && next) remember(next.id);
  };
  const look = (open: boolean): void => {
    setPeeking(open);
    remember(open && row ? row.id : null);
  };
  const open = (item: Row): void => {
    if (!hrefOf) return onOpen?.(item);
    // Marked past React: drawing the whole list again would delay the page that is wanted.
    box.current?.querySelector('tr[aria-current]')?.setAttribute('data-going', '');
    router.push(hrefOf(item));
  };
  const pick = (item: Row): void => {
    if (!selected || selected.may?.(item) === false) return;
    const { ids, set } = selected;
    set(ids.includes(item.id) ? ids.filter((id) => id !== item.id) : [...ids, item.id]);
  };
  useKeys([
    { key: 'ArrowDown', words: 'next row (or J)', run: step(at + 1) },
    { key: 'j', run: step(at + 1) },
    { key: 'ArrowUp', words: 'row before (or K)', run: step(at - 1) },
    { key: 'k', run: step(at - 1) },
    { key: 'Home', words: 'first row', run: step(0) },
    { key: 'End', words: 'last row', run: step(rows.length - 1) },
    ...(hrefOf || onOpen ? [{ key: 'Enter', words: 'open', run: () => row && open(row) }] : []),
    ...(peek
      ? [
          {
            key: 'Space',
            words: 'look beside the list',
            run: (event: KeyboardEvent) => {
              event.preventDefault();
              if (row) look(!peeking);
            },
          },
        ]
      : []),
    ...(peek && peeking ? [{ key: 'Escape', words: 'close the look', run: () => look(false) }] : []),
    ...(selected ? [{ key: 'x', words: 'select', run: () => row && pick(row) }] : []),
  ]);

  const shown = peeking && row && peek ? peek(row) : null;
  const beside = shown !== null;
  useEffect(() => {
    // The whole page makes room, so that the peek covers nothing that can be done.
    document.documentElement.toggleAttribute('data-peek', beside);
    return () => document.documentElement.removeAttribute('data-peek');
  }, [beside]);
  const columns = shown ? besidePeek(list.columns) : list.columns;
  const filter = useFilter();
  const [one, many] = list.noun;
  const picked = selected ? rows.filter((item) => selected.ids.includes(item.id)) : [];
  const pickedSums = Object.fromEntries(
    Object.keys(list.sums).map((key) => [
      key,
      picked.reduce((all, item) => all + Number(item[key as keyof Row] ?? 0), 0),
    ]),
  );
  const around = { columns, before: selected ? 1 : 0, after: act ? 1 : 0 };
  return (
    <div ref={box} onPointerMove={warmUp}>
      <Toolbar right={<ListTools list={list} />}>
        {list.views.length > 1 && (
          <Views
            value={list.view}
            options={list.views.map((view) => ({ value: view.key, label: view.label }))}
          />
        )}
        {list.searched && <SearchField value={list.search} hint={hint ?? 'Find in this list'} />}
        {filters}
      </Toolbar>
      <DeskTable<Row>
        label={label}
        fills="list"
        rows={rows}
        rowKey={(item) => item.id}
        at={at}
        empty={empty}
        columns={[
          ...columns.map((column) =>
            tableColumn(column, cells[column.key as keyof Row & string], list.order),
          ),
          ...(act
            ? [
                {
                  key: 'act',
                  title: <span className={css.unseen}>What can be done</span>,
                  width: act.width,
                  fixed: 'right' as const,
                  render: (_: unknown, item: Row) => act.render(item),
                },
              ]
            : []),
        ]}
        onChange={(_pagination, _filters, sorter, { action }) => {
          if (action !== 'sort') return;
          const { columnKey, order } = sorter as SorterResult<Row>;
          filter('order', order ? `${order === 'descend' ? '-' : ''}${String(columnKey)}` : '');
        }}
        rowProps={(item, index) => ({
          className: index === at ? css.cursor : '',
          tabIndex: index === at ? 0 : -1,
          'aria-current': index === at ? 'true' : undefined,
          onClick: () => setCursor(index),
          onDoubleClick: () => open(item),
        })}
        selection={selected && selection(rows, selected)}
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
        foot={
          <>
            {picked.length > 0 && (
              <SumRow {...around} words={`${picked.length} selected`} sums={pickedSums} />
            )}
            <SumRow {...around} words={counted(count, one, many)} sums={list.sums} />
          </>
        }
      />
      <p className={`quiet small ${css.keys}`}>
        ↑ ↓ move{peek ? ' · Space looks' : ''}
        {hrefOf || onOpen ? ' · Enter opens' : ''}
        {selected ? ' · X selects' : ''} · ? all keys
      </p>
      {shown && (
        <Drawer
          open
          mask={false}
          size={PEEK_WIDTH}
          title={shown.title}
          onClose={() => look(false)}
          keyboard={false}
          autoFocus={false}
        >
          {shown.body}
        </Drawer>
      )}
    </div>
  );
}

/** Checkboxes before the rows, and one for all of them. */
function selection<Row extends { id: number }>(
  rows: readonly Row[],
  { ids, set, may = () => true }: NonNullable<ListProps<Row>['selected']>,
) {
  const open = rows.filter(may).map((item) => item.id);
  const all = open.length > 0 && open.every((id) => ids.includes(id));
  return {
    columnWidth: 36,
    preserveSelectedRowKeys: true,
    selectedRowKeys: ids,
    columnTitle: (
      <Checkbox
        aria-label="Select all"
        checked={all}
        indeterminate={!all && open.some((id) => ids.includes(id))}
        disabled={open.length === 0}
        onChange={() => set(all ? [] : open)}
      />
    ),
    onChange: (keys: Key[]) => set(keys.map(Number)),
    getCheckboxProps: (item: Row) => ({ disabled: !may(item), 'aria-label': 'Select' }) as never,
  };
}
