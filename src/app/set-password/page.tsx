import { redirect } from 'next/navigation';
import { PASSWORD_LENGTH } from '../../server/users/passwords';
import { linkByToken } from '../../server/users/enter';
import { SetPassword } from '../sign-in/sign-in';

/** What the browser shows as title; the address with its token is told to nobody. */
export const metadata = { title: 'Your password', referrer: 'no-referrer' };

/** Where the link of an invitation leads. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ token?: string | string[] }>;
}) {
  const { token } = await searchParams;
  const known = typeof token === 'string' ? await linkByToken(token) : null;
  if (!known || typeof token !== 'string') redirect('/sign-in?used=1');
  return <SetPassword token={token} name={known.name} least={PASSWORD_LENGTH.least} />;
}
