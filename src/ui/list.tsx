'use client';
/** A list with its three depths: the rows, a peek that follows the cursor (Space), the page (Enter). */
import { Drawer, Empty, Table } from 'antd';
import type { ColumnsType } from 'antd/es/table';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { type Key, useCallback, useEffect, useRef, useState } from 'react';

/** What a list needs. `rows` have a numeric id. */
export interface ListProps<T extends { id: number }> {
  rows: T[];
  columns: ColumnsType<T>;
  count: number;
  pageSize: number;
  hrefOf?: (row: T) => string;
  peek?: (row: T) => { title: React.ReactNode; body: React.ReactNode };
  selected?: { ids: number[]; set: (ids: number[]) => void; may?: (row: T) => boolean };
  summary?: (rows: readonly T[]) => React.ReactNode;
  empty: string;
  label: string;
}

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (/^(INPUT|TEXTAREA|SELECT|BUTTON|A)$/.test(target.tagName) || target.isContentEditable) &&
  !(target instanceof HTMLInputElement && target.type === 'checkbox');

/** The list. Arrow keys (or j and k) move, Space peeks, Enter opens, Esc goes back one depth, X selects. */
export function List<T extends { id: number }>({
  rows,
  columns,
  count,
  pageSize,
  hrefOf,
  peek,
  selected,
  summary,
  empty,
  label,
}: ListProps<T>) {
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

  const page = Number(params.get('page') ?? 1);
  const shown = peeking && row && peek ? peek(row) : null;
  return (
    <div ref={box} aria-label={label}>
      <Table<T>
        size="small"
        rowKey="id"
        dataSource={rows}
        columns={columns}
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
        summary={summary && rows.length > 0 ? summary : undefined}
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
          size={420}
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
