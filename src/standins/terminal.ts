/**
 * The simulated card terminal: a service of its own on loopback, that speaks the open API of `core/payments/terminal`. It reads
 * cards in its own page, charges each key once, closes keys that never came, and keeps what it did in a file of its own, so that it
 * still knows when it was started again. Numbers of cards are in its memory alone, and only while one is read.
 *
 * The cards of its device are invented; a number that is typed may be any with a check digit. What follows is decided by the last
 * four digits, so that every way can be tried.
 */
import { randomUUID } from 'node:crypto';
import { appendFileSync, existsSync, mkdirSync, readFileSync } from 'node:fs';
import { type IncomingMessage, type Server, type ServerResponse, createServer } from 'node:http';
import { join } from 'node:path';
import { z } from 'zod';
import {
  type BatchRow,
  type Card,
  type PaymentAnswer,
  paymentRequest,
  readingRequest,
} from '../core/payments/terminal';

/** What becomes of a card, by its last four digits. */
type Way = 'approved' | 'declined' | 'late' | 'silent' | 'twice';
interface Known extends Pick<Card, 'brand' | 'kind' | 'lastFour'> {
  words: string;
  way: Way;
  reason?: string;
}

/** The cards that lie beside the device. */
export const CARDS: readonly Known[] = [
  { words: 'Credit card', brand: 'Visa', kind: 'credit', lastFour: '1005', way: 'approved' },
  { words: 'Debit card', brand: 'Visa', kind: 'debit', lastFour: '2003', way: 'approved' },
  { words: 'Prepaid card', brand: 'Mastercard', kind: 'prepaid', lastFour: '3001', way: 'approved' },
  { words: 'A card of unknown kind', brand: 'Discover', kind: 'unknown', lastFour: '4009', way: 'approved' },
  {
    words: 'A card without enough on it',
    brand: 'Mastercard',
    kind: 'credit',
    lastFour: '5106',
    way: 'declined',
    reason: 'not enough funds',
  },
  {
    words: 'An expired card',
    brand: 'Visa',
    kind: 'credit',
    lastFour: '6104',
    way: 'declined',
    reason: 'the card has expired',
  },
  { words: 'A card whose answer comes late', brand: 'Visa', kind: 'credit', lastFour: '7102', way: 'late' },
  { words: 'A card whose answer is lost', brand: 'Visa', kind: 'debit', lastFour: '8100', way: 'silent' },
  { words: 'A card that is answered twice', brand: 'Visa', kind: 'credit', lastFour: '9108', way: 'twice' },
];
const USUAL: Known = { words: '', brand: 'Visa', kind: 'credit', lastFour: '', way: 'approved' };
const wayOf = (lastFour: string): Known => CARDS.find((card) => card.lastFour === lastFour) ?? USUAL;

interface Reading {
  key: string;
  entry: 'device' | 'keyed';
  amount: number;
  card: Card | null;
  canceled: boolean;
}
const lineSchema = z.object({
  request: paymentRequest.nullable(),
  key: z.string(),
  day: z.string(),
  state: z.enum(['approved', 'declined']),
  authorization: z.string(),
  reason: z.string(),
  lastFour: z.string(),
  brand: z.string(),
});
type Line = z.output<typeof lineSchema>;

/** How the terminal is set up: where it keeps what it did, how late a late answer is, in milliseconds, and its clock. */
export interface TerminalOptions {
  folder: string;
  late?: number;
  today?: () => string;
}

/** Whether a number has the check digit that numbers of cards have (ISO/IEC 7812-1). */
const hasCheckDigit = (digits: string): boolean =>
  [...digits]
    .reverse()
    .map(Number)
    .reduce((all, digit, at) => all + (at % 2 === 0 ? digit : digit > 4 ? digit * 2 - 9 : digit * 2), 0) %
    10 ===
  0;
/** The brand by the first digits (*common practice, no source*). */
const brandOf = (digits: string): string =>
  digits.startsWith('4') ? 'Visa' : /^(5[1-5]|2[2-7])/.test(digits) ? 'Mastercard' : 'Discover';

