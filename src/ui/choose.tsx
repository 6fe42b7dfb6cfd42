'use client';
/**
 * One or several of a list. The Tab key takes what the list points at and leads on to the next field, as it does
 * everywhere else; by itself the component would keep it.
 */
import { type RefSelectProps, Select, type SelectProps } from 'antd';
import { type KeyboardEvent, type ReactNode, type Ref, useState } from 'react';
import css from './form.module.css';

/** Takes what the open list points at, and lets the key go on to the browser. */
function leave(event: KeyboardEvent<HTMLElement>, takes: (typed: string) => boolean): void {
  const { target } = event;
  if (event.key !== 'Tab' || !(target instanceof HTMLInputElement)) return;
  if (target.getAttribute('aria-expanded') !== 'true') return;
  const list = document.querySelector('.ant-select-dropdown:not(.ant-select-dropdown-hidden)');
  const at = list?.querySelector<HTMLElement>('.ant-select-item-option-active');
  if (takes(target.value)) at?.click();
  event.stopPropagation();
}

const Leaving = ({ takes, children }: { takes: (typed: string) => boolean; children: ReactNode }) => (
  <div className={css.choose} onKeyDownCapture={(event) => leave(event, takes)}>
    {children}
  </div>
);

/** One of a list. */
export const Choose = <Value,>(props: SelectProps<Value> & { ref?: Ref<RefSelectProps> }) => (
  <Leaving takes={() => true}>
    <Select<Value> {...props} />
  </Leaving>
);

/** Several of a list: it closes with each choice, and the Tab key takes only what was typed for. */
export function Several<Value>(
  props: Omit<SelectProps<Value>, 'mode' | 'open' | 'onOpenChange' | 'onSelect'>,
) {
  const [open, setOpen] = useState(false);
  return (
    <Leaving takes={(typed) => typed !== ''}>
      <Select<Value>
        {...props}
        mode="multiple"
        open={open}
        onOpenChange={setOpen}
        onSelect={() => setOpen(false)}
      />
    </Leaving>
  );
}
