/**
 * The web server: Next.js behind a border of its own, which knows where a connection comes from. What a browser or a proxy
 * says about itself counts only where the configuration trusts it.
 */
import { createServer } from 'node:http';
import { parseArgs } from 'node:util';
import ipaddr from 'ipaddr.js';
import next from 'next';

process.umask(0o077);

const { values } = parseArgs({ options: { port: { type: 'string', default: '3400' } } });
const port = Number(values.port);
const own = new URL(process.env.WERGELD_URL ?? `http://127.0.0.1:${port}`);
const overTls = own.protocol === 'https:';
/** Names under which this server is asked; any other is a page elsewhere that has our address under its own name. */
const HOSTS = new Set(overTls ? [own.host] : [own.host, `127.0.0.1:${port}`, `localhost:${port}`]);
/** Proxies whose word about the address counts: addresses or networks, separated by commas. */
const PROXIES = (process.env.WERGELD_PROXIES ?? '')
  .split(',')
  .map((text) => text.trim())
  .filter(Boolean)
  .map((text) => ipaddr.parseCIDR(text.includes('/') ? text : `${text}/${text.includes(':') ? 128 : 32}`));

const plain = (text) => (ipaddr.isValid(text) ? ipaddr.process(text) : null);
const trusted = (address) =>
  address !== null &&
  PROXIES.some(([net, bits]) => net.kind() === address.kind() && address.match(net, bits));

/** Where a request comes from: the last address in the chain that no trusted proxy has. */
function addressOf(request) {
  let address = plain(request.socket.remoteAddress ?? '');
  const chain = String(request.headers['x-forwarded-for'] ?? '').split(',');
  while (trusted(address) && chain.length > 0) {
    const before = plain(chain.pop().trim());
    if (before === null) break;
    address = before;
  }
  return address?.toString() ?? '';
}

/** So many things may be asked for at once from one address: by whoever has no session, and by whoever says so. */
const AT_ONCE = { stranger: 6, signedIn: 40 };
const going = new Map();

/** Counts a request that wants something done, as long as it goes on. @returns whether there are not too many already */
function mayBegin(request, response, address) {
  if (request.method === 'GET' || request.method === 'HEAD') return true;
  const known = (request.headers.cookie ?? '').includes('session_token=');
  const now = going.get(address) ?? 0;
  if (now >= (known ? AT_ONCE.signedIn : AT_ONCE.stranger)) return false;
  going.set(address, now + 1);
  response.once('close', () => {
    const left = going.get(address) - 1;
    if (left > 0) going.set(address, left);
    else going.delete(address);
  });
  return true;
}

function refuse(response, status, words) {
  response.writeHead(status, {
    'content-type': 'text/plain; charset=utf-8',
    'cache-control': 'no-store',
    connection: 'close',
  });
  response.end(words);
}

const app = next({ dev: false, hostname: '127.0.0.1', port, quiet: true });
const handle = app.getRequestHandler();
await app.prepare();

const server = createServer((request, response) => {
  if (!HOSTS.has(request.headers.host ?? '')) return refuse(response, 421, 'This server has another name');
  const address = addressOf(request);
  // A page is drawn for each answer: a flood that is only refused later would hold up whoever works.
  if (!mayBegin(request, response, address))
    return refuse(response, 429, 'Too many at once: try again in a moment');
  for (const name of Object.keys(request.headers))
    if (name.startsWith('x-forwarded-') || name === 'forwarded' || name.startsWith('x-middleware-'))
      delete request.headers[name];
  request.headers['x-forwarded-for'] = address;
  request.headers['x-forwarded-proto'] = own.protocol.slice(0, -1);
  if (overTls) response.setHeader('Strict-Transport-Security', 'max-age=63072000; includeSubDomains');
  void handle(request, response);
});
server.requestTimeout = 300_000;
server.headersTimeout = 20_000;
server.listen(port, '127.0.0.1');
for (const signal of ['SIGTERM', 'SIGINT'])
  process.on(signal, () => {
    server.close(() => process.exit(0));
    server.closeIdleConnections();
    setTimeout(() => process.exit(0), 3000).unref();
  });
