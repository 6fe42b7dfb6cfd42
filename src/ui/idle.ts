import { useEffect } from 'react';

const KEY = 'last-use';

/**
 * Calls `away` after so many seconds without a key or a pointer in any tab. The server ends a session by itself; this
 * takes what it showed off the screen.
 */
export function useIdle(seconds: number, away: () => void): void {
  useEffect(() => {
    let noted = 0;
    const use = (): void => {
      // Once in some seconds is enough, and storage is shared by the tabs.
      if (Date.now() - noted < 5000) return;
      noted = Date.now();
      localStorage.setItem(KEY, String(noted));
    };
    const look = (): void => {
      if (Date.now() - Math.max(noted, Number(localStorage.getItem(KEY))) > seconds * 1000) away();
    };
    use();
    const timer = setInterval(look, 10_000);
    const events = ['keydown', 'pointerdown', 'pointermove', 'wheel'] as const;
    for (const event of events) window.addEventListener(event, use, { passive: true });
    return () => {
      clearInterval(timer);
      for (const event of events) window.removeEventListener(event, use);
    };
  }, [seconds, away]);
}
