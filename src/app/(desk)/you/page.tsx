import { ownFactor } from '../../../server/users/factor';
import { ownSessions } from '../../../server/users/sessions';
import { signedIn, signedInAtAll } from '../../session';
import { You } from './you';

/** What the browser shows as title. */
export const metadata = { title: 'Your sign-in' };

/** One's own account: what one signs in with, and where one is signed in. */
export default async function Page() {
  const context = await signedIn();
  const { email } = await signedInAtAll();
  const [factor, sessions] = await Promise.all([ownFactor(context), ownSessions(context)]);
  return (
    <You
      who={{ ...context.user, email }}
      factor={factor}
      sessions={sessions.map(({ since, seen, ...rest }) => ({
        ...rest,
        since: since.toISOString(),
        seen: seen.toISOString(),
      }))}
    />
  );
}
