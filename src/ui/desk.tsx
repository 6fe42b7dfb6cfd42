'use client';
/** What every part of the desk may ask: the business date, and the actions that belong to no station. */
import { createContext, useContext } from 'react';
import type { Answer } from '../core/answer';
import type { CalendarDate } from '../core/calendar';

/** Handed down by the layout, so that components know nothing of the application around them. */
export interface DeskTools {
  /** What waits in the views that the rail counts, by list and view. */
  waiting: Readonly<Record<string, number>>;
  today: CalendarDate;
  chooseColumns: (input: { list: string; columns: string[] }) => Promise<Answer<unknown>>;
  stopWork: (input: { workId: number }) => Promise<Answer<unknown>>;
  resumeWork: (input: { workId: number }) => Promise<Answer<unknown>>;
}

const Tools = createContext<DeskTools | null>(null);
/** Hands the tools down. */
export const DeskProvider = Tools.Provider;

/** The tools. @throws Error outside the desk */
export function useDesk(): DeskTools {
  const tools = useContext(Tools);
  if (!tools) throw new Error('This stands outside the desk');
  return tools;
}
