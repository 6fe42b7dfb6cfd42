'use client';
/** Filters of a list live in its address. */
import { Input, Pagination, Segmented } from 'antd';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { FILTERS, type ShownFilter } from '../core/reports/filters';
import { Choose } from './choose';
import { searchInAddress } from './searching';
import css from './list.module.css';

/** Sets one part of the address and goes back to the first page. */
export function useFilter(): (name: string, value: string) => void {
  const router = useRouter();
  const path = usePathname();
  const params = useSearchParams();
  return (name, value) => {
    const next = new URLSearchParams(params);
    next.delete('page');
    next.delete('peek');
    if (value) next.set(name, value);
    else next.delete(name);
    router.replace(`${path}?${next}`);
  };
}

/** Sets one part of the address without asking the server: what is shown of a page that is there. */
export function useAddress(): (name: string, value: string, without?: string) => void {
  const path = usePathname();
  const params = useSearchParams();
  return (name, value, without) => {
    const next = new URLSearchParams(params);
    if (without) next.delete(without);
    if (value) next.set(name, value);
    else next.delete(name);
    window.history.replaceState(null, '', next.size > 0 ? `${path}?${next}` : path);
  };
}

/** The search field of a list. */
export function SearchField({ value, hint }: { value: string; hint: string }) {
  const set = useFilter();
  const path = usePathname();
  const [text, setText] = useState(value);
  const asked = useRef(0);
  const waiting = useRef<{ timer: ReturnType<typeof setTimeout>; text: string } | null>(null);
  useEffect(() => setText(value), [value]);
  useEffect(() => () => clearTimeout(waiting.current?.timer), []);
  const search = (): void => {
    if (!waiting.current) return;
    clearTimeout(waiting.current.timer);
    const wanted = waiting.current.text;
    waiting.current = null;
    const turn = (asked.current += 1);
    // Whoever opens something meanwhile is not brought back by a search that comes later.
    const open = new AbortController();
    document.addEventListener(
      'click',
      ({ target }) => {
        if (target instanceof Element && target.closest('a[href], tr')) asked.current += 1;
      },
      { capture: true, signal: open.signal },
    );
    void searchInAddress(wanted).then((search) => {
      open.abort();
      if (search !== null && turn === asked.current && window.location.pathname === path)
        set('search', search);
    });
  };
  return (
    <Input
      className={css.search}
      placeholder={hint}
      aria-label={hint}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        clearTimeout(waiting.current?.timer);
        waiting.current = { timer: setTimeout(search, 250), text: event.target.value };
      }}
      // Leaving the field searches at once: a search that came later would undo what is opened next.
      onBlur={search}
      onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
    />
  );
}

/** The views of a list. */
export function Views({ value, options }: { value: string; options: { value: string; label: string }[] }) {
  const set = useFilter();
  return (
    <Segmented
      aria-label="View"
      value={value}
      options={options}
      onChange={(next) => set('view', String(next))}
    />
  );
}

/** What a list or a report can be narrowed by: a payer, a provider, a site; all of it where nothing is chosen. */
export function Narrowing({ filters }: { filters: readonly ShownFilter[] }) {
  const set = useFilter();
  return filters.map(({ name, value, choices }) => (
    <Choose<number>
      key={name}
      className={css.narrowing}
      aria-label={FILTERS[name].label}
      value={value ?? 0}
      popupMatchSelectWidth={240}
      showSearch={{ optionFilterProp: 'label' }}
      options={[
        { value: 0, label: FILTERS[name].all },
        ...choices,
        // An address may name what is gone since: that narrows to nothing, and says so.
        ...(value !== null && !choices.some((one) => one.value === value)
          ? [{ value, label: 'is not there any more' }]
          : []),
      ]}
      onChange={(next) => set(name, next ? String(next) : '')}
    />
  ));
}

/** The pages of what is too long for one; nothing where it is not. */
export function Pages({ count, size, page }: { count: number; size: number; page: number }) {
  const router = useRouter();
  const path = usePathname();
  const params = useSearchParams();
  if (count <= size) return null;
  return (
    <nav aria-label="Pages" className={css.pages}>
      <Pagination
        total={count}
        pageSize={size}
        current={page}
        showSizeChanger={false}
        size="small"
        onChange={(next) => {
          const address = new URLSearchParams(params);
          address.delete('peek');
          address.set('page', String(next));
          router.push(`${path}?${address}`);
        }}
      />
    </nav>
  );
}
