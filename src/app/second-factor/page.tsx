import { ownFactor } from '../../server/users/factor';
import { signedInAtAll } from '../session';
import { Factor, SetUpFactor } from './factor';

/** What the browser shows as title. */
export const metadata = { title: 'Second factor' };

/** One's own second factor. */
export default async function Page() {
  const { context } = await signedInAtAll();
  const { has, asked } = await ownFactor(context);
  return has ? <Factor asked={asked} /> : <SetUpFactor asked={asked} />;
}
