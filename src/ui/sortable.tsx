'use client';
/** A few things in an order that a person makes: with the arrow keys, with buttons, or by dragging. */
import { Button } from 'antd';
import { type KeyboardEvent, useRef, useState } from 'react';
import css from './sortable.module.css';

/** The list. Alt and an arrow key move what has the cursor. */
export function Sortable({
  label,
  items,
  onOrder,
}: {
  label: string;
  items: readonly { id: number; words: string }[];
  onOrder: (ids: number[]) => void;
}) {
  const [dragged, setDragged] = useState<number | null>(null);
  const list = useRef<HTMLOListElement>(null);
  const move = (from: number, to: number): void => {
    if (to < 0 || to >= items.length || from === to) return;
    const ids = items.map(({ id }) => id);
    const [one] = ids.splice(from, 1);
    ids.splice(to, 0, one!);
    onOrder(ids);
    // The cursor goes with what is moved.
    requestAnimationFrame(() => list.current?.querySelectorAll('li')[to]?.focus());
  };
  const onKeyDown = (at: number) => (event: KeyboardEvent<HTMLLIElement>) => {
    const by = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
    if (by === 0 || event.target !== event.currentTarget) return;
    event.preventDefault();
    if (event.altKey) move(at, at + by);
    else list.current?.querySelectorAll('li')[at + by]?.focus();
  };
  return (
    <ol ref={list} className={css.list} aria-label={label}>
      {items.map(({ id, words }, at) => (
        <li
          key={id}
          tabIndex={0}
          draggable
          aria-label={`${at + 1}: ${words}. Alt and an arrow key move it`}
          className={dragged === at ? css.dragged : undefined}
          onKeyDown={onKeyDown(at)}
          onDragStart={() => setDragged(at)}
          onDragEnd={() => setDragged(null)}
          onDragOver={(event) => event.preventDefault()}
          onDrop={() => {
            if (dragged !== null) move(dragged, at);
            setDragged(null);
          }}
        >
          <span>{words}</span>
          <Button size="small" disabled={at === 0} onClick={() => move(at, at - 1)}>
            Sooner
          </Button>
          <Button size="small" disabled={at === items.length - 1} onClick={() => move(at, at + 1)}>
            Later
          </Button>
        </li>
      ))}
    </ol>
  );
}
