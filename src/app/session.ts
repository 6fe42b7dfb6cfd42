/** The signed-in person of a request, for pages, actions and routes. */
import { Readable } from 'node:stream';
import { cookies, headers } from 'next/headers';
import { forbidden, notFound, redirect } from 'next/navigation';
import { cache } from 'react';
import { revalidatePath } from 'next/cache';
import type { z } from 'zod';
import type { Answer, RefusalCode } from '../core/answer';
import {
  Conflict,
  type Context,
  Doubtful,
  NotAllowed,
  type Permission,
  Refused,
  isBusy,
  may,
  noteRefusal,
  readingFiles,
} from '../server/access';
import type { UseCase } from '../server/use-case';
import { type SignedIn, ownUrl, whoIs } from '../server/users/sign-in';
import { ADDRESS, NONCE } from '../proxy';
import { ownPath } from '../ui/own-path';

const asking = cache(async (): Promise<SignedIn | null> => whoIs(await headers()));

/** Who is signed in, though a second factor may still have to be set up; goes to sign-in when nobody is. */
export const signedInAtAll = cache(async (): Promise<SignedIn> => {
  const found = await asking();
  if (!found)
    redirect(`/sign-in?${new URLSearchParams({ to: ownPath((await headers()).get(ADDRESS) ?? '/') })}`);
  return found;
});

/** The context of this request; goes to sign-in when there is none. */
export const signedIn = cache(async (): Promise<Context> => {
  const { context, needsFactor } = await signedInAtAll();
  if (needsFactor) redirect('/second-factor');
  return context;
});

/** The context of a page that a role may not even see; others are told that it is not for their role. */
export async function signedInFor(permission: Permission): Promise<Context> {
  const context = await signedIn();
  if (!may(context.user.role, permission)) {
    await noteRefusal(context, permission);
    forbidden();
  }
  return context;
}

/** What a page reads; where it names what is not there, the page is not there either. */
export const orNotFound = <T>(reading: Promise<T>): Promise<T> =>
  reading.catch((error: unknown) => {
    if (error instanceof Refused && error.code === 'unknown') notFound();
    if (error instanceof NotAllowed) forbidden();
    // An account that was merged is found as the one that it is now.
    if (error instanceof Refused && typeof error.facts.merged_into === 'number')
      redirect(`/accounts/${error.facts.merged_into}`);
    throw error;
  });

const REFUSED_DOOR = {
  signedOut: 'You were signed out: sign in again. Nothing was changed.',
  needsFactor: 'Set up your second factor first. Nothing was changed.',
} as const;

const BUSY = 'The database has too much to do just now. Nothing was changed: try again in a moment.';

/** Asks the server something for an action: a refusal becomes an answer with words, anything else stays an error. */
export async function ask<T>(run: (context: Context) => Promise<T>): Promise<Answer<T>> {
  const found = await asking();
  if (!found || found.needsFactor)
    return {
      ok: false,
      code: 'signed-out',
      message: REFUSED_DOOR[found ? 'needsFactor' : 'signedOut'],
      fields: {},
    };
  try {
    return { ok: true, value: await run(found.context) };
  } catch (error) {
    if (isBusy(error)) return { ok: false, code: 'busy', message: BUSY, fields: {} };
    if (!(error instanceof Refused)) throw error;
    if (error instanceof NotAllowed) await noteRefusal(found.context, error.message);
    const { code, facts, message, fields } = error;
    return {
      ok: false,
      code,
      facts,
      message,
      fields,
      ...(error instanceof Doubtful ? { doubts: error.doubts } : {}),
      ...(error instanceof Conflict
        ? { conflict: { differences: error.differences, version: error.version } }
        : {}),
    };
  }
}

/** Asks for something that changes more than one use case does; what pages show is read anew when it was done. */
export async function askAndShow<T>(run: (context: Context) => Promise<T>): Promise<Answer<T>> {
  const answer = await ask(run);
  if (answer.ok) revalidatePath('/', 'layout');
  return answer;
}

/** Performs a use case for an action, with input as it came; what pages show is read anew when it was done. */
export async function perform<Schema extends z.ZodType, T>(
  useCase: UseCase<Schema, T>,
  input: z.input<Schema>,
): Promise<Answer<T>> {
  return askAndShow((context) => useCase(context, input));
}

const refuse = (status: number, code: RefusalCode, message: string): Response =>
  Response.json({ code, message }, { status });

