'use client';
/** Dialogs live in the address: the browser's Back closes what was opened last. */
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useRef } from 'react';
import { FILTERS } from '../core/reports/filters';

/** What of an address stays when a dialog opens or closes: whose account is shown, what of a list, and as of which day. */
const KEPT = ['member', 'case', 'view', 'search', 'page', 'order', 'on', ...Object.keys(FILTERS)];
const kept = (params: URLSearchParams): Record<string, string> =>
  Object.fromEntries(KEPT.flatMap((name) => (params.get(name) ? [[name, params.get(name)!]] : [])));

/** Which dialog the address shows, and how to open and close one. */
export function useDialog(): {
  dialog: string | null;
  params: URLSearchParams;
  open: (name: string, more?: Record<string, string>) => void;
  close: () => void;
} {
  const router = useRouter();
  const path = usePathname();
  const params = useSearchParams();
  // Only what was opened here is closed by going back; an address that came from elsewhere stays where it is.
  const opened = useRef(false);
  return {
    dialog: params.get('show'),
    params,
    open: (name, more = {}) => {
      opened.current = true;
      router.push(`${path}?${new URLSearchParams({ ...kept(params), show: name, ...more })}`, {
        scroll: false,
      });
    },
    close: () => {
      if (opened.current) router.back();
      else router.replace(`${path}?${new URLSearchParams(kept(params))}`, { scroll: false });
      opened.current = false;
    },
  };
}
