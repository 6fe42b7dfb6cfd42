'use client';
/** What every part of the desk may ask: the business date, and the actions that belong to no station. */
import { Link } from './link';
import { createContext, useContext } from 'react';
import type { Answer } from '../core/answer';
import type { CalendarDate } from '../core/calendar';
import type { Filtered } from '../core/reports/filters';
import type { Permission } from '../server/access';

/** Handed down by the layout, so that components know nothing of the application around them. */
export interface DeskTools {
  /** What waits in the views that the rail counts, by list and view. */
  waiting: Readonly<Record<string, number>>;
  /** What the person's role may do; the server asks again. */
  permissions: readonly Permission[];
  today: CalendarDate;
  chooseColumns: (input: { list: string; columns: string[] }) => Promise<Answer<unknown>>;
  keepView: (input: {
    list: string;
    name: string;
    view: string;
    order: string;
    filters: Filtered;
  }) => Promise<Answer<unknown>>;
  forgetView: (input: { list: string; name: string }) => Promise<Answer<unknown>>;
  stopWork: (input: { workId: number }) => Promise<Answer<unknown>>;
  resumeWork: (input: { workId: number }) => Promise<Answer<unknown>>;
}

const Tools = createContext<DeskTools | null>(null);
/** Hands the tools down. */
export const DeskProvider = Tools.Provider;

/** What a role needs to look at a page that others lead to. */
const LOOKS_AT = { claims: 'read claims', remittances: 'read remittances' } as const;

/** A link to a page that not every role looks at; for the others its words alone, or nothing when it is only a way. */
export function LinkIfSeen({
  to,
  id,
  way,
  ask,
  children,
  ...link
}: {
  to: 'claims' | 'remittances';
  id: number;
  way?: true;
  /** What the page is asked, so that it begins where one comes from and leads back there. */
  ask?: Readonly<Record<string, number>>;
  className?: string;
  title?: string;
  children: React.ReactNode;
}) {
  const seen = useMay()(LOOKS_AT[to]);
  return seen ? (
    <Link
      href={`/${to}/${id}${ask ? `?${new URLSearchParams(Object.entries(ask).map(([key, value]) => [key, String(value)]))}` : ''}`}
      {...link}
    >
      {children}
    </Link>
  ) : way ? null : (
    <span {...link}>{children}</span>
  );
}

/** The tools. @throws Error outside the desk */
export function useDesk(): DeskTools {
  const tools = useContext(Tools);
  if (!tools) throw new Error('This stands outside the desk');
  return tools;
}

/** Whether the person's role may do something, so that nothing is offered which the server refuses. */
export function useMay(): (permission: Permission) => boolean {
  const { permissions } = useDesk();
  return (permission) => permissions.includes(permission);
}
