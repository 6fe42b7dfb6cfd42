'use client';
/** The keys of the desk: one way to listen to them, the same guards everywhere, and a list of them under “?”. */
import { Modal } from 'antd';
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { tinykeys } from 'tinykeys';
import css from './keys.module.css';

/** A key, what it does in words, and what it does. */
export interface Shortcut {
  /** As tinykeys writes it, such as `n`, `ArrowDown`, `$mod+k`, `Shift+?`. */
  key: string;
  /** Shown in the list of keys; a key without words is another way to do the same. */
  words?: string;
  /** Heard also while somebody types or a dialog is open. */
  always?: true;
  run: (event: KeyboardEvent) => void;
}

const heard = new Map<object, { key: string; words: string }[]>();
let shown: { key: string; words: string }[] = [];
const watchers = new Set<() => void>();
function changed(): void {
  shown = [...heard.values()].flat();
  // Said on the page, so that whoever types by program knows to what it listens.
  document.documentElement.dataset.keys = shown.map(({ key }) => key).join(' ');
  for (const watcher of watchers) watcher();
}
const watch = (watcher: () => void): (() => void) => {
  watchers.add(watcher);
  return () => watchers.delete(watcher);
};

/** Whether a key belongs to what has the focus: a field, a button, a link, an open list of choices. */
const busyWith = (event: KeyboardEvent): boolean => {
  const { target } = event;
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || /^(TEXTAREA|SELECT)$/.test(target.tagName)) return true;
  if (target instanceof HTMLInputElement) return target.type !== 'checkbox' && target.type !== 'radio';
  return /^(BUTTON|A)$/.test(target.tagName) && (event.key === 'Enter' || event.key === ' ');
};
/** A dialog that covers the page takes the keys; a peek beside the list does not. */
const covered = (): boolean =>
  document.querySelector(
    '.ant-modal-wrap:not([style*="display: none"]), .ant-drawer-open .ant-drawer-mask, .ant-popover:not(.ant-popover-hidden) input',
  ) !== null;

/** Listens to keys as long as the component is there. */
export function useKeys(shortcuts: readonly Shortcut[]): void {
  const latest = useRef(shortcuts);
  useEffect(() => {
    latest.current = shortcuts;
  });
  const names = shortcuts.map((one) => `${one.key}|${one.words ?? ''}|${one.always ?? ''}`).join('\n');
  useEffect(() => {
    const own = {};
    heard.set(
      own,
      latest.current.flatMap(({ key, words }) => (words ? [{ key, words }] : [])),
    );
    changed();
    const stop = tinykeys(
      window,
      Object.fromEntries(
        latest.current.map(({ key, always }, index) => [
          key,
          (event: KeyboardEvent) => {
            if (event.defaultPrevented || event.isComposing) return;
            if (!always && (busyWith(event) || covered())) return;
            latest.current[index]?.run(event);
          },
        ]),
      ),
    );
    return () => {
      stop();
      heard.delete(own);
      changed();
    };
  }, [names]);
}

const NAMES: Record<string, string> = {
  ArrowUp: '↑',
  ArrowDown: '↓',
  Escape: 'Esc',
  ' ': 'Space',
  Space: 'Space',
  '$mod+k': 'Ctrl K',
  'Shift+?': '?',
};

/** A key as a person reads it. */
const keyName = (key: string): string => NAMES[key] ?? (key.length === 1 ? key.toUpperCase() : key);

const nothing: { key: string; words: string }[] = [];

/** The list of keys that are heard now, under “?”. */
export function KeyHelp() {
  const [open, setOpen] = useState(false);
  const keys = useSyncExternalStore(
    watch,
    () => shown,
    () => nothing,
  );
  useKeys([{ key: 'Shift+?', words: 'show these keys', run: () => setOpen(true) }]);
  return (
    <Modal open={open} title="Keys" footer={null} width={420} onCancel={() => setOpen(false)}>
      <dl className={css.keys}>
        {keys.map(({ key, words }) => (
          <div key={key + words}>
            <dt>
              <kbd>{keyName(key)}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
