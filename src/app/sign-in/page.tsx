import { ownPath } from '../../ui/own-path';
import { SignIn } from './sign-in';

/** What the browser shows as title. */
export const metadata = { title: 'Sign in' };

const NOTICES = {
  idle: 'You were signed out after half an hour without use.',
  set: 'Your password is set: sign in with it.',
  used: 'This link is used or too old: ask a manager for another one.',
} as const;

/** The way in. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ idle?: string; set?: string; used?: string; to?: string }>;
}) {
  const { to, ...why } = await searchParams;
  const reason = (['idle', 'set', 'used'] as const).find((name) => why[name] === '1');
  return <SignIn notice={reason ? NOTICES[reason] : ''} to={ownPath(to)} />;
}
