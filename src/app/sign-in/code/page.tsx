import { ownPath } from '../../../ui/own-path';
import { Code } from '../sign-in';

/** What the browser shows as title. */
export const metadata = { title: 'Second factor' };

/** The second step of the way in. */
export default async function Page({ searchParams }: { searchParams: Promise<{ to?: string }> }) {
  return <Code to={ownPath((await searchParams).to)} />;
}
