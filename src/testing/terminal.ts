/** A card terminal for tests: the stand-in on a port of its own, and hands that put a card into it. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readCard, startReading } from '../server/payments/terminal';
import { serveTerminal } from '../standins/terminal';
import type { TestDatabase } from './database';

/** A terminal that runs, and what a test does with it. */
export interface TestTerminal {
  url: string;
  folder: string;
  /** The stand-in is gone, or there again with what it knew. */
  stop(): Promise<void>;
  start(): Promise<void>;
  /** Reads a card by its last four digits. @returns the key of the reading */
  card(lastFour: string, amount?: number): Promise<string>;
}

/** Milliseconds after which a late answer comes, and after which ours no longer waits. */
export const LATE = 700;
const PATIENCE = 250;

/** Starts a terminal for a file of tests, with a merchant account in Setup; ended with the file. */
export function fileTerminal(t: TestDatabase): TestTerminal {
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-terminal-'));
  const given = { url: process.env.WERGELD_TERMINAL, patience: process.env.WERGELD_TERMINAL_PATIENCE };
  let running: Awaited<ReturnType<typeof serveTerminal>> | null = null;
  const terminal: TestTerminal = {
    url: '',
    folder,
    async stop() {
      await running?.stop();
      running = null;
    },
    async start() {
      const port = terminal.url === '' ? 0 : Number(new URL(terminal.url).port);
      running = await serveTerminal(port, { folder, late: LATE, today: () => t.context.today });
      terminal.url = running.url;
      process.env.WERGELD_TERMINAL = running.url;
      process.env.WERGELD_TERMINAL_PATIENCE = String(PATIENCE);
    },
    async card(lastFour, amount = 1000) {
      const key = crypto.randomUUID();
      await startReading(t.context, { key, locationId: null, entry: 'device', amount });
      await fetch(`${terminal.url}/frame/${key}`, {
        method: 'POST',
        body: new URLSearchParams({ card: lastFour }),
      });
      await readCard(t.context, { key, locationId: null });
      return key;
    },
  };
  beforeAll(async () => {
    await terminal.start();
    await t.db
      .insertInto('place')
      .values({ kind: 'clearing', name: 'Cards of the test', merchant: 'TEST-01' })
      .execute();
  });
  afterAll(async () => {
    await terminal.stop();
    rmSync(folder, { recursive: true, force: true });
    process.env.WERGELD_TERMINAL = given.url ?? '';
    process.env.WERGELD_TERMINAL_PATIENCE = given.patience ?? '8000';
  });
  return terminal;
}
