'use client';
import { useActionState, useEffect, useRef } from 'react';
import { Notice } from '../../ui/page';
import { enterAction } from './actions';
import css from './sign-in.module.css';

/** The sign-in form. `to` is where one goes from it; `idle` says why one is here. */
export function SignIn({ idle, to }: { idle: boolean; to: string }) {
  const [{ fault, email }, enter, busy] = useActionState(enterAction, { fault: '', email: '' });
  const password = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (fault && email) password.current?.focus();
  }, [fault, email]);
  return (
    <main className={css.signIn}>
      <h1>Wergeld</h1>
      {idle && <Notice>You were signed out after half an hour without use.</Notice>}
      <form action={enter}>
        <input type="hidden" name="to" value={to} />
        <label>
          E-mail
          <input name="email" autoComplete="username" defaultValue={email} autoFocus required />
        </label>
        <label>
          Password
          <input
            ref={password}
            name="password"
            type="password"
            autoComplete="current-password"
            aria-describedby={fault ? 'fault' : undefined}
            required
          />
        </label>
        <p id="fault" role="alert" className={fault ? css.fault : undefined}>
          {fault}
        </p>
        <button aria-busy={busy}>Sign in</button>
      </form>
    </main>
  );
}
