'use client';
/** What is read when it is looked at, such as what stands in a peek. */
import { type ReactNode, useEffect, useState } from 'react';
import type { Answer } from '../core/answer';
import { UNREACHED } from './act';

/**
 * Reads by an action and shows what came.
 * @param of what is asked for; asked again when it is another
 */
export function Loaded<T>({
  of,
  read,
  children,
}: {
  of: number | string;
  read: () => Promise<Answer<T>>;
  children: (value: T) => ReactNode;
}) {
  const [answer, setAnswer] = useState<{ of: number | string; result: Answer<T> } | null>(null);
  useEffect(() => {
    let here = true;
    // Somebody who runs down a list asks for the row where they stop.
    const timer = setTimeout(
      () =>
        void read()
          .catch(() => UNREACHED)
          .then((result) => here && setAnswer({ of, result })),
      80,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [of]);
  if (answer?.of !== of) return <p className="quiet">Reading …</p>;
  return answer.result.ok ? children(answer.result.value) : <p>{answer.result.message}</p>;
}