/** Why a request may not come in, or null: another site sends it, or it is not of the kind that is taken here. */
function atTheBorder(request: Request, takes: 'nothing' | 'json' | 'file'): Response | null {
  const from = request.headers.get('sec-fetch-site');
  if (from !== null && from !== 'same-origin' && from !== 'none')
    return refuse(403, 'not-allowed', 'Another site asks');
  if (takes === 'nothing') return null;
  if (request.headers.get('origin') !== new URL(ownUrl()).origin)
    return refuse(403, 'not-allowed', 'Another site asks');
  const type = request.headers.get('content-type')?.split(';')[0]?.trim();
  const wanted = takes === 'json' ? 'application/json' : 'application/octet-stream';
  return type === wanted ? null : refuse(415, 'invalid', `This takes ${wanted}`);
}

/**
 * Runs a use case for a route handler: what is refused becomes 401, 403, 404 or 400, with words. Nothing of it is kept on
 * the way.
 * @param takes what stands in the body
 * @param uses false for what a page asks by itself, which is no use of the session
 */
export async function respond(
  request: Request,
  run: (context: Context) => Promise<Response>,
  { takes = 'nothing', uses = true }: { takes?: 'nothing' | 'json' | 'file'; uses?: boolean } = {},
): Promise<Response> {
  const response = await answered(request, run, takes, uses);
  response.headers.set('cache-control', 'private, no-store');
  return response;
}

async function answered(
  request: Request,
  run: (context: Context) => Promise<Response>,
  takes: 'nothing' | 'json' | 'file',
  uses: boolean,
): Promise<Response> {
  const stopped = atTheBorder(request, takes);
  if (stopped) return stopped;
  const found = await whoIs(request.headers, uses);
  if (!found) return refuse(401, 'signed-out', 'Sign in first');
  if (found.needsFactor) return refuse(403, 'signed-out', REFUSED_DOOR.needsFactor);
  try {
    return await run(found.context);
  } catch (error) {
    if (error instanceof NotAllowed) await noteRefusal(found.context, error.message);
    if (error instanceof Refused && error.code === 'unknown') return refuse(404, error.code, error.message);
    if (error instanceof Refused)
      return refuse(error instanceof NotAllowed ? 403 : 400, error.code, error.message);
    if (isBusy(error)) return refuse(503, 'busy', BUSY);
    throw error;
  }
}

/** The same for a file that is read for long: over connections of its own, so that the desk goes on. */
export const respondWithFile = (
  request: Request,
  run: (context: Context) => Promise<Response>,
): Promise<Response> => respond(request, (context) => run(readingFiles(context)));

const MOST_JSON = 20_000;

/** The JSON that stands in a body. @throws Refused when it is none, or too long */
export async function bodyOf(request: Request): Promise<unknown> {
  const text = await request.text();
  if (text.length > MOST_JSON) throw new Refused('limit', 'This is too long');
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Refused('state', 'This is not JSON');
  }
}

/** The id of a row in an address. @throws Refused when it is not there for anything that is none */
export async function idOf(params: Promise<{ id: string }>): Promise<number> {
  const { id } = await params;
  if (!/^[1-9]\d{0,14}$/.test(id)) throw new Refused('unknown', 'There is no such thing');
  return Number(id);
}

/** The nonce of this page's scripts and styles. */
export const pageNonce = async (): Promise<string | undefined> => (await headers()).get(NONCE) ?? undefined;

/** Light or dark, as the person chose. */
export const chosenTheme = async (): Promise<'light' | 'dark'> =>
  (await cookies()).get('theme')?.value === 'dark' ? 'dark' : 'light';

const TYPES: Readonly<Record<string, string>> = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  pdf: 'application/pdf',
  png: 'image/png',
  jpg: 'image/jpeg',
};

/** A file as an answer: a PDF opens in the browser, anything else is saved. */
export const download = (file: string, body: BodyInit): Response => {
  const ending = file.slice(file.lastIndexOf('.') + 1);
  return new Response(body, {
    headers: {
      'content-type': TYPES[ending] ?? 'application/octet-stream',
      'content-disposition': `${ending === 'pdf' ? 'inline' : 'attachment'}; filename="${file}"`,
    },
  });
};

/** A file that was put together, or is read as it is sent, as an answer. */
export const sendFile = ({ file, body }: { file: string; body: Buffer | Readable }): Response =>
  download(file, Buffer.isBuffer(body) ? new Uint8Array(body) : (Readable.toWeb(body) as ReadableStream));
