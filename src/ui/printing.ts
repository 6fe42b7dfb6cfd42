'use client';
import { useEffect, useState } from 'react';
import { flushSync } from 'react-dom';

/** Whether the page is being printed, so that what is drawn only where it is seen is drawn whole. */
export function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    // The paper is laid out as soon as the event is over.
    const begin = (): void => flushSync(() => setPrinting(true));
    const end = (): void => setPrinting(false);
    window.addEventListener('beforeprint', begin);
    window.addEventListener('afterprint', end);
    return () => {
      window.removeEventListener('beforeprint', begin);
      window.removeEventListener('afterprint', end);
    };
  }, []);
  return printing;
}
