/** The signed-in person of a request, for pages, actions and routes. */
import { cookies, headers } from 'next/headers';
import { forbidden, redirect } from 'next/navigation';
import { cache } from 'react';
import { revalidatePath } from 'next/cache';
import type { Answer } from '../core/answer';
import {
  Conflict,
  type Context,
  Doubtful,
  NotAllowed,
  type Permission,
  Refused,
  may,
} from '../server/access';
import { ADDRESS } from '../proxy';
import { keepCookies } from './cookies';
import { contextOf } from '../server/sign-in';
import { ownPath } from '../ui/own-path';

/** The context of this request; goes to sign-in when there is none. */
export const signedIn = cache(async (): Promise<Context> => {
  const context = await contextOf(await headers());
  if (!context)
    redirect(`/sign-in?${new URLSearchParams({ to: ownPath((await headers()).get(ADDRESS) ?? '/') })}`);
  return context;
});

/** The context of a page that a role may not even see; others are told that it is not for their role. */
export async function signedInFor(permission: Permission): Promise<Context> {
  const context = await signedIn();
  if (!may(context.user.role, permission)) forbidden();
  return context;
}

/** Asks the server something for an action: a refusal becomes an answer with words, anything else stays an error. */
export async function ask<T>(run: (context: Context) => Promise<T>): Promise<Answer<T>> {
  const context = await contextOf(await headers(), async (lines) => {
    if (lines.length > 0) await keepCookies(lines);
  });
  if (!context)
    return { ok: false, message: 'You were signed out: sign in again. Nothing was changed.', fields: {} };
  try {
    return { ok: true, value: await run(context) };
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    const { message, fields } = error;
    return {
      ok: false,
      message,
      fields,
      ...(error instanceof Doubtful ? { doubts: error.doubts } : {}),
      ...(error instanceof Conflict
        ? { conflict: { differences: error.differences, version: error.version } }
        : {}),
    };
  }
}

/** Performs a use case for an action, with input as it came; what pages show is read anew when it was done. */
export async function perform<T>(
  useCase: (context: Context, input: never) => Promise<T>,
  input: unknown,
): Promise<Answer<T>> {
  const answer = await ask((context) => useCase(context, input as never));
  if (answer.ok) revalidatePath('/', 'layout');
  return answer;
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

const TYPES: Readonly<Record<string, string>> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  pdf: 'application/pdf',
};

/** A file as an answer: a PDF opens in the browser, anything else is saved. Nothing of it is kept on the way. */
export const download = (file: string, body: BodyInit): Response => {
  const ending = file.slice(file.lastIndexOf('.') + 1);
  return new Response(body, {
    headers: {
      'content-type': TYPES[ending] ?? 'application/octet-stream',
      'content-disposition': `${ending === 'pdf' ? 'inline' : 'attachment'}; filename="${file}"`,
      'cache-control': 'private, no-store',
    },
  });
};
