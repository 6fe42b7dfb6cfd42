'use client';
import { Link } from '../../ui/link';
import { useActionState } from 'react';
import { Notice } from '../../ui/page';
import { Fault } from '../sign-in/sign-in';
import css from '../sign-in/sign-in.module.css';
import { beginFactorAction, dropFactorAction, proveFactorAction, recoveryAction } from './actions';

const Password = () => (
  <label>
    Your password
    <input name="password" type="password" autoComplete="current-password" autoFocus required />
  </label>
);

const Codes = ({ codes }: { codes: readonly string[] }) => (
  <>
    <p>
      Recovery codes for a day without the telephone. Each is good once. They are shown only now: print them,
      or keep them where you keep passwords.
    </p>
    <ul className={css.codes} aria-label="Recovery codes">
      {codes.map((code) => (
        <li key={code}>{code}</li>
      ))}
    </ul>
  </>
);

/** Sets the second factor up: password, scan, code. */
export function SetUpFactor({ asked }: { asked: boolean }) {
  const [begun, begin, busy] = useActionState(beginFactorAction, { fault: '' });
  const [{ fault }, prove, proving] = useActionState(proveFactorAction, { fault: '' });
  return (
    <main className={css.signIn}>
      <h1>Second factor</h1>
      {!begun.scan ? (
        <form action={begin}>
          {asked && <Notice>This practice asks a second factor of you before anything else.</Notice>}
          <p>
            With it, a password that somebody has seen is not enough: a code of your telephone comes after it.
          </p>
          <Password />
          <Fault words={begun.fault} />
          <button aria-busy={busy}>Begin</button>
        </form>
      ) : (
        <form action={prove}>
          <p>Scan this with an authenticator on your telephone, or type the secret there.</p>
          <svg
            className={css.square}
            viewBox={`0 0 ${begun.scan.size} ${begun.scan.size}`}
            role="img"
            aria-label="Square to scan"
            shapeRendering="crispEdges"
          >
            <path d={begun.scan.path} fill="#000" />
          </svg>
          <p className={css.secret}>{begun.scan.secret}</p>
          <Codes codes={begun.codes ?? []} />
          <label>
            The code that it shows now
            <input name="code" inputMode="numeric" autoComplete="one-time-code" autoFocus required />
          </label>
          <Fault words={fault} />
          <button aria-busy={proving}>Use it from now on</button>
        </form>
      )}
      {!asked && (
        <p className={css.aside}>
          <Link href="/you">Back to the desk</Link>
        </p>
      )}
    </main>
  );
}

/** What can be done with a second factor that is there. */
export function Factor({ asked }: { asked: boolean }) {
  const [made, make, making] = useActionState(recoveryAction, { fault: '' });
  const [{ fault }, drop, dropping] = useActionState(dropFactorAction, { fault: '' });
  return (
    <main className={css.signIn}>
      <h1>Second factor</h1>
      <p>It is set up: a code is asked for when you sign in.</p>
      {made.codes ? (
        <Codes codes={made.codes} />
      ) : (
        <form action={make}>
          <Password />
          <Fault words={made.fault || fault} />
          <button aria-busy={making}>Make other recovery codes</button>
          {!asked && (
            <button className={css.second} formAction={drop} aria-busy={dropping}>
              Take the second factor off
            </button>
          )}
        </form>
      )}
      <p className={css.aside}>
        <Link href="/you">Back to the desk</Link>
      </p>
    </main>
  );
}
