'use client';
/** A list with its three depths: the rows, a peek that follows the cursor (Space), the page (Enter). */
import { Checkbox, Drawer } from 'antd';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import { CLOSED_ACCOUNT, type ColumnKind, type ListColumn } from '../core/reports/lists';
import { counted } from '../core/words';
import type { ListRow } from '../server/lists/list';
import type { ListState } from '../server/lists/read';
import { ListTools } from './columns';
import { useDesk } from './desk';
import { Day, Money } from './figures';
import { Narrowing, Pages, SearchField, Views, useFilter } from './filters';
import { useKeys } from './keys';
import css from './list.module.css';
import { Toolbar } from './page';
import { type Column, DeskTable, FootRow, type Order } from './table';

/** How a column's cells look; without it they show the field as its kind. */
interface Cell<Row> {
  width?: number;
  render?: (row: Row) => React.ReactNode;
  /** Long words are cut short. */
  ellipsis?: boolean;
}

/** What a list needs. */
interface ListProps<Row extends ListRow> {
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
  /** What a key does with the row under the cursor. */
  rowKeys?: readonly { key: string; words: string; run: (row: Row) => void }[];
  /** Loads the code of the page that a row opens, once somebody moves in the list. */
  warm?: () => Promise<unknown>;
  selected?: { ids: number[]; set: (ids: number[]) => void; may?: (row: Row) => boolean };
  empty: string;
  label: string;
}

const PEEK_WIDTH = 420;

/** One column as the table wants it. */
function tableColumn<Row extends ListRow>(
  column: ListColumn,
  cell: Cell<Row> | undefined,
  order: string,
  /** It says of a closed row what that is. */
  names: boolean,
): Column<Row> {
  const field = (row: Row) => row[column.key as keyof Row];
  const shown: Record<ColumnKind, (row: Row) => React.ReactNode> = {
    words: (row) => field(row) as React.ReactNode,
    number: (row) => field(row) as React.ReactNode,
    day: (row) => <Day date={(field(row) ?? null) as string | null} />,
    money: (row) => (field(row) === null ? null : <Money cents={field(row) as number} />),
  };
  return {
    key: column.key,
    title: column.title,
    right: column.kind === 'money' || column.kind === 'number',
    width: cell?.width ?? { words: undefined, number: 80, day: 110, money: 110 }[column.kind],
    cut: cell?.ellipsis,
    render: (row) =>
      row.closed && names ? (
        <span className={css.closed}>{CLOSED_ACCOUNT}</span>
      ) : (
        (row.closed || !cell?.render ? shown[column.kind] : cell.render)(row)
      ),
    order: column.unordered
      ? undefined
      : order === column.key
        ? 'up'
        : order === `-${column.key}`
          ? 'down'
          : 'none',
  };
}

/** What a list is ordered by after one more press on a column's head: upward, downward, as it was. */
const nextOrder = (key: string, now: Order): string => ({ none: key, up: `-${key}`, down: '' })[now];

/** What a list still shows beside its peek: what a row is, how it stands, and its amount. */
function besidePeek(columns: readonly ListColumn[]): ListColumn[] {
  const amount = columns.findLast((column) => column.kind === 'money');
  return columns.filter((column, index) => index < 2 || column.key === 'status' || column === amount);
}

/** The row of a list with a number from 0. */
const rowAt = (box: HTMLElement | null, at: number): HTMLElement | null | undefined =>
  box?.querySelector<HTMLElement>(`tr[aria-rowindex="${at + 2}"]`);

/** The cursor of a list, which is the focus itself: a number from 0, and how it moves. */
function useCursor<Row extends ListRow>(rows: readonly Row[]) {
  const [cursor, setCursor] = useState(0);
  const box = useRef<HTMLDivElement>(null);
  const moved = useRef(false);
  const at = Math.min(cursor, Math.max(0, rows.length - 1));
  useEffect(() => {
    if (!moved.current) return;
    let frame = 0;
    let tries = 0;
    const focus = (): void => {
      const row = rowAt(box.current, at);
      moved.current = row === null && tries < 20;
      if (row) row.focus({ preventScroll: true });
      // A row far away is drawn once the list was scrolled to it.
      else if (moved.current) frame = requestAnimationFrame(focus);
      tries += 1;
    };
    focus();
    return () => cancelAnimationFrame(frame);
  });
  const move = (to: number): number => {
    const next = Math.max(0, Math.min(rows.length - 1, to));
    // Where it stands already nothing is drawn anew, and the focus comes at once.
    if (next === at) rowAt(box.current, next)?.focus({ preventScroll: true });
    else moved.current = true;
    setCursor(next);
    return next;
  };
  return { at, move, setCursor, box };
}

