/** The one command, `./wergeld`. */
import { Stop } from './cluster';
import { withDatabase } from './database';

const HELP = `./wergeld COMMAND

  demo [--fresh]            bring up Wergeld with the Osprey Landing demo on http://127.0.0.1:3400
  start                     serve for production (DATABASE_URL for a PostgreSQL elsewhere, PORT for another port)
  test [core|database|browser]  everything that CI runs, on a database of its own, or one part of it
  claims send               send all claims that are ready
  exchange                  run one round of the folder exchange
  import FILE… [--json]     take in 835, 999, 277CA and TA1 files; post what balances
  export postings|ledger|claims [--format csv|json]
  books check [--json]      prove the invariants of the books
  user EMAIL ROLE NAME      add a user (front-desk, biller, collector, manager); asks for the password
  backup FILE               write the whole database to a file
  restore FILE              read it back into an empty database
  bench                     measure the X12 reader against another
  types                     write src/db/tables.ts from the migrated database
  help                      this list
`;

async function main([command = 'help', ...rest]: string[]): Promise<number> {
  switch (command) {
    case 'demo':
      return (await import('./serve')).demo(rest.includes('--fresh'));
    case 'start':
      return (await import('./serve')).start();
    case 'test':
      return (await import('./test')).test(rest[0]);
    case 'bench':
      return (await import('./bench')).bench();
    case 'claims':
      if (rest[0] !== 'send') throw new Stop('Say: ./wergeld claims send');
      return withDatabase(async () => (await import('./desk')).claimsSend(rest.includes('--json')));
    case 'exchange':
      return withDatabase(async () => (await import('./desk')).exchange(rest.includes('--json')));
    case 'import':
      return withDatabase(async () =>
        (await import('./desk')).importFiles(
          rest.filter((item) => !item.startsWith('--')),
          rest.includes('--json'),
        ),
      );
    case 'export':
      return withDatabase(async () => (await import('./desk')).exportTo(rest));
    case 'books':
      if (rest[0] !== 'check') throw new Stop('Say: ./wergeld books check');
      return withDatabase(async () => (await import('./desk')).booksCheck(rest.includes('--json')));
    case 'user':
      return withDatabase(async () => (await import('./desk')).user(rest));
    case 'types':
      return withDatabase(async () => (await import('./desk')).writeTypes());
    case 'backup':
    case 'restore':
      return withDatabase(async (url) => (await import('./backup'))[command](url, rest[0]), {
        migrate: command === 'backup',
      });
    case 'help':
    case '--help':
    case '-h':
      process.stdout.write(HELP);
      return 0;
    default:
      throw new Stop(`There is no command “${command}”: ./wergeld help lists them`);
  }
}

main(process.argv.slice(2)).then(
  (status) => process.exit(status),
  (error: unknown) => {
    const code = (error as { code?: string }).code;
    if (code === 'ECONNREFUSED' || code === '28P01' || code === '3D000' || code === 'ENOTFOUND') {
      process.stderr.write(
        `The database cannot be reached: ${(error as Error).message || 'connection refused'}. Check DATABASE_URL, or run ./wergeld demo.\n`,
      );
    } else if (error instanceof Stop || (error as Error).name === 'Refused')
      process.stderr.write(`${(error as Error).message}\n`);
    else process.stderr.write(`${(error as Error).stack ?? String(error)}\n`);
    process.exit(1);
  },
);
