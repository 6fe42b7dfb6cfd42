'use client';
/** The calendar that opens below a date field; loaded when one is opened for the first time. */
import { DatePicker } from 'antd';
import dayjs from 'dayjs';
import type { CalendarDate } from '../core/calendar';
import css from './date-input.module.css';

/** Shows the month of a date, and tells which day was picked. */
export default function Calendar({
  known,
  today,
  pick,
  close,
}: {
  known: CalendarDate | null;
  today: CalendarDate;
  pick: (date: string) => void;
  close: () => void;
}) {
  return (
    <DatePicker
      open
      className={css.picker}
      value={known ? dayjs(known) : null}
      defaultPickerValue={dayjs(known ?? today)}
      onOpenChange={(open) => !open && close()}
      onChange={(_, picked) => {
        if (typeof picked === 'string') pick(picked);
        close();
      }}
    />
  );
}
