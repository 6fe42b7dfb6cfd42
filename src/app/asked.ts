/** Asking the sign-in service as a browser would, for actions. */
import { parseSetCookieHeader } from 'better-auth/cookies';
import { cookies, headers } from 'next/headers';
import { auth } from '../server/users/sign-in';

/** Asks the service, and hands on the cookies that it sets. */
export async function asked(
  path: string,
  body: object,
): Promise<{ status: number; body: Record<string, unknown> }> {
  const from = new Headers(await headers());
  from.delete('content-length');
  from.set('content-type', 'application/json');
  const { baseURL } = auth().options;
  const response = await auth().handler(
    new Request(`${baseURL}/api/auth/${path}`, { method: 'POST', headers: from, body: JSON.stringify(body) }),
  );
  const jar = await cookies();
  for (const line of response.headers.getSetCookie())
    for (const [name, { value, ...attributes }] of parseSetCookieHeader(line))
      jar.set(name, decodeURIComponent(value), {
        path: attributes.path,
        maxAge: attributes['max-age'],
        httpOnly: attributes.httponly,
        secure: attributes.secure,
        sameSite: attributes.samesite,
      });
  const answer = (await response.json().catch(() => ({}))) as Record<string, unknown> | null;
  return { status: response.status, body: answer ?? {} };
}
