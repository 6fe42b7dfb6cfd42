'use client';
import { useSyncExternalStore } from 'react';

/** Screens up to this width, in pixels, as the style sheets know it too; paper has room. */
const QUERY = 'screen and (max-width: 1160px)';

const watch = (changed: () => void): (() => void) => {
  const media = window.matchMedia(QUERY);
  media.addEventListener('change', changed);
  return () => media.removeEventListener('change', changed);
};

/** Whether the screen is narrow: 1024 pixels, or wider ones that are zoomed. */
export const useNarrow = (): boolean =>
  useSyncExternalStore(
    watch,
    () => window.matchMedia(QUERY).matches,
    () => false,
  );
