/** What goes with every page: its own address, so that sign-in can lead back to it, and what a browser may do with it. */
import { randomBytes } from 'node:crypto';
import { type NextRequest, NextResponse } from 'next/server';
import { contentPolicy } from './core/policy';

/** Name of the header that carries the address of a page. */
export const ADDRESS = 'x-wergeld-address';
/** Name of the header that carries the nonce of a page's scripts and styles. */
export const NONCE = 'x-nonce';

/** Puts address and nonce on every request for a page, in place of whatever a browser may have sent there. */
export function proxy(request: NextRequest): NextResponse {
  const headers = new Headers(request.headers);
  const address = new URL(request.nextUrl);
  address.searchParams.delete('_rsc');
  headers.set(ADDRESS, address.pathname + address.search);
  const nonce = randomBytes(16).toString('base64');
  const policy = contentPolicy(nonce, process.env.WERGELD_TERMINAL || null);
  headers.set(NONCE, nonce);
  // The framework takes the nonce of its own scripts from here.
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('cache-control', 'private, no-store');
  return response;
}

/** Pages only. */
export const config = { matcher: ['/((?!_next/|api/|icon).*)'] };
