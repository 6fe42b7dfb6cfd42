'use client';
/** Rail and top bar around every page. */
import { useLinkStatus } from 'next/link';
import { Link } from './link';
import { usePathname, useRouter } from 'next/navigation';
import { useCallback } from 'react';
import { formatDate } from '../core/calendar';
import type { Mode } from '../core/tokens';
import { useIdle } from './idle';
import { KeyHelp } from './keys';
import { Search, type Verb } from './search';
import css from './shell.module.css';

/** A station of the rail. */
export interface Station {
  name: string;
  href: string;
  count?: number;
}

/** A name in the rail, marked while its page is on its way. */
function Going({ children }: { children: React.ReactNode }) {
  const { pending } = useLinkStatus();
  return (
    <span className={pending ? css.going : undefined} aria-busy={pending}>
      {children}
    </span>
  );
}

/** The frame: stations in working order on the left, the search and command field on top. */
export function Shell({
  stations,
  verbs,
  work,
  today,
  user,
  mode,
  idleSeconds,
  leave,
  children,
}: {
  stations: Station[];
  verbs: Verb[];
  /** Background work that goes on or has failed; null where a role does not watch it. */
  work: { going: number; failed: number } | null;
  today: string;
  user: { name: string; role: string };
  mode: Mode;
  /** A session ends after so long without use. */
  idleSeconds: number;
  /** Ends the session. */
  leave: () => Promise<void>;
  children: React.ReactNode;
}) {
  const path = usePathname();
  const router = useRouter();
  // Whether or not the server could be told, the page leaves the screen.
  const signOut = useCallback(
    async (query = ''): Promise<void> => {
      await leave().catch(() => undefined);
      window.location.assign(`/sign-in${query}`);
    },
    [leave],
  );
  useIdle(
    idleSeconds,
    useCallback(
      () => void signOut(`?idle=1&to=${encodeURIComponent(location.pathname + location.search)}`),
      [signOut],
    ),
  );
  const turn = (): void => {
    document.cookie = `theme=${mode === 'dark' ? 'light' : 'dark'}; path=/; max-age=31536000; samesite=lax`;
    router.refresh();
  };
  const here = (href: string): 'page' | undefined =>
    (href === '/' ? path === '/' : path.startsWith(href.split('?')[0]!)) ? 'page' : undefined;
  return (
    <div className={css.desk}>
      <aside className={css.rail}>
        <Link href="/" className={css.wordmark}>
          Wergeld
          <i aria-hidden>
            <b />
            <b />
            <b />
          </i>
        </Link>
        <nav aria-label="Stations">
          {stations.map(({ name, href, count }) => (
            <Link key={name} className={css.station} href={href} aria-current={here(href)}>
              <Going>{name}</Going>
              {count ? <span className={css.count}>{count}</span> : null}
            </Link>
          ))}
        </nav>
        <footer>
          {work && (
            <Link className={css.work} href="/work" aria-current={here('/work')}>
              Work
              {work.failed > 0 ? (
                <span className={css.failed}>{work.failed} failed</span>
              ) : work.going > 0 ? (
                <span className={css.count}>{work.going}</span>
              ) : null}
            </Link>
          )}
          <Link className={css.you} href="/you" aria-current={here('/you')}>
            {user.name}
          </Link>
          {user.role}
          <br />
          <button onClick={turn}>{mode === 'dark' ? 'Light' : 'Dark'}</button> ·{' '}
          <button onClick={() => void signOut()}>Sign out</button>
        </footer>
      </aside>
      <div className={css.page}>
        <div className={css.topbar}>
          <Search verbs={verbs} />
          <span className={css.day}>{formatDate(today)}</span>
        </div>
        <main className={css.main}>{children}</main>
      </div>
      <KeyHelp />
    </div>
  );
}
