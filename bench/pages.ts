/**
 * What a person waits for in the browser, on the demo: the server's answer for each station once the processes have been asked
 * as often as on a day, going from one to the next, opening an account, a press until the page says what came of it, the bytes of
 * script. Milliseconds, the median; answers are told beside the desk's own page with nothing on it but the person's sign-in.
 * Ends with status 1 where the claims or an account take more than twice that page, or a station more than 200 ms.
 */
import { type Page, chromium } from '@playwright/test';

const base = process.env.WERGELD_BENCH_URL;
if (!base) throw new Error('WERGELD_BENCH_URL is not set: run it with ./wergeld bench pages');

const STATIONS = [
  '/',
  '/accounts',
  '/claims?view=all',
  '/remittances?view=all',
  '/payments',
  '/statements',
  '/books',
  '/setup/fees',
];
const RUNS = 7;
/** So often is a page asked for before it is measured: by then the database has planned its queries for good. */
const WARM = 90;
const EMPTY = '/you';
const MOST = { times: 2, of: ['/claims?view=all', '/accounts/2'], station: 200 };
let missed = false;

const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;
const print = (words: string, value: number, beside?: number): void => {
  const ratio = beside === undefined ? '' : `${(value / beside).toFixed(1)} x the empty page`;
  process.stdout.write(`${words.padEnd(44)} ${String(Math.round(value)).padStart(8)}   ${ratio}\n`);
};
async function repeated(measure: () => Promise<number>): Promise<number> {
  const found: number[] = [];
  for (let run = 0; run < RUNS; run += 1) found.push(await measure());
  return median(found.slice(1));
}

/** How long the server takes to answer whole, past the browser. */
async function answer(cookie: string, path: string): Promise<number> {
  const found: number[] = [];
  for (let run = 0; run < WARM + 4 * RUNS; run += 1) {
    const started = performance.now();
    const response = await fetch(base + path, { headers: { cookie }, redirect: 'manual' });
    await response.text();
    found.push(performance.now() - started);
  }
  return median(found.slice(WARM));
}

/** Does something in the page, and waits until what it brings is painted; both are text, for they run in the page. */
const painted = (page: Page, does: string, until: string): Promise<number> =>
  page.evaluate(`new Promise((resolve) => {
    const started = performance.now();
    const look = () => {
      if (!(${until})) return void requestAnimationFrame(look);
      requestAnimationFrame(() => setTimeout(() => resolve(performance.now() - started)));
    };
    ${does};
    look();
  })`);

const heading = (words: string): string =>
  `document.querySelector('main h1')?.textContent?.startsWith('${words}') === true`;
const press = (key: string): string =>
  `(document.activeElement ?? document.body).dispatchEvent(new KeyboardEvent('keydown', { key: '${key}', code: '${key}', bubbles: true, cancelable: true }))`;
const goTo = (path: string): string => `document.querySelector('nav a[href^="${path}"]').click()`;

/** Bytes of script that a page loads into an empty cache. */
async function scriptBytes(page: Page, path: string): Promise<number> {
  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  await session.send('Network.clearBrowserCache');
  let bytes = 0;
  const scripts = new Set<string>();
  session.on(
    'Network.responseReceived',
    (event) => void (event.type === 'Script' && scripts.add(event.requestId)),
  );
  session.on('Network.loadingFinished', (event) => {
    if (scripts.has(event.requestId)) bytes += event.encodedDataLength;
  });
  await page.goto(base + path);
  await page.waitForLoadState('networkidle');
  await session.detach();
  return bytes;
}

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium-headless-shell',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
try {
  const context = await browser.newContext({ baseURL: base, viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.waitForLoadState('networkidle');
  await page.getByLabel('E-mail').fill('manager@example.com');
  await page.getByLabel('Password').fill('osprey-landing');
  await page.keyboard.press('Enter');
  await page.waitForURL(`${base}/`);
  const cookie = (await context.cookies()).map(({ name, value }) => `${name}=${value}`).join('; ');

  process.stdout.write('The server’s answer, ms\n');
  // Nothing else is asked meanwhile.
  await page.goto('about:blank');
  const empty = await answer(cookie, EMPTY);
  print('  sign-in', await answer('', '/sign-in'), empty);
  print(`  ${EMPTY}, as good as empty`, empty);
  for (const path of [...STATIONS, '/accounts/2']) {
    const took = await answer(cookie, path);
    print(`  ${path}`, took, empty);
    // A tenth is the noise of the measurement.
    if (MOST.of.includes(path) && took > 1.1 * MOST.times * empty) missed = true;
  }

  process.stdout.write('From station to station until it is painted, ms\n');
  for (const [path, words] of [
    ['/accounts', 'Accounts'],
    ['/claims', 'Claims'],
    ['/remittances', 'Remittances'],
    ['/payments', 'Payments'],
    ['/statements', 'Statements'],
  ] as const) {
    const took = await repeated(async () => {
      await page.goto('/');
      await page.waitForLoadState('networkidle');
      return painted(page, goTo(path), heading(words));
    });
    print(`  Today to ${words}`, took);
    if (took > MOST.station) missed = true;
  }
  print(
    '  Accounts to one account (↓, Enter)',
    await repeated(async () => {
      await page.goto('/accounts');
      await page.waitForLoadState('networkidle');
      await page.keyboard.press('ArrowDown');
      await page.waitForTimeout(500);
      return painted(page, press('Enter'), heading('Achterberg'));
    }),
  );
  print(
    '  a key in a list of claims (↓)',
    await repeated(async () => {
      await page.goto('/claims?view=all');
      await page.waitForLoadState('networkidle');
      await page.keyboard.press('ArrowDown');
      const mark = `[...document.querySelectorAll('tbody tr[data-index]')].findIndex((row) => /cursor/.test(row.className))`;
      return painted(page, press('ArrowDown'), `${mark} === 2`);
    }),
  );

  process.stdout.write('Bytes of script in an empty cache, packed\n');
  const bare = await scriptBytes(page, '/sign-in');
  print('  sign-in', bare);
  for (const path of ['/', '/accounts', '/claims?view=all', '/accounts/2', '/setup/fees'])
    print(`  ${path}`, await scriptBytes(page, path), bare);
} finally {
  await browser.close();
}
if (missed) {
  process.stdout.write('Longer than it should be.\n');
  process.exitCode = 1;
}
