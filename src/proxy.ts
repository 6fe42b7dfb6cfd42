/** Tells the pages their own address, so that sign-in can lead back to it. */
import { type NextRequest, NextResponse } from 'next/server';

/** Name of the header that carries the address of a page. */
export const ADDRESS = 'x-wergeld-address';

/** Puts the address on every request for a page, in place of whatever a browser may have sent there. */
export function proxy(request: NextRequest): NextResponse {
  const headers = new Headers(request.headers);
  const address = new URL(request.nextUrl);
  address.searchParams.delete('_rsc');
  headers.set(ADDRESS, address.pathname + address.search);
  return NextResponse.next({ request: { headers } });
}

/** Pages only. */
export const config = { matcher: ['/((?!_next/|api/|sign-in|icon).*)'] };
