'use client';
/** A drawer that puts the cursor where the work begins: the field that says so, else the first one. */
import { Drawer, type DrawerProps } from 'antd';
import { useEffect, useRef, useState } from 'react';

const FIELDS = 'input:not([disabled]):not([type="hidden"]), textarea:not([disabled])';

/** The field that a drawer begins with. */
function first(body: HTMLElement): HTMLElement | null {
  const marked = body.querySelector<HTMLElement>('[data-focus]');
  if (marked?.matches(FIELDS)) return marked;
  return marked?.querySelector<HTMLElement>(FIELDS) ?? body.querySelector<HTMLElement>(FIELDS);
}

/** The drawer, open as long as it is drawn; it gives the focus back when it goes. */
export function DeskDrawer({
  children,
  beside = false,
  ...props
}: Omit<DrawerProps, 'open' | 'autoFocus'> & {
  /** It stands beside what it speaks about, which makes room and stays usable. */
  beside?: boolean;
}) {
  const body = useRef<HTMLDivElement>(null);
  const [opener] = useState(() => (typeof document === 'undefined' ? null : document.activeElement));
  useEffect(
    () => () => {
      // After the drawer is gone.
      setTimeout(() => opener instanceof HTMLElement && opener.isConnected && opener.focus());
    },
    [opener],
  );
  useEffect(() => {
    if (!beside) return;
    document.documentElement.setAttribute('data-peek', '');
    return () => document.documentElement.removeAttribute('data-peek');
  }, [beside]);
  useEffect(() => {
    // After the drawer itself has taken the focus.
    const timer = setTimeout(() => body.current && first(body.current)?.focus());
    return () => clearTimeout(timer);
  }, []);
  return (
    <Drawer open autoFocus={false} mask={!beside} {...props}>
      <div ref={body}>{children}</div>
    </Drawer>
  );
}
