import { SignIn } from './sign-in';

export const metadata = { title: 'Sign in' };

export default function Page() {
  return <SignIn />;
}
