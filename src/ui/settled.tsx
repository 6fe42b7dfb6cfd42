'use client';
/** What is not looked at first is drawn after the rest of the page is on the screen. */
import { startTransition, useEffect, useState } from 'react';

/** Draws its children once the page around them is painted; until then `room` keeps their place. */
export function Settled({ room, children }: { room: React.ReactNode; children: React.ReactNode }) {
  const [settled, setSettled] = useState(false);
  useEffect(() => startTransition(() => setSettled(true)), []);
  return settled ? children : room;
}
