'use client';
/** Calling actions: busy while it runs, words when it is refused; and the key that makes a press count once. */
import { App, Button, type ButtonProps, Input } from 'antd';
import { useCallback, useRef, useState } from 'react';
import type { Answer, Refusal } from '../core/answer';
import css from './act.module.css';

/** What is said when no answer came. */
export const UNREACHED: Refusal = {
  ok: false,
  code: 'unreached',
  message: 'The server could not be reached. What you entered is kept here: try again.',
  fields: {},
};

/** What an action takes. */
export type Takes<Action extends (input: never) => unknown> = Parameters<Action>[0];

/** What is sent along when a person has looked again and means it. */
export type Sure = { sure?: true };

/**
 * Asks an action; when the server finds something doubtful, the person is shown it and may say that it is meant. A refusal
 * without words is one that the person has seen.
 */
export function useSure(): <T>(action: (sure: Sure) => Promise<Answer<T>>) => Promise<Answer<T>> {
  const { modal } = App.useApp();
  return useCallback(
    async <T,>(action: (sure: Sure) => Promise<Answer<T>>): Promise<Answer<T>> => {
      const answer = await action({}).catch(() => UNREACHED);
      if (answer.ok || !answer.doubts) return answer;
      const { doubts } = answer;
      const meant = await new Promise<boolean>((resolve) => {
        modal.confirm({
          title: 'Look again',
          content: doubts.map((doubt) => <p key={doubt}>{doubt}.</p>),
          okText: 'It is meant so',
          cancelText: 'Go back',
          autoFocusButton: 'cancel',
          onOk: () => resolve(true),
          onCancel: () => resolve(false),
        });
      });
      return meant
        ? action({ sure: true }).catch(() => UNREACHED)
        : { ok: false, code: answer.code, message: '', fields: {} };
    },
    [modal],
  );
}

/** Runs actions one at a time; `run` returns the value, or undefined when it was refused and said so. */
export function useAct(): {
  busy: boolean;
  run: <T>(
    action: (sure: Sure) => Promise<Answer<T>>,
    done?: string | ((value: T) => string),
  ) => Promise<{ value: T } | undefined>;
} {
  const { message } = App.useApp();
  const ask = useSure();
  const [busy, setBusy] = useState(false);
  const run = useCallback(
    async <T,>(
      action: (sure: Sure) => Promise<Answer<T>>,
      done?: string | ((value: T) => string),
    ): Promise<{ value: T } | undefined> => {
      setBusy(true);
      try {
        const result = await ask(action);
        if (!result.ok) {
          if (result.message) void message.error({ content: result.message, duration: 6 });
          return undefined;
        }
        const words = typeof done === 'function' ? done(result.value) : done;
        if (words) void message.success(words);
        return { value: result.value };
      } finally {
        setBusy(false);
      }
    },
    [message, ask],
  );
  return { busy, run };
}

/** A key that stays the same until what it stands for is done: however often it is sent, it counts once. */
export function useOnce(): { key: () => string; next: () => void } {
  const key = useRef('');
  return {
    key: () => (key.current ||= crypto.randomUUID()),
    next: () => (key.current = ''),
  };
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
  const [busy, setBusy] = useState(false);
  const [left, setLeft] = useState(false);
  if (!asking) {
    return (
      <Button size="small" {...button} autoFocus={left} onClick={() => setAsking(true)}>
        {words}
      </Button>
    );
  }
  const go = async (): Promise<void> => {
    if (busy || !reason.trim()) return;
    setBusy(true);
    // What was typed stays when it is refused.
    const done = await act(reason).finally(() => setBusy(false));
    if (done === undefined) return;
    setAsking(false);
    setReason('');
  };
  return (
    <span className={css.reason}>
      <Input
        size="small"
        autoFocus
        placeholder={ask}
        aria-label={ask}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Escape') {
            // Who leaves it is where they came from.
            setLeft(true);
            setAsking(false);
          } else if (event.key === 'Enter') void go();
          else return;
          event.stopPropagation();
        }}
      />
      <Button size="small" type="primary" loading={busy} disabled={!reason.trim()} onClick={() => void go()}>
        {words}
      </Button>
    </span>
  );
}