/** The terminal's memory and rules. */
function makeTerminal({
  folder,
  late = 12_000,
  today = () => new Date().toISOString().slice(0, 10),
}: TerminalOptions) {
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'payments.jsonl');
  const readings = new Map<string, Reading>();
  const tokens = new Map<string, { brand: string; lastFour: string }>();
  const done = new Map<string, Line>();
  const waiting = new Map<string, Promise<PaymentAnswer>>();
  if (existsSync(file))
    for (const text of readFileSync(file, 'utf8').split('\n').filter(Boolean)) {
      const line = lineSchema.parse(JSON.parse(text));
      done.set(line.key, line);
    }
  const keep = (line: Line): Line => {
    const before = done.get(line.key);
    if (before) return before;
    appendFileSync(file, `${JSON.stringify(line)}\n`);
    done.set(line.key, line);
    return line;
  };
  const answerOf = ({ state, authorization, reason }: Line): PaymentAnswer => ({
    state,
    authorization,
    reason,
  });
  const decide = (request: z.output<typeof paymentRequest>): Line => {
    const of = request.of === null ? null : (done.get(request.of) ?? null);
    const card = tokens.get(request.token) ?? (of && { brand: of.brand, lastFour: of.lastFour });
    const line = (state: Line['state'], more: Partial<Line> = {}): Line =>
      keep({
        request,
        key: request.key,
        day: today(),
        state,
        authorization: '',
        reason: '',
        lastFour: card?.lastFour ?? '0000',
        brand: card?.brand ?? '',
        ...more,
      });
    const approve = (): Line =>
      line('approved', { authorization: String(100_000 + ((done.size * 7919) % 900_000)) });
    if (request.what === 'sale') {
      if (!card) return line('declined', { reason: 'the card is not known: read it again' });
      if (request.amount + request.surcharge <= 0) return line('declined', { reason: 'nothing to charge' });
      const { way, reason } = wayOf(card.lastFour);
      return way === 'declined' ? line('declined', { reason: reason! }) : approve();
    }
    if (!of || of.state !== 'approved' || of.request?.what !== 'sale')
      return line('declined', { reason: 'there is no such charge' });
    const back = [...done.values()].filter(
      (one) => one.state === 'approved' && one.request?.of === request.of,
    );
    if (back.some((one) => one.request?.what === 'void'))
      return line('declined', { reason: 'it was taken back already' });
    if (request.what === 'void') {
      if (of.day !== today()) return line('declined', { reason: 'the day is over: give it back instead' });
      if (back.length > 0) return line('declined', { reason: 'something of it was given back' });
      return approve();
    }
    const given = back.reduce(
      (all, one) => all + (one.request ? one.request.amount + one.request.surcharge : 0),
      0,
    );
    return given + request.amount + request.surcharge > of.request.amount + of.request.surcharge
      ? line('declined', { reason: 'more than was charged' })
      : approve();
  };
  return {
    ask(body: unknown): { key: string; amount: number; entry: string; frame: string } {
      const { key, entry, amount } = readingRequest.parse(body);
      if (!readings.has(key)) readings.set(key, { key, entry, amount, card: null, canceled: false });
      return { key, amount, entry, frame: `/frame/${key}` };
    },
    reading: (key: string) => readings.get(key) ?? null,
    present(key: string, lastFour: string): void {
      const reading = readings.get(key);
      const known = CARDS.find((card) => card.lastFour === lastFour);
      if (!reading || !known || reading.card) return;
      const token = `card-${randomUUID()}`;
      tokens.set(token, known);
      reading.card = { brand: known.brand, kind: known.kind, lastFour, token, entry: 'chip' };
    },
    /** @returns what is wrong with what was typed; empty when it was read */
    type(key: string, number: string, expires: string): string {
      const reading = readings.get(key);
      if (!reading || reading.card) return 'This is over';
      const digits = number.replaceAll(/\D/g, '');
      if (digits.length < 13 || digits.length > 19 || !hasCheckDigit(digits))
        return 'This is no number of a card';
      if (!/^(0[1-9]|1[0-2])\s*\/?\s*\d{2}$/.test(expires.trim())) return 'Expires is written like 04/28';
      const lastFour = digits.slice(-4);
      const token = `card-${randomUUID()}`;
      const known = wayOf(lastFour);
      const brand = brandOf(digits);
      tokens.set(token, { brand, lastFour });
      reading.card = { brand, kind: known.kind, lastFour, token, entry: 'keyed' };
      return '';
    },
    cancel(key: string): void {
      const reading = readings.get(key);
      if (reading && !reading.card) reading.canceled = true;
    },
    /** Charges, gives back or takes back: once by key, however often it is asked. @returns null where nothing is answered */
    async pay(body: unknown): Promise<PaymentAnswer | null> {
      const request = paymentRequest.parse(body);
      const before = done.get(request.key);
      if (before) {
        if (before.request && JSON.stringify(before.request) !== JSON.stringify(request))
          return { state: 'declined', authorization: '', reason: 'this key was used for something else' };
        return answerOf(before);
      }
      const card = tokens.get(request.token);
      const way = request.what === 'sale' && card ? wayOf(card.lastFour).way : 'approved';
      if (way === 'late') {
        const answer =
          waiting.get(request.key) ??
          new Promise<PaymentAnswer>((resolve) => setTimeout(() => resolve(answerOf(decide(request))), late));
        waiting.set(request.key, answer);
        return answer;
      }
      const answer = answerOf(decide(request));
      if (way === 'twice') decide(request);
      return way === 'silent' ? null : answer;
    },
    settle(key: string): PaymentAnswer {
      const known = done.get(key);
      if (known) return answerOf(known);
      if (waiting.has(key)) return { state: 'pending', authorization: '', reason: '' };
      return answerOf(
        keep({
          request: null,
          key,
          day: today(),
          state: 'declined',
          authorization: '',
          reason: 'it never came to the terminal',
          lastFour: '0000',
          brand: '',
        }),
      );
    },
    batch(merchant: string, day: string): BatchRow[] {
      return [...done.values()].flatMap((line) =>
        line.state === 'approved' && line.request?.merchant === merchant && line.day === day
          ? [
              {
                key: line.key,
                what: line.request.what,
                amount: ((line.request.what === 'sale' ? 1 : -1) *
                  (line.request.amount + line.request.surcharge)) as BatchRow['amount'],
                authorization: line.authorization,
                lastFour: line.lastFour,
                brand: line.brand,
              },
            ]
          : [],
      );
    },
  };
}
type Terminal = ReturnType<typeof makeTerminal>;

