'use server';
/** In and out. The sign-in service is asked here alone: it has no address of its own. */
import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { z } from 'zod';
import { auth } from '../../server/sign-in';
import { ownPath } from '../../ui/own-path';
import { keepCookies } from '../cookies';

/** Asks the service as the browser would, so that its limits hold, and hands on the cookies that it sets. */
async function asked(path: string, body: object): Promise<number> {
  const from = new Headers(await headers());
  from.delete('content-length');
  from.set('content-type', 'application/json');
  const { baseURL } = auth().options;
  const response = await auth().handler(
    new Request(`${baseURL}/api/auth/${path}`, {
      method: 'POST',
      headers: from,
      body: JSON.stringify(body),
    }),
  );
  await keepCookies(response.headers.getSetCookie());
  return response.status;
}

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

/** Signs in, and goes where one wanted to go. It works before the page's script is there. */
export async function enterAction(_before: Entered, form: FormData): Promise<Entered> {
  const input = FORM.safeParse(Object.fromEntries(form));
  if (!input.success) return { fault: 'E-mail or password is wrong.', email: '' };
  const { email, password, to } = input.data;
  if (email === '' || password === '')
    return { fault: email === '' ? 'E-mail is missing.' : 'Password is missing.', email };
  const status = await asked('sign-in/email', { email, password });
  if (status === 429) return { fault: 'Too many attempts: wait a minute and try again.', email };
  if (status !== 200) return { fault: 'E-mail or password is wrong.', email };
  redirect(ownPath(to));
}

/** Ends the session. */
export async function leaveAction(): Promise<void> {
  await asked('sign-out', {});
}
