'use client';
/** Which columns a list shows, and the list as a file. */
import { Button, Checkbox, Input, Popover } from 'antd';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { shownColumns } from '../core/reports/lists';
import type { ListState } from '../server/lists/read';
import { filterAddress } from '../core/reports/filters';
import { useAct } from './act';
import { useDesk } from './desk';
import css from './list.module.css';

type Listed = Pick<ListState, 'name' | 'all' | 'columns' | 'chosen' | 'kept' | 'view' | 'order' | 'narrowed'>;

/** The tools at the right of a list's toolbar. */
export function ListTools({ list }: { list: Listed }) {
  const params = useSearchParams();
  const [views, setViews] = useState(false);
  const address = (format: string): string => {
    const next = new URLSearchParams(params);
    for (const name of ['page', 'peek']) next.delete(name);
    next.set('format', format);
    return `/api/lists/${list.name}?${next}`;
  };
  return (
    <span className={css.tools}>
      <Popover
        trigger="click"
        placement="bottomRight"
        title="Views kept by you"
        open={views}
        onOpenChange={setViews}
        content={<Kept list={list} close={() => setViews(false)} />}
      >
        <Button type="text" size="small">
          Views{list.kept.length > 0 ? ` ${list.kept.length}` : ''}
        </Button>
      </Popover>
      <Popover trigger="click" placement="bottomRight" title="Columns" content={<Chooser list={list} />}>
        <Button type="text" size="small">
          Columns
        </Button>
      </Popover>
      <a href={address('csv')} download>
        CSV
      </a>
      <a href={address('xlsx')} download>
        XLSX
      </a>
    </span>
  );
}

/** Views that the person keeps: each leads there, and the one that is shown can be kept. */
function Kept({ list, close }: { list: Listed; close: () => void }) {
  const { busy, run } = useAct();
  const { keepView, forgetView } = useDesk();
  const router = useRouter();
  const path = usePathname();
  const [name, setName] = useState('');
  const keep = async (): Promise<void> => {
    if (name.trim() === '') return;
    const kept = await run(
      () =>
        keepView({
          list: list.name,
          name,
          view: list.view,
          order: list.order,
          filters: Object.fromEntries(
            list.narrowed.flatMap((one) => (one.value === null ? [] : [[one.name, one.value]])),
          ),
        }),
      'The view is kept for you',
    );
    if (kept) setName('');
  };
  return (
    <div className={css.chooser}>
      {list.kept.map((one) => (
        <div key={one.name}>
          <Button
            type="link"
            size="small"
            onClick={() => {
              close();
              router.push(
                `${path}?${new URLSearchParams({
                  view: one.view,
                  ...(one.order ? { order: one.order } : {}),
                  ...filterAddress(one.filters),
                })}`,
              );
            }}
          >
            {one.name}
          </Button>
          <Button
            type="text"
            size="small"
            aria-label={`Forget ${one.name}`}
            loading={busy}
            onClick={() => void run(() => forgetView({ list: list.name, name: one.name }))}
          >
            ×
          </Button>
        </div>
      ))}
      <div>
        <Input
          size="small"
          aria-label="Keep this view as"
          placeholder="Keep this view as"
          maxLength={40}
          value={name}
          onChange={({ target }) => setName(target.value)}
          onPressEnter={() => void keep()}
        />
        <Button size="small" loading={busy} disabled={name.trim() === ''} onClick={() => void keep()}>
          Keep
        </Button>
      </div>
    </div>
  );
}

function Chooser({ list }: { list: Listed }) {
  const { run } = useAct();
  const { chooseColumns } = useDesk();
  const [shown, setShown] = useState(list.columns.map((column) => column.key));
  const choose = (keys: string[]): void => {
    setShown(keys.length > 0 ? keys : shownColumns(list.all, null).map((column) => column.key));
    void run(() => chooseColumns({ list: list.name, columns: keys }));
  };
  const move = (from: number, to: number): void => {
    const keys = [...shown];
    keys.splice(to, 0, ...keys.splice(from, 1));
    choose(keys);
  };
  const rows = [...shown, ...list.all.map((column) => column.key).filter((key) => !shown.includes(key))];
  return (
    <div className={css.chooser}>
      {rows.map((key) => {
        const { title } = list.all.find((column) => column.key === key)!;
        const at = shown.indexOf(key);
        return (
          <div key={key}>
            <Checkbox
              checked={at >= 0}
              disabled={at >= 0 && shown.length === 1}
              onChange={(event) =>
                choose(event.target.checked ? [...shown, key] : shown.filter((other) => other !== key))
              }
            >
              {title}
            </Checkbox>
            {at >= 0 && (
              <span>
                <Button
                  type="text"
                  size="small"
                  aria-label={`${title} earlier`}
                  disabled={at === 0}
                  onClick={() => move(at, at - 1)}
                >
                  ↑
                </Button>
                <Button
                  type="text"
                  size="small"
                  aria-label={`${title} later`}
                  disabled={at === shown.length - 1}
                  onClick={() => move(at, at + 1)}
                >
                  ↓
                </Button>
              </span>
            )}
          </div>
        );
      })}
      {list.chosen && (
        <Button type="link" size="small" onClick={() => choose([])}>
          As they were
        </Button>
      )}
    </div>
  );
}
