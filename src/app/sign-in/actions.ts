'use server';
/** In and out. The sign-in service is asked here alone: it has no address of its own. */
import { cookies, headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { z } from 'zod';
import { Refused } from '../../server/access';
import {
  arrived,
  failed,
  leaveBefore,
  left,
  mayTry,
  right,
  sealed,
  sessionBefore,
  setByLink,
  takeCode,
  unsealed,
  waitWords,
} from '../../server/users/enter';
import { BUSY_WORDS } from '../../server/users/passwords';
import { overTls, whoIs } from '../../server/users/sign-in';
import { ownPath } from '../../ui/own-path';
import { asked } from '../asked';

/** What a sign-in brings: nothing when it leads on, else what stands beside the form. */
export interface Entered {
  fault: string;
  email: string;
}

const FORM = z.object({
  email: z.string().trim().max(320),
  password: z.string().max(1000),
  to: z.string().max(2000).optional(),
});

/** The cookie in which the account waits between the password and the code of the second factor. */
const BETWEEN = 'wergeld.between';

const WRONG = 'E-mail or password is wrong.';

/** The fields of a form; whoever asks without one sent none. */
const fieldsOf = (form: unknown): Record<string, unknown> =>
  form instanceof FormData ? Object.fromEntries(form) : {};

/** Signs in, and goes where one wanted to go. It works before the page's script is there. */
export async function enterAction(_before: Entered, form: FormData): Promise<Entered> {
  const input = FORM.safeParse(fieldsOf(form));
  if (!input.success || input.data.email.includes('\0')) return { fault: WRONG, email: '' };
  const { email, password, to } = input.data;
  if (email === '' || password === '')
    return { fault: email === '' ? 'E-mail is missing.' : 'Password is missing.', email };
  const from = await headers();
  const wait = await mayTry(from, email);
  if (wait > 0) return { fault: `${waitWords(wait)}.`, email };
  const before = await sessionBefore(from);
  const answer = await asked('sign-in/email', { email, password });
  if (answer.status === 503) return { fault: `${BUSY_WORDS}.`, email };
  if (answer.status !== 200) {
    await failed(from, email, 'password');
    return { fault: WRONG, email };
  }
  const more = answer.body['twoFactorRedirect'] === true;
  await right(from, email, !more);
  await leaveBefore(before);
  if (more) {
    (await cookies()).set(BETWEEN, sealed(email), {
      httpOnly: true,
      sameSite: 'lax',
      secure: overTls(),
      maxAge: 600,
    });
    redirect(`/sign-in/code?${new URLSearchParams({ to: ownPath(to) })}`);
  }
  await arrived(from, email, 'password');
  redirect(ownPath(to));
}

/** The second step: a code of the authenticator, or one of the recovery codes. */
export async function codeAction(_before: { fault: string }, form: FormData): Promise<{ fault: string }> {
  const input = z
    .object({ code: z.string().trim().max(40), to: z.string().max(2000).optional() })
    .safeParse(fieldsOf(form));
  const email = unsealed((await cookies()).get(BETWEEN)?.value);
  if (email === '') redirect('/sign-in');
  if (!input.success || input.data.code === '') return { fault: 'The code is missing.' };
  const from = await headers();
  const wait = await mayTry(from, email);
  if (wait > 0) return { fault: `${waitWords(wait)}.` };
  const code = input.data.code.replace(/\s/g, '');
  const digits = /^\d{6}$/.test(code);
  // A code opens the door once, also for who looked over a shoulder.
  const answer = (await takeCode(email, code))
    ? await asked(digits ? 'two-factor/verify-totp' : 'two-factor/verify-backup-code', { code })
    : { status: 401 };
  if (answer.status !== 200) {
    await failed(from, email, 'code');
    return {
      fault: 'The code is wrong, or was used already. If it stays so, begin again with your password.',
    };
  }
  await right(from, email, true);
  (await cookies()).delete(BETWEEN);
  await arrived(from, email, digits ? 'password and code' : 'password and recovery code');
  redirect(ownPath(input.data.to));
}

/** Sets a password with the link that a manager handed over, and leads to sign-in. */
export async function setPasswordAction(
  _before: { fault: string },
  form: FormData,
): Promise<{ fault: string }> {
  const { token, password, again } = fieldsOf(form);
  if (password !== again) return { fault: 'The two passwords are not the same.' };
  try {
    await setByLink(await headers(), { token, password });
  } catch (error) {
    if (error instanceof Refused) return { fault: `${error.message}.` };
    throw error;
  }
  redirect('/sign-in?set=1');
}

/** Ends the session. */
export async function leaveAction(): Promise<void> {
  const found = await whoIs(await headers(), false);
  await asked('sign-out', {});
  if (found) await left(await headers(), found.context.user.id);
}
