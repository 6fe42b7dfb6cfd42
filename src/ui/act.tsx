'use client';
/** Calling actions: busy while it runs, words when it is refused. */
import { App, Button, type ButtonProps, Input } from 'antd';
import { useCallback, useState } from 'react';
import type { Answer } from '../app/session';

/** Runs actions one at a time; `run` returns the value, or undefined when it was refused and said so. */
export function useAct(): {
  busy: boolean;
  run: <T>(
    action: () => Promise<Answer<T>>,
    done?: string | ((value: T) => string),
  ) => Promise<{ value: T } | undefined>;
} {
  const { message } = App.useApp();
  const [busy, setBusy] = useState(false);
  const run = useCallback(
    async <T,>(
      action: () => Promise<Answer<T>>,
      done?: string | ((value: T) => string),
    ): Promise<{ value: T } | undefined> => {
      setBusy(true);
      try {
        const result = await action();
        if (!result.ok) {
          void message.error({ content: result.message, duration: 6 });
          return undefined;
        }
        const words = typeof done === 'function' ? done(result.value) : done;
        if (words) void message.success(words);
        return { value: result.value };
      } catch {
        void message.error({
          content: 'The server could not be reached. What you entered is kept here: try again.',
          duration: 8,
        });
        return undefined;
      } finally {
        setBusy(false);
      }
    },
    [message],
  );
  return { busy, run };
}

/** A button for what needs a stated reason: the reason is asked for in place, so nothing happens by a slip. */
export function WithReason({
  words,
  ask,
  act,
  ...button
}: { words: string; ask: string; act: (reason: string) => Promise<unknown> } & Omit<ButtonProps, 'onClick'>) {
  const [asking, setAsking] = useState(false);
  const [reason, setReason] = useState('');
  if (!asking) {
    return (
      <Button size="small" {...button} onClick={() => setAsking(true)}>
        {words}
      </Button>
    );
  }
  const go = async (): Promise<void> => {
    await act(reason);
    setAsking(false);
    setReason('');
  };
  return (
    <span style={{ display: 'inline-flex', gap: 6 }}>
      <Input
        size="small"
        autoFocus
        style={{ width: 200 }}
        placeholder={ask}
        aria-label={ask}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        onKeyDown={(event) =>
          event.key === 'Escape' ? setAsking(false) : event.key === 'Enter' && reason.trim() && void go()
        }
      />
      <Button size="small" type="primary" disabled={!reason.trim()} onClick={() => void go()}>
        {words}
      </Button>
    </span>
  );
}
