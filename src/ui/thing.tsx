'use client';
/** The page of one thing with its parts: its head with what can be done, what must be known, its parts, its history last. */
import { useRouter } from 'next/navigation';
import type { ReactNode } from 'react';
import { type Act, ActBar } from './acts';
import { useKeys } from './keys';
import { Head, Panel } from './page';

/** The page. Escape leads back to where such things are listed. */
export function Thing({
  title,
  note,
  acts,
  beside,
  tight,
  back,
  history,
  children,
}: {
  title: ReactNode;
  note?: ReactNode;
  acts: readonly (Act | false)[];
  /** What needs a reason, or else is no press alone; it stands beside the bar. */
  beside?: ReactNode;
  /** Something stands beside the page and takes its room. */
  tight?: boolean;
  back: { href: string; words: string; first?: () => boolean };
  /** What became of it, where it is not told by its parts. */
  history?: ReactNode;
  children: ReactNode;
}) {
  const router = useRouter();
  useKeys([
    {
      key: 'Escape',
      words: back.words,
      run: () => {
        // What is open on the page is closed before the page is left.
        if (!back.first?.()) router.push(back.href);
      },
    },
  ]);
  return (
    <>
      <Head title={title} note={note} below>
        <ActBar acts={acts.filter((act): act is Act => act !== false)} tight={tight} />
        {beside}
      </Head>
      {children}
      {history && (
        <Panel title="History" below>
          {history}
        </Panel>
      )}
    </>
  );
}