const escape = (text: string): string =>
  text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('"', '&quot;');

/** What is pressed is sent without leaving the page, so that the desk around it finds its way back as before. */
const SCRIPT = `document.addEventListener('submit', async (event) => {
  event.preventDefault();
  const body = new URLSearchParams(new FormData(event.target, event.submitter));
  const answer = await fetch(location.href, { method: 'POST', body });
  document.body.innerHTML = new DOMParser().parseFromString(await answer.text(), 'text/html').body.innerHTML;
});`;

/** The terminal's own page: what its display and keys show. */
function page(reading: Reading, fault: string, nonce: string): string {
  const amount = (reading.amount / 100).toFixed(2);
  const body = reading.card
    ? `<p role="status">Read: ${escape(reading.card.brand)} ${reading.card.lastFour}. The desk goes on.</p>`
    : reading.canceled
      ? '<p role="status">Canceled.</p>'
      : reading.entry === 'device'
        ? `<form method="post">${CARDS.map(
            (card) =>
              `<button name="card" value="${card.lastFour}">${escape(card.words)}<span>${card.brand} ${card.lastFour}</span></button>`,
          ).join('')}<button name="cancel" value="yes">Cancel</button></form>`
        : `<form method="post" autocomplete="off">${fault ? `<p role="alert">${escape(fault)}</p>` : ''}
           <label>Card number<input name="number" inputmode="numeric" required></label>
           <label>Expires<input name="expires" placeholder="04/28" required></label>
           <label>Security code<input name="code" inputmode="numeric" maxlength="4"></label>
           <button>Read the card</button><button name="cancel" value="yes" formnovalidate>Cancel</button></form>`;
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Card terminal</title>
<style>body{font:14px/1.4 system-ui,sans-serif;margin:12px;color:#23302b;background:#fbfaf6}
form{display:grid;gap:6px;grid-template-columns:1fr 1fr}button,input{font:inherit;padding:6px 8px;text-align:left}
button{border:1px solid #b9c4bd;border-radius:6px;background:#fff}button span{display:block;color:#5c6a63;font-size:12px}
label{display:grid;gap:2px;grid-column:1/-1}input{border:1px solid #b9c4bd;border-radius:6px}[role=alert]{color:#8a2f1d;grid-column:1/-1}</style>
<script nonce="${nonce}">${SCRIPT}</script><body><p>To pay: <strong>${amount}</strong></p>${body}</body></html>`;
}

async function bodyOf(request: IncomingMessage): Promise<string> {
  let text = '';
  for await (const part of request) {
    text += String(part);
    if (text.length > 20_000) throw new Error('too long');
  }
  return text;
}

async function answer(terminal: Terminal, request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://terminal');
  const [, first = '', second = '', third = '', fourth = ''] = url.pathname
    .split('/')
    .map(decodeURIComponent);
  const json = (status: number, body: unknown): void => {
    response.writeHead(status, { 'content-type': 'application/json' });
    response.end(JSON.stringify(body));
  };
  const post = request.method === 'POST';
  if (first === 'frame') {
    const reading = terminal.reading(second);
    if (!reading) return json(404, { error: 'there is no such reading' });
    let fault = '';
    if (post) {
      const form = new URLSearchParams(await bodyOf(request));
      if (form.get('cancel')) terminal.cancel(second);
      else if (reading.entry === 'device') terminal.present(second, form.get('card') ?? '');
      else fault = terminal.type(second, form.get('number') ?? '', form.get('expires') ?? '');
    }
    const nonce = randomUUID();
    response.writeHead(200, {
      'content-type': 'text/html; charset=utf-8',
      'cache-control': 'no-store',
      'content-security-policy': `default-src 'none'; style-src 'unsafe-inline'; script-src 'nonce-${nonce}'; connect-src 'self'; form-action 'self'`,
    });
    return void response.end(page(reading, fault, nonce));
  }
  if (first !== 'v1') return json(404, { error: 'there is nothing here' });
  if (second === 'readings' && post)
    return json(200, { state: 'waiting', card: null, ...terminal.ask(JSON.parse(await bodyOf(request))) });
  if (second === 'readings') {
    const reading = terminal.reading(third);
    if (!reading) return json(404, { error: 'there is no such reading' });
    return json(200, {
      state: reading.card ? 'read' : reading.canceled ? 'canceled' : 'waiting',
      card: reading.card,
    });
  }
  if (second === 'payments' && fourth === 'settle') return json(200, terminal.settle(third));
  if (second === 'payments' && post) {
    const said = await terminal.pay(JSON.parse(await bodyOf(request)));
    // The connection breaks, as one does: what was done is done.
    if (said === null) return void response.destroy();
    return json(200, said);
  }
  if (second === 'batches') return json(200, { rows: terminal.batch(third, fourth) });
  return json(404, { error: 'there is nothing here' });
}

/** Serves a terminal on loopback. @param port 0 for any that is free @returns its address and how to end it */
export async function serveTerminal(
  port: number,
  options: TerminalOptions,
): Promise<{ url: string; stop: () => Promise<void> }> {
  const terminal = makeTerminal(options);
  const server: Server = createServer((request, response) => {
    answer(terminal, request, response).catch((error: unknown) => {
      response.writeHead(400, { 'content-type': 'application/json' });
      response.end(
        JSON.stringify({ error: error instanceof Error ? error.message.slice(0, 300) : 'bad request' }),
      );
    });
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  const address = server.address();
  const own = typeof address === 'object' && address ? address.port : port;
  return {
    url: `http://127.0.0.1:${own}`,
    stop: () =>
      new Promise((resolve) => {
        server.closeAllConnections();
        server.close(() => resolve());
      }),
  };
}
