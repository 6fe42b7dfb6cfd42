'use client';
/** Two days from and to which something is looked at; Enter looks. */
import { useState } from 'react';
import { parseDate } from '../core/calendar';
import { typedDate } from '../core/typed-date';
import { DateInput } from './date-input';
import { useDesk } from './desk';

/** The days, as they are typed; what is no day, or ends before it begins, is said and not looked at. @param look takes both as `YYYY-MM-DD` */
export function Period({
  from,
  to,
  look,
}: {
  from: string;
  to: string;
  look: (days: { from: string; to: string }) => void;
}) {
  const { today } = useDesk();
  const [days, setDays] = useState({ from, to });
  const [wrong, setWrong] = useState('');
  // Enter may come before what was typed has become a day.
  const dayOf = (text: string): string => parseDate(text) ?? typedDate(text, today) ?? '';
  const enter = (): void => {
    const asked = { from: dayOf(days.from), to: dayOf(days.to) };
    if (!asked.from || !asked.to) return setWrong(`${asked.from ? days.to : days.from} is no date`);
    if (asked.from > asked.to) return setWrong('It begins after it ends');
    setWrong('');
    look(asked);
  };
  return (
    <>
      <DateInput
        label="From"
        value={days.from}
        onChange={(next) => setDays((before) => ({ ...before, from: next }))}
        onEnter={enter}
      />
      <DateInput
        label="To"
        value={days.to}
        onChange={(next) => setDays((before) => ({ ...before, to: next }))}
        onEnter={enter}
      />
      {wrong && (
        <span role="alert" className="stop small">
          {wrong}
        </span>
      )}
    </>
  );
}
