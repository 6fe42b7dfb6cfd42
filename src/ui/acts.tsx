'use client';
/** What can be done with a thing, in one bar: the main act first, what waits next, the others by kind, each with its key. */
import { Button } from 'antd';
import dynamic from 'next/dynamic';
import css from './acts.module.css';
import { useKeys } from './keys';
import { useNarrow } from './narrow';

/** Kinds of acts, in the order of the bar, with the words of their menu. */
const KINDS = { money: 'Money', claims: 'Claims', paper: 'Paper', record: 'Record' } as const;

/** One thing that can be done. */
export interface Act {
  words: string;
  /** A single letter or a name of a key; every act has one of its own. */
  key: string;
  kind: keyof typeof KINDS;
  /**
   * `main` is what the page is mostly opened for; `waits` is work that is there now; `often` is a button where there is room, the
   * first of them everywhere; `beside` has its place elsewhere on the page and is only heard by key. The others stand
   * in the menu of their kind.
   */
  rank?: 'main' | 'waits' | 'often' | 'beside';
  busy?: boolean;
  run: () => void;
}

// Its code comes after the page.
const ActMenu = dynamic(() => import('./act-menu').then((all) => all.ActMenu), {
  loading: () => <Button disabled>…</Button>,
});

const labelled = ({ words, key }: Act): string => `${words} (${key.toUpperCase()})`;

/** The bar. Keys are heard for all acts, wherever they stand. */
export function ActBar({ acts }: { acts: readonly Act[] }) {
  const narrow = useNarrow();
  useKeys(
    acts.map(({ key, words, run }) => ({
      key,
      words: words.charAt(0).toLowerCase() + words.slice(1),
      run: (event) => {
        // What takes the focus would else be given the letter too.
        event.preventDefault();
        run();
      },
    })),
  );
  const often = acts.filter(({ rank }) => rank === 'often').slice(0, narrow ? 1 : undefined);
  const apart = (act: Act): boolean => (act.rank === 'often' ? often.includes(act) : act.rank !== undefined);
  const ranked = (rank: Act['rank']): Act[] => acts.filter((act) => act.rank === rank && apart(act));
  return (
    <div className={css.bar} role="group" aria-label="What can be done">
      {[...ranked('main'), ...ranked('waits'), ...ranked('often')].map((act) => (
        <Button
          key={act.key}
          type={act.rank === 'main' ? 'primary' : 'default'}
          loading={act.busy}
          onClick={act.run}
        >
          {labelled(act)}
        </Button>
      ))}
      {Object.entries(KINDS).map(([kind, words]) => {
        const own = acts.filter((act) => act.kind === kind && !apart(act));
        // A menu of one would be a press for nothing.
        if (own.length === 1)
          return (
            <Button key={kind} loading={own[0]!.busy} onClick={own[0]!.run}>
              {labelled(own[0]!)}
            </Button>
          );
        return own.length > 0 && <ActMenu key={kind} words={words} acts={own} />;
      })}
    </div>
  );
}
