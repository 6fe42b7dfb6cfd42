'use client';
import { Button, Dropdown } from 'antd';
import type { Act } from './acts';
import css from './acts.module.css';

/** The acts of one kind behind one button, each with its key. */
export const ActMenu = ({
  words,
  acts,
  doIt,
}: {
  words: string;
  acts: readonly Act[];
  doIt: (act: Act) => void;
}) => (
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
      onClick: ({ key }) => {
        const act = acts.find((one) => one.key === key);
        if (act) doIt(act);
      },
    }}
  >
    <Button aria-haspopup="menu">{words} ▾</Button>
  </Dropdown>
);
