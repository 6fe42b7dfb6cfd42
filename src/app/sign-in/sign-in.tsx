'use client';
import { useActionState, useEffect, useRef } from 'react';
import { Notice } from '../../ui/page';
import { codeAction, enterAction, setPasswordAction } from './actions';
import css from './sign-in.module.css';

/** What is wrong, beside the form. */
export const Fault = ({ words }: { words: string }) => (
  <p id="fault" role="alert" className={words ? css.fault : undefined}>
    {words}
  </p>
);

/** The sign-in form. `to` is where one goes from it; `notice` says why one is here. */
export function SignIn({ notice, to }: { notice: string; to: string }) {
  const [{ fault, email }, enter, busy] = useActionState(enterAction, { fault: '', email: '' });
  const password = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (fault && email) password.current?.focus();
  }, [fault, email]);
  return (
    <main className={css.signIn}>
      <h1>Wergeld</h1>
      {notice && <Notice>{notice}</Notice>}
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
        <Fault words={fault} />
        <button aria-busy={busy}>Sign in</button>
      </form>
    </main>
  );
}

/** The second step of signing in. */
export function Code({ to }: { to: string }) {
  const [{ fault }, enter, busy] = useActionState(codeAction, { fault: '' });
  return (
    <main className={css.signIn}>
      <h1>Second factor</h1>
      <form action={enter}>
        <input type="hidden" name="to" value={to} />
        <label>
          Code of your authenticator, or a recovery code
          <input name="code" autoComplete="one-time-code" autoFocus required />
        </label>
        <Fault words={fault} />
        <button aria-busy={busy}>Go on</button>
      </form>
      <p className={css.aside}>
        <a href="/sign-in">Begin again</a> · Without your telephone and your recovery codes, a manager takes
        the second factor off.
      </p>
    </main>
  );
}

/** Sets a password with a link. */
export function SetPassword({ token, name, least }: { token: string; name: string; least: number }) {
  const [{ fault }, enter, busy] = useActionState(setPasswordAction, { fault: '' });
  return (
    <main className={css.signIn}>
      <h1>Your password</h1>
      <p>
        {name}, choose a password of {least} characters or more. A few words that do not belong together are
        easy to remember and hard to guess.
      </p>
      <form action={enter}>
        <input type="hidden" name="token" value={token} />
        <label>
          New password
          <input name="password" type="password" autoComplete="new-password" autoFocus required />
        </label>
        <label>
          Once more
          <input name="again" type="password" autoComplete="new-password" required />
        </label>
        <Fault words={fault} />
        <button aria-busy={busy}>Set the password</button>
      </form>
    </main>
  );
}
