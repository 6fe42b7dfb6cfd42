'use client';
/** What can be done with a thing, in one bar: the main act first, what waits next, the others by kind, each with its key. */
import { Button } from 'antd';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
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
  /** What it does; or where it leads, which a person may open beside this page as well. */
  does: (() => void) | { href: string; apart?: true };
}

/** Does an act, or goes where it leads. */
const useDo = (): ((act: Act) => void) => {
  const router = useRouter();
  return ({ does }) => {
    if (typeof does === 'function') does();
    else if (does.apart) window.open(does.href, '_blank', 'noreferrer');
    else router.push(does.href);
  };
};

/** A button of the bar; one that leads somewhere is a link. */
function ActButton({ act, doIt }: { act: Act; doIt: (act: Act) => void }) {
  const type = act.rank === 'main' ? 'primary' : 'default';
  const { does } = act;
  if (typeof does === 'function')
    return (
      <Button type={type} loading={act.busy} onClick={does}>
        {labelled(act)}
      </Button>
    );
  if (does.apart)
    return (
      <Button type={type} href={does.href} target="_blank" rel="noreferrer">
        {labelled(act)}
      </Button>
    );
  return (
    <Button
      type={type}
      href={does.href}
      onClick={(event) => {
        // With a key held, the browser opens it where the person wants it.
        if (event.ctrlKey || event.metaKey || event.shiftKey) return;
        event.preventDefault();
        doIt(act);
      }}
    >
      {labelled(act)}
    </Button>
  );
}

// Its code comes after the page.
const ActMenu = dynamic(() => import('./act-menu').then((all) => all.ActMenu), {
  loading: () => <Button disabled>…</Button>,
});

const labelled = ({ words, key }: Act): string => `${words} (${key.toUpperCase()})`;

/** The bar. Keys are heard for all acts, wherever they stand. */
export function ActBar({
  acts,
  tight = false,
}: {
  acts: readonly Act[];
  /** Something stands beside the page and takes its room. */
  tight?: boolean;
}) {
  const narrow = useNarrow() || tight;
  const doIt = useDo();
  useKeys(
    acts.map((act) => ({
      key: act.key,
      words: act.words.charAt(0).toLowerCase() + act.words.slice(1),
      run: (event) => {
        // What takes the focus would else be given the letter too.
        event.preventDefault();
        doIt(act);
      },
    })),
  );
  const often = acts.filter(({ rank }) => rank === 'often').slice(0, narrow ? 1 : undefined);
  const apart = (act: Act): boolean => (act.rank === 'often' ? often.includes(act) : act.rank !== undefined);
  const ranked = (rank: Act['rank']): Act[] => acts.filter((act) => act.rank === rank && apart(act));
  return (
    <div className={css.bar} role="group" aria-label="What can be done">
      {[...ranked('main'), ...ranked('waits'), ...ranked('often')].map((act) => (
        <ActButton key={act.key} act={act} doIt={doIt} />
      ))}
      {Object.entries(KINDS).map(([kind, words]) => {
        const own = acts.filter((act) => act.kind === kind && !apart(act));
        // A menu of one would be a press for nothing.
        if (own.length === 1) return <ActButton key={kind} act={own[0]!} doIt={doIt} />;
        return own.length > 0 && <ActMenu key={kind} words={words} acts={own} doIt={doIt} />;
      })}
    </div>
  );
}
