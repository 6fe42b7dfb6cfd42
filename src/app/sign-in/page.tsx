import { ownPath } from '../../ui/own-path';
import { SignIn } from './sign-in';

/** What the browser shows as title. */
export const metadata = { title: 'Sign in' };

/** The way in. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ idle?: string; to?: string }>;
}) {
  const { idle, to } = await searchParams;
  return <SignIn idle={idle === '1'} to={ownPath(to)} />;
}
