import { SignIn } from './sign-in';

/** What the browser shows as title. */
export const metadata = { title: 'Sign in' };

/** The way in. */
export default function Page() {
  return <SignIn />;
}
