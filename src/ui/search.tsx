'use client';
/** The one field that finds people, accounts, claims, checks and codes, and takes verbs. */
import { Input } from 'antd';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import { findHits } from './searching';
import { useKeys } from './keys';
import css from './search.module.css';

/** Something that can be done, and where. */
export interface Verb {
  words: string;
  href: string;
}

interface Hit {
  kind: string;
  title: string;
  detail: string;
  href: string;
}

const asHit = (verb: Verb): Hit => ({ kind: 'do', title: verb.words, detail: 'do', href: verb.href });

/** What is found for a text, the verbs first; asked for when nothing was typed for a moment. */
function useHits(text: string, verbs: readonly Verb[]): { hits: Hit[]; looking: boolean } {
  const [found, setFound] = useState<{ of: string; hits: Hit[] }>({ of: '', hits: [] });
  const term = text.trim().toLowerCase();
  const commands = useMemo(
    () => verbs.filter((verb) => verb.words.toLowerCase().includes(term)).map(asHit),
    [verbs, term],
  );
  useEffect(() => {
    if (term.length < 2) return;
    const stop = new AbortController();
    const timer = setTimeout(() => {
      findHits<Hit>(term, stop.signal).then(
        (hits) => setFound({ of: term, hits }),
        () => undefined,
      );
    }, 120);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [term]);
  const looking = term.length >= 2 && found.of !== term;
  return { hits: looking || term.length < 2 ? commands : [...commands, ...found.hits], looking };
}

/** The field, with what it has found below it. */
export function Search({ verbs }: { verbs: readonly Verb[] }) {
  const router = useRouter();
  const [text, setText] = useState('');
  const { hits, looking } = useHits(text, verbs);
  // Enter came before the answer: what is found first is gone to when it is there.
  const [early, setEarly] = useState(false);
  const [open, setOpen] = useState(false);
  const [at, setAt] = useState(0);
  const field = useRef<React.ComponentRef<typeof Input>>(null);
  useEffect(() => {
    setAt(0);
    setEarly(false);
  }, [text]);
  const begin = (event: KeyboardEvent): void => {
    event.preventDefault();
    field.current?.focus();
    setOpen(true);
  };
  useKeys([
    { key: '$mod+k', words: 'find or do (or /)', always: true, run: begin },
    { key: '/', run: begin },
  ]);
  const go = (hit: Hit | undefined): void => {
    if (!hit) return;
    setOpen(false);
    setText('');
    field.current?.blur();
    router.push(hit.href);
  };
  useEffect(() => {
    if (!early || looking) return;
    setEarly(false);
    go(hits[0]);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [early, looking]);
  return (
    <div className={css.search}>
      <Input
        ref={field}
        value={text}
        placeholder="Find a person, account, claim, check or code — or say what to do (Ctrl K)"
        aria-label="Find or do"
        role="combobox"
        aria-expanded={open && hits.length > 0}
        aria-controls="search-hits"
        aria-activedescendant={open && hits.length > 0 ? `hit-${at}` : undefined}
        onFocus={() => setOpen(true)}
        onBlur={() => setTimeout(() => setOpen(false), 150)}
        onChange={(event) => (setText(event.target.value), setOpen(true))}
        onKeyDown={(event) => {
          if (event.key === 'ArrowDown') setAt(Math.min(at + 1, hits.length - 1));
          else if (event.key === 'ArrowUp') setAt(Math.max(at - 1, 0));
          else if (event.key === 'Enter') {
            if (hits.length === 0 && looking) setEarly(true);
            else go(hits[at]);
          } else if (event.key === 'Escape') (setOpen(false), field.current?.blur());
          else return;
          event.preventDefault();
        }}
      />
      {open && (hits.length > 0 || text.trim().length >= 2) && (
        <div className={css.hits} id="search-hits" role="listbox" aria-label="Found">
          {hits.map((hit, index) => (
            <div
              key={hit.href + hit.title}
              id={`hit-${index}`}
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
              <small>{looking ? 'Looking …' : `Nothing found for “${text}”`}</small>
            </div>
          )}
        </div>
      )}
    </div>
  );
}
