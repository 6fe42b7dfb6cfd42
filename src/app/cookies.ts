/** Handing on the cookies that the sign-in service sets. */
import { parseSetCookieHeader } from 'better-auth/cookies';
import { cookies } from 'next/headers';

/** Sets cookies of `Set-Cookie` lines; for actions, since a page cannot. */
export async function keepCookies(lines: readonly string[]): Promise<void> {
  const jar = await cookies();
  for (const line of lines)
    for (const [name, { value, ...attributes }] of parseSetCookieHeader(line))
      jar.set(name, decodeURIComponent(value), {
        path: attributes.path,
        maxAge: attributes['max-age'],
        httpOnly: attributes.httponly,
        secure: attributes.secure,
        sameSite: attributes.samesite,
      });
}
