/** The signed-in person of a request, for pages, actions and routes. */
import { cookies, headers } from 'next/headers';
import { notFound, redirect } from 'next/navigation';
import { cache } from 'react';
import { type Context, NotAllowed, type Permission, Refused, may } from '../server/access';
import { contextOf } from '../server/sign-in';

/** The context of this request; goes to sign-in when there is none. */
export const signedIn = cache(async (): Promise<Context> => {
  const context = await contextOf(await headers());
  if (!context) redirect('/sign-in');
  return context;
});

/** The context of a page that a role may not even see; such a page is not there for others. */
export async function signedInFor(permission: Permission): Promise<Context> {
  const context = await signedIn();
  if (!may(context.user.role, permission)) notFound();
  return context;
}

/** What an action answers. */
export type Answer<T> = { ok: true; value: T } | { ok: false; message: string; field?: string };

/** Runs a use case for an action: a refusal becomes an answer with words, anything else stays an error. */
export async function answer<T>(run: (context: Context) => Promise<T>): Promise<Answer<T>> {
  const context = await contextOf(await headers());
  if (!context) return { ok: false, message: 'You were signed out: sign in again. Nothing was changed.' };
  try {
    return { ok: true, value: await run(context) };
  } catch (error) {
    if (error instanceof Refused) return { ok: false, message: error.message, field: error.field };
    throw error;
  }
}

/** Runs a use case for a route handler: what is refused becomes 401, 403 or 400, with words. */
export async function respond(run: (context: Context) => Promise<Response>): Promise<Response> {
  const context = await contextOf(await headers());
  if (!context) return Response.json({ message: 'Sign in first' }, { status: 401 });
  try {
    return await run(context);
  } catch (error) {
    if (error instanceof Refused)
      return Response.json({ message: error.message }, { status: error instanceof NotAllowed ? 403 : 400 });
    throw error;
  }
}

/** Light or dark, as the person chose. */
export const chosenTheme = async (): Promise<'light' | 'dark'> =>
  (await cookies()).get('theme')?.value === 'dark' ? 'dark' : 'light';
