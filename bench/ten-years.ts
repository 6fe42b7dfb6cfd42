/**
 * What a person waits for, on ten years of a practice with 4000 households and 200 000 charges: milliseconds, the median
 * of five. Each is told beside the same on a hundredth of the data; what walks whole tables grows a hundredfold.
 */
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { readStory } from '../src/server/accounts/ledger';
import { readAccount } from '../src/server/account-page/read';
import { REPORTS } from '../src/server/reports';
import { readList } from '../src/server/lists/read';
import { readContractCheck } from '../src/server/remittances/contract-check';
import { readReason } from '../src/server/remittances/reason-page';
import { searchEverything } from '../src/server/search/find';
import { readToday, readWaiting } from '../src/server/today/read';
import { addDays } from '../src/core/calendar';
import { keepMonths } from '../src/server/books/balances';
import { fill } from './fill';

const READS: Record<string, (t: TestDatabase) => Promise<unknown>> = {
  accounts: (t) => readList(t.context, 'accounts', {}),
  'accounts, searched': (t) => readList(t.context, 'accounts', { search: 'bulk, p17' }),
  'accounts, by last visit': (t) => readList(t.context, 'accounts', { order: '-lastVisit' }),
  claims: (t) => readList(t.context, 'claims', {}),
  'claims, page 20': (t) => readList(t.context, 'claims', { page: '20' }),
  'claims, searched': (t) => readList(t.context, 'claims', { search: 'bulk, p17' }),
  remittances: (t) => readList(t.context, 'remittances', {}),
  'contract check': (t) => readContractCheck(t.context, {}),
  'a reason code': (t) => readReason(t.context, { code: '45' }),
  receipts: (t) => readList(t.context, 'receipts', {}),
  'statements due': (t) => readList(t.context, 'statements-due', {}),
  'an account': (t) => readAccount(t.context, 20),
  'a balance story': (t) => readStory(t.context, 20),
  'what waits': (t) => readWaiting(t.context),
  today: (t) => readToday(t.context),
  ...Object.fromEntries(
    REPORTS.map((report) => [report.name, (t: TestDatabase) => report.read(t.context, {})]),
  ),
  'search field': (t) => searchEverything(t.context, 'p17'),
};

async function measure(households: number, charges: number): Promise<Map<string, number>> {
  const t = await testDatabase();
  try {
    await fill(t, households, charges);
    // As the night before has left it.
    await keepMonths(t.db, addDays(t.context.today, -1));
    const found = new Map<string, number>();
    for (const [name, read] of Object.entries(READS)) {
      const times: number[] = [];
      for (let turn = 0; turn < 5; turn += 1) {
        const start = performance.now();
        await read(t);
        times.push(performance.now() - start);
      }
      found.set(name, times.sort((a, b) => a - b)[2]!);
    }
    return found;
  } finally {
    await t.close();
  }
}

async function main(): Promise<void> {
  const small = await measure(40, 2_000);
  const large = await measure(4_000, 200_000);
  for (const [name, ms] of large)
    console.log(
      `${name.padEnd(26)} ${ms.toFixed(0).padStart(6)} ms   ${(ms / small.get(name)!).toFixed(1).padStart(6)} times a hundredth of the data`,
    );
}

await main();
