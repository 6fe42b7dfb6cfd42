'use client';
/** A drawer that puts the cursor where the work begins: the field that says so, else the first one. */
import { Drawer, type DrawerProps } from 'antd';
import { useEffect, useRef } from 'react';

const FIELDS = 'input:not([disabled]):not([type="hidden"]), textarea:not([disabled])';

/** The field that a drawer begins with. */
function first(body: HTMLElement): HTMLElement | null {
  const marked = body.querySelector<HTMLElement>('[data-focus]');
  if (marked?.matches(FIELDS)) return marked;
  return marked?.querySelector<HTMLElement>(FIELDS) ?? body.querySelector<HTMLElement>(FIELDS);
}

/** The drawer, open as long as it is drawn; it gives the focus back when it goes. */
export function DeskDrawer({ children, ...props }: Omit<DrawerProps, 'open' | 'autoFocus'>) {
  const body = useRef<HTMLDivElement>(null);
  useEffect(() => {
    // After the drawer itself has taken the focus.
    const timer = setTimeout(() => body.current && first(body.current)?.focus());
    return () => clearTimeout(timer);
  }, []);
  return (
    <Drawer open autoFocus={false} {...props}>
      <div ref={body}>{children}</div>
    </Drawer>
  );
}
