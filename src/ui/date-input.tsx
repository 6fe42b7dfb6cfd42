'use client';
/** A date that is typed as people type it, or picked from a calendar. */
import { Button, Input } from 'antd';
import { Suspense, lazy, useState } from 'react';
import { parseDate } from '../core/calendar';
import { typedDate } from '../core/typed-date';
import { useDesk } from './desk';
import css from './date-input.module.css';

const Calendar = lazy(() => import('./calendar'));

/** The field. Its value is `YYYY-MM-DD`, or what was typed while that is no date. */
export function DateInput({
  value = '',
  onChange,
  label,
  onEnter,
  focus,
  id,
}: {
  value?: string | null;
  onChange?: (text: string) => void;
  label: string;
  onEnter?: () => void;
  focus?: boolean;
  id?: string;
}) {
  const { today } = useDesk();
  const [open, setOpen] = useState(false);
  const text = value ?? '';
  const settle = (): void => {
    const found = typedDate(text, today);
    if (found && found !== text) onChange?.(found);
  };
  const known = parseDate(text);
  return (
    <span className={css.date}>
      <Input
        id={id}
        autoFocus={focus}
        data-focus={focus ? '' : undefined}
        aria-label={label}
        placeholder="11/24, t, +7"
        value={text}
        onChange={(event) => onChange?.(event.target.value)}
        onBlur={settle}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown' && event.altKey) setOpen(true);
          if (event.key !== 'Enter') return;
          settle();
          onEnter?.();
        }}
        suffix={
          <Button
            type="text"
            size="small"
            tabIndex={-1}
            className={css.open}
            // For the pointer; Alt and ↓ open the calendar from the field.
            aria-hidden
            onClick={() => setOpen(!open)}
          >
            ▾
          </Button>
        }
      />
      {open && (
        <Suspense>
          <Calendar
            known={known}
            today={today}
            pick={(date) => onChange?.(date)}
            close={() => setOpen(false)}
          />
        </Suspense>
      )}
    </span>
  );
}