/** The list. Arrow keys (or j and k) move, Space peeks, Enter opens, Esc goes back one depth, X selects. */
export function List<Row extends ListRow>({
  list,
  cells = {},
  act,
  hint,
  filters,
  hrefOf,
  onOpen,
  peek,
  rowKeys = [],
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
  const { waiting } = useDesk();
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
    if (item.closed) return;
    if (!hrefOf) return onOpen?.(item);
    // Marked past React: drawing the whole list again would delay the page that is wanted.
    box.current?.querySelector('tr[aria-current]')?.setAttribute('data-going', '');
    router.push(hrefOf(item));
  };
  const pick = (item: Row): void => {
    if (!selected || !pickable(item, selected)) return;
    const { ids, set } = selected;
    set(toggled(ids, item.id));
  };
  useKeys([
    { key: 'ArrowDown', words: 'next row (or J)', run: step(at + 1) },
    { key: 'j', run: step(at + 1) },
    { key: 'ArrowUp', words: 'row before (or K)', run: step(at - 1) },
    { key: 'k', run: step(at - 1) },
    { key: 'Home', words: 'first row', run: step(0) },
    { key: 'End', words: 'last row', run: step(rows.length - 1) },
    ...(hrefOf || onOpen
      ? [
          {
            key: 'Enter',
            words: 'open',
            run: (event: KeyboardEvent) => {
              // Else the form that opens takes the same press for its own, and is saved at once.
              event.preventDefault();
              if (row) open(row);
            },
          },
        ]
      : []),
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
    ...rowKeys.map(({ key, words, run }) => ({
      key,
      words,
      run: (event: KeyboardEvent) => {
        event.preventDefault();
        if (row && !row.closed) run(row);
      },
    })),
  ]);

  const shown = peeking && row && !row.closed && peek ? peek(row) : null;
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
    <div ref={box} onPointerMove={warmUp} className={list.narrowed.length > 1 ? css.narrowed : undefined}>
      <Toolbar
        right={
          <>
            <Narrowing filters={list.narrowed} />
            <ListTools list={list} />
          </>
        }
      >
        {list.views.length > 1 && (
          <Views
            value={list.view}
            options={list.views.map((view) => {
              const waits = waiting[`${list.name} ${view.key}`];
              return { value: view.key, label: waits ? `${view.label} ${waits}` : view.label };
            })}
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
          ...(selected ? [selection(rows, selected)] : []),
          ...columns.map((column) =>
            tableColumn(
              column,
              cells[column.key as keyof Row & string],
              list.order,
              column === columns.find(({ kind }) => kind === 'words'),
            ),
          ),
          ...(act
            ? [
                {
                  key: 'act',
                  title: <span className={css.unseen}>What can be done</span>,
                  width: act.width,
                  fixed: true,
                  render: (item: Row) => (item.closed ? null : act.render(item)),
                },
              ]
            : []),
        ]}
        onOrder={(key, now) => filter('order', nextOrder(key, now))}
        rowProps={(item, index) => ({
          className: index === at ? css.cursor : undefined,
          tabIndex: index === at ? 0 : -1,
          'aria-current': index === at ? 'true' : undefined,
          onClick: () => setCursor(index),
          onDoubleClick: () => open(item),
        })}
        foot={
          <>
            {picked.length > 0 && (
              <FootRow {...around} words={`${picked.length} selected`} sumOf={summed(pickedSums)} />
            )}
            <FootRow
              {...around}
              words={`${list.more ? 'more than ' : ''}${counted(count, one, many)}`}
              sumOf={summed(list.sums)}
            />
          </>
        }
      />
      <Pages count={count} size={pageSize} page={page} />
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

/** Sums as the foot shows them. */
const summed =
  (sums: Readonly<Record<string, number>>) =>
  (key: string): React.ReactNode =>
    key in sums ? <Money cents={sums[key]!} /> : undefined;

/** Whether a row can be selected. */
const pickable = <Row extends ListRow>(
  item: Row,
  { may = () => true }: NonNullable<ListProps<Row>['selected']>,
): boolean => !item.closed && may(item);

/** Checkboxes before the rows, and one for all of them. */
function selection<Row extends ListRow>(
  rows: readonly Row[],
  selected: NonNullable<ListProps<Row>['selected']>,
): Column<Row> {
  const { ids, set } = selected;
  const open = rows.filter((item) => pickable(item, selected)).map((item) => item.id);
  const all = open.length > 0 && open.every((id) => ids.includes(id));
  return {
    key: 'select',
    width: 36,
    title: (
      <Checkbox
        aria-label="Select all"
        checked={all}
        indeterminate={!all && open.some((id) => ids.includes(id))}
        disabled={open.length === 0}
        onChange={() => set(all ? [] : open)}
      />
    ),
    render: (item) => (
      <Checkbox
        aria-label="Select"
        checked={ids.includes(item.id)}
        disabled={!pickable(item, selected)}
        onChange={() => set(toggled(ids, item.id))}
      />
    ),
  };
}

const toggled = (ids: readonly number[], id: number): number[] =>
  ids.includes(id) ? ids.filter((other) => other !== id) : [...ids, id];
