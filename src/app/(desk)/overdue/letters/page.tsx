import { type ListAddress, readList } from '../../../../server/lists/read';
import { readLetters } from '../../../../server/overdue/letters';
import { signedIn } from '../../../session';
import { LettersPage } from './letters-page';

/** What the browser shows as title. */
export const metadata = { title: 'Letters' };

/** Batches of letters, and the letters themselves. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  const [list, letters] = await Promise.all([
    readList(context, 'letter-batches', await searchParams),
    readLetters(context),
  ]);
  return <LettersPage list={list} letters={letters} />;
}
