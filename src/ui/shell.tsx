'use client';
/** Rail and top bar around every page. */
import { Input } from 'antd';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import { formatDate } from '../core/calendar';
import { useIdle } from './idle';

/** A station of the rail; `href` is missing while it is not built. */
export interface Station {
  name: string;
  href?: string;
  count?: number;
}

interface Hit {
  kind: string;
  title: string;
  detail: string;
  href: string;
}

/** Ends the session and leaves the page, whether or not the server could be told. */
async function signOut(query = ''): Promise<void> {
  await fetch('/api/auth/sign-out', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: '{}',
  }).catch(() => undefined);
  window.location.assign(`/sign-in${query}`);
}

/** The frame: stations in working order on the left, the search and command field on top. */
export function Shell({
  stations,
  verbs,
  today,
  user,
  mode,
  idleSeconds,
  children,
}: {
  stations: Station[];
  verbs: { words: string; href: string }[];
  today: string;
  user: { name: string; role: string };
  mode: 'light' | 'dark';
  /** A session ends after so long without use. */
  idleSeconds: number;
  children: React.ReactNode;
}) {
  const path = usePathname();
  const router = useRouter();
  useIdle(
    idleSeconds,
    useCallback(
      () => void signOut(`?idle=1&to=${encodeURIComponent(location.pathname + location.search)}`),
      [],
    ),
  );
  const turn = (): void => {
    document.cookie = `theme=${mode === 'dark' ? 'light' : 'dark'}; path=/; max-age=31536000; samesite=lax`;
    router.refresh();
  };
  return (
    <div className="desk">
      <aside className="rail">
        <Link href="/" className="wordmark">
          Wergeld
          <i aria-hidden>
            <b />
            <b />
            <b />
          </i>
        </Link>
        <nav aria-label="Stations">
          {stations.map(({ name, href, count }) =>
            href ? (
              <Link
                key={name}
                className="station"
                href={href}
                aria-current={
                  (href === '/' ? path === '/' : path.startsWith(href.split('?')[0]!)) ? 'page' : undefined
                }
              >
                {name}
                {count ? <span className="count">{count}</span> : null}
              </Link>
            ) : (
              <span key={name} className="station">
                {name} <small>coming</small>
              </span>
            ),
          )}
        </nav>
        <footer>
          {user.name}
          <br />
          {user.role}
          <br />
          <button onClick={turn}>{mode === 'dark' ? 'Light' : 'Dark'}</button> ·{' '}
          <button onClick={() => void signOut()}>Sign out</button>
        </footer>
      </aside>
      <div style={{ minWidth: 0 }}>
        <div className="topbar">
          <Search verbs={verbs} />
          <span className="day">{formatDate(today)}</span>
        </div>
        <main>{children}</main>
      </div>
    </div>
  );
}

function Search({ verbs }: { verbs: { words: string; href: string }[] }) {
  const router = useRouter();
  const [text, setText] = useState('');
  const [hits, setHits] = useState<Hit[]>([]);
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const field = useRef<React.ComponentRef<typeof Input>>(null);

  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      const inField = event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName);
      if ((event.ctrlKey && event.key.toLowerCase() === 'k') || (event.key === '/' && !inField)) {
        event.preventDefault();
        field.current?.focus();
        setOpen(true);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  useEffect(() => {
    const term = text.trim();
    const commands = verbs
      .filter((verb) => term !== '' && verb.words.toLowerCase().includes(term.toLowerCase()))
      .map((verb) => ({ kind: 'do', title: verb.words, detail: 'do', href: verb.href }));
    setAt(0);
    if (term.length < 2) {
      setHits(
        term === ''
          ? verbs.map((verb) => ({ kind: 'do', title: verb.words, detail: 'do', href: verb.href }))
          : commands,
      );
      return;
    }
    const stop = new AbortController();
    const timer = setTimeout(() => {
      fetch(`/api/search?q=${encodeURIComponent(term)}`, { signal: stop.signal })
        .then(async (response) => (response.ok ? ((await response.json()) as Hit[]) : []))
        .then(
          (found) => setHits([...commands, ...found]),
          () => undefined,
        );
    }, 120);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [text, verbs]);

  const go = (hit: Hit | undefined): void => {
    if (!hit) return;
    setOpen(false);
    setText('');
    field.current?.blur();
    router.push(hit.href);
  };
  return (
    <div style={{ position: 'relative', width: 420 }}>
      <Input
        ref={field}
        value={text}
        placeholder="Find a person, account, claim, check or code — or say what to do (Ctrl K)"
        aria-label="Find or do"
        role="combobox"
        aria-expanded={open && hits.length > 0}
        aria-controls="search-hits"
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        onChange={(event) => (setText(event.target.value), setOpen(true))}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt(Math.min(at + 1, hits.length - 1));
          else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
          else if (event.key === 'Enter') go(hits[at]);
          else if (event.key === 'Escape') (setOpen(false), field.current?.blur());
          else return;
          event.preventDefault();
        }}
      />
      {open && (hits.length > 0 || text.trim().length >= 2) && (
        <div className="hits" id="search-hits" role="listbox" aria-label="Found">
          {hits.map((hit, index) => (
            <div
              key={hit.href + hit.title}
              role="option"
              aria-selected={index === at}
              onMouseDown={() => go(hit)}
              onMouseEnter={() => setAt(index)}
            >
              <span>{hit.title}</span>
              <small>{hit.detail}</small>
            </div>
          ))}
          {hits.length === 0 && (
            <div role="option" aria-selected={false}>
              <small>Nothing found for “{text}”</small>
            </div>
          )}
        </div>
      )}
    </div>
  );
}
