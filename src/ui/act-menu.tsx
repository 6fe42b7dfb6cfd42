'use client';
import { Button, Dropdown } from 'antd';
import type { Act } from './acts';
import css from './acts.module.css';

/** The acts of one kind behind one button, each with its key. */
export const ActMenu = ({ words, acts }: { words: string; acts: readonly Act[] }) => (
  <Dropdown
    trigger={['click']}
    autoFocus
    menu={{
      items: acts.map(({ key, words: item }) => ({
        key,
        label: (
          <span className={css.item}>
            {item} <kbd aria-hidden>{key.toUpperCase()}</kbd>
          </span>
        ),
      })),
      onClick: ({ key }) => acts.find((act) => act.key === key)?.run(),
    }}
  >
    <Button aria-haspopup="menu">{words} ▾</Button>
  </Dropdown>
);
