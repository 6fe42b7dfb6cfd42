/** What `./wergeld` can do, and what it says when it is asked for something else. */
import { parseArgs } from 'node:util';
import { Stop } from './cluster';
import { upgrade, withDatabase } from './database';
import { FLAGS, type Flags } from './flags';

const HELP = `./wergeld COMMAND

  demo [--fresh]            bring up Wergeld with the Osprey Landing demo on http://127.0.0.1:3400
  start                     serve for production (DATABASE_URL for a PostgreSQL elsewhere, PORT for another port)
  test [checks|core|database|browser|FILE…] [--full] [--workers N] [--shuffle SEED], test open DATABASE
                            everything that CI runs, on a database of its own, or parts of it, or single files; --full
                            runs volumes at their whole size and properties with fresh seeds
  claims build [--json]     build claims of what waits with first payers and what was passed on to next ones
  claims check [--json]     check all claims that could be sent, without a file: what is missing, by what mends it
  claims send [--json]      send all claims that are ready
  limits units|pairs FILE   bring in the units that a day allows (code,units), or services that are not billed together
                            (code,other,unless modifier), as CSV in the place of the table before
  exchange [--json]         run one round of the folder exchange
  import FILE… [--json]     take in 835, 999, 277CA and TA1 files; post what balances
  statements select [--set NAME] [--json]
                            say who gets a statement now and who does not, with the reasons
  statements draft [--set NAME] [--json]
                            prepare drafts of them in a batch
  statements send [--set NAME] [--json]
                            send the batches that have drafts
  statements pdf ACCOUNT FILE
                            write an account’s statement as it would go out today
  estimate FILE [--json]    say what each payer and the patient are expected to pay for the charges of a file
                            (docs/formats/estimate.schema.json), with the steps
  dormancy FILE             bring in how long credit rests by state (state,months,letter days,least,source), as CSV in the place of
                            the table before
  combinations FILE         bring in which reasons and remarks go together (scenario,reason,remark,groups), as CSV in the place of the
                            list before
  visits import FILE [--json]
                            bring in visits to come, as a table (CSV) or a calendar (iCalendar); again it changes what is told otherwise
  remittances key FILE [--json]
                            key a remittance from paper (docs/formats/remittance.schema.json), whole or not at all, and post it
  remittances post [--json]
                            post every remittance that is ready
  charges enter FILE [--json]
                            enter the visits of a file (docs/formats/visits.schema.json), each whole or not at all, and once
  fees compare SCHEDULE SCHEDULE… [--on DATE] [--json]
                            say what differs between two to four fee schedules as they are on a day
  plans quote --amount A --months N [--down A] [--rate R] [--every month|two-weeks|week] [--agreed DATE] [--first DATE] [--json]
                            say what a payment plan would cost
  plans remind [--dry-run] [--json]
                            charge interest that is due, end broken plans, send reminders
  overdue run [--dry-run] [--json]
                            watch promises, prepare the letters that are due and send them
  export postings|ledger|claims|statements|plans|contacts|notes|placements|overdue|payers|insurance-plans|
    shorts|reasons|follow-ups|coverages|limits|cases|charges|estimates|production|fees|rules|receipts|credits|refunds|drawers [--format csv|json]
  books check [--json]      prove the invariants of the books
  users                     list who may sign in
  user add EMAIL ROLE NAME  add a user (front-desk, biller, collector, manager); asks for the password
  user role EMAIL ROLE | disable EMAIL | enable EMAIL | reset EMAIL | factor-off EMAIL REASON
                            change what a user may do; reset prints a link with which they set a password
  backup FILE               write the whole database to a file, encrypted to a passphrase that is asked for, or to the
                            age key in WERGELD_BACKUP_RECIPIENT
  restore FILE              read it back into an empty database (WERGELD_BACKUP_IDENTITY names the file of the key)
  bench [pages|evening|claims|statements|overdue|estimate|visit|fees|credits]
                            measure the X12 reader against another, and the desk on ten years of data; or what a
                            person waits for in the browser; or ten thousand claims from building to posting; or checking
                            them, and building those to next payers; or
                            five thousand statements to PDF and choosing among fifty thousand households
  migrate [--dry-run] [--json]
                            bring the database up to date; or say what that would do, and change nothing
  types                     write src/db/tables.ts from the migrated database, docs/claim-rules.md from the rules and the
                            schemas of estimates, visits and keyed remittances
  help                      this list
`;

/** What a command takes after its name, and what it does. */
interface Command {
  /** Flags it knows; any other is refused. */
  flags?: (keyof Flags)[];
  /** Words it takes, written as in the help; without it none. */
  words?: string;
  run: (words: string[], flags: Flags) => Promise<number>;
}

const desk = () => import('./desk');

const COMMANDS: Record<string, Command> = {
  demo: { flags: ['fresh'], run: async (_, { fresh }) => (await import('./serve')).demo(fresh === true) },
  start: { run: async () => (await import('./serve')).start() },
  test: {
    flags: ['full', 'workers', 'shuffle'],
    words: '[checks|core|database|browser|FILE…], or open DATABASE',
    run: async (words, flags) => (await import('./test')).test(words, flags),
  },
  bench: {
    words: '[pages|evening|statements]',
    run: async ([part]) => (await import('./bench')).bench(part),
  },
  'claims send': {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await import('./claims')).claimsSend(json)),
  },
  'claims build': {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await import('./claims')).claimsBuild(json)),
  },
  'claims check': {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await import('./claims')).claimsCheck(json)),
  },
  'visits import': {
    flags: ['json'],
    words: 'FILE',
    run: ([file], { json }) => withDatabase(async () => (await import('./visits')).visitsImport(file!, json)),
  },
  'remittances key': {
    flags: ['json'],
    words: 'FILE',
    run: ([file], { json }) =>
      withDatabase(async () => (await import('./remittances')).remittancesKey(file!, json)),
  },
  'remittances post': {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await import('./remittances')).remittancesPost(json)),
  },
  dormancy: {
    words: 'FILE',
    run: ([file]) => withDatabase(async () => (await import('./visits')).bringRests(file!)),
  },
  combinations: {
    words: 'FILE',
    run: ([file]) => withDatabase(async () => (await import('./remittances')).combinations(file!)),
  },
  limits: {
    words: 'units|pairs FILE',
    run: ([which, file]) => withDatabase(async () => (await import('./claims')).limits(which, file)),
  },
  exchange: {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await desk()).exchange(json)),
  },
  import: {
    flags: ['json'],
    words: 'FILE…',
    run: (files, { json }) => withDatabase(async () => (await desk()).importFiles(files, json)),
  },
  'statements select': {
    flags: ['set', 'json'],
    run: (_, { set, json }) => withDatabase(async () => (await desk()).statementsSelect(set, json)),
  },
  'statements draft': {
    flags: ['set', 'json'],
    run: (_, { set, json }) => withDatabase(async () => (await desk()).statementsDraft(set, json)),
  },
  'statements send': {
    flags: ['set', 'json'],
    run: (_, { set, json }) => withDatabase(async () => (await desk()).statementsSend(set, json)),
  },
  estimate: {
    flags: ['json'],
    words: 'FILE',
    run: async ([file], { json }) => (await import('./estimate')).estimateFile(file!, json),
  },
  'charges enter': {
    flags: ['json'],
    words: 'FILE',
    run: ([file], { json }) =>
      withDatabase(async () => (await import('./charges')).chargesEnter(file!, json)),
  },
  'fees compare': {
    flags: ['on', 'json'],
    words: 'SCHEDULE SCHEDULE…',
    run: (names, { on, json }) =>
      withDatabase(async () => (await import('./fees')).feesCompare(names, on, json)),
  },
  'plans quote': {
    flags: ['amount', 'down', 'rate', 'months', 'every', 'agreed', 'first', 'json'],
    run: async (_, flags) => (await import('./plans')).plansQuote(flags),
  },
  'plans remind': {
    flags: ['dry-run', 'json'],
    run: (_, { 'dry-run': dry, json }) =>
      withDatabase(async () => (await import('./plans')).plansRemind(dry, json)),
  },
  'statements pdf': {
    words: 'ACCOUNT FILE',
    run: ([account, file]) => withDatabase(async () => (await desk()).statementsPdf(account, file)),
  },
  migrate: {
    flags: ['dry-run', 'json'],
    run: (_, flags) => withDatabase((database) => upgrade(database, flags), { migrate: false }),
  },
  'overdue run': {
    flags: ['dry-run', 'json'],
    run: (_, { 'dry-run': dry, json }) =>
      withDatabase(async () => (await import('./overdue')).overdueRun(dry, json)),
  },
  export: {
    flags: ['format'],
    words: 'postings|ledger|claims|statements',
    run: ([what], { format }) => withDatabase(async () => (await desk()).exportTo(what, format)),
  },
  'books check': {
    flags: ['json'],
    run: (_, { json }) => withDatabase(async () => (await desk()).booksCheck(json)),
  },
  users: { run: () => withDatabase(async () => (await import('./users')).users()) },
  user: {
    words: 'add|role|disable|enable|reset|factor-off EMAIL …',
    run: (words) => withDatabase(async () => (await import('./users')).user(words)),
  },
  types: {
    run: () => withDatabase(async (database) => (await desk()).writeTypes(database.owner())),
  },
  backup: {
    words: 'FILE',
    run: ([file]) => withDatabase(async (database) => (await import('./backup')).backup(database, file)),
  },
  restore: {
    words: 'FILE',
    run: ([file]) =>
      withDatabase(async (database) => (await import('./backup')).restore(database, file), {
        migrate: false,
      }),
  },
  help: {
    run: async () => {
      process.stdout.write(HELP);
      return 0;
    },
  },
};

/** Does what a command line asks for. @returns the status to end with @throws Stop with what to say */
export async function command(given: string[]): Promise<number> {
  if (given.length === 0 || given[0] === '--help' || given[0] === '-h') given = ['help'];
  const two = given.slice(0, 2).join(' ');
  const name = COMMANDS[two] ? two : given[0]!;
  const asked = Object.hasOwn(COMMANDS, name) ? COMMANDS[name] : undefined;
  if (!asked) {
    const longer = Object.keys(COMMANDS).find((known) => known.startsWith(`${name} `));
    throw new Stop(
      longer ? `Say: ./wergeld ${longer}` : `There is no command “${name}”: ./wergeld help lists them`,
    );
  }
  const known = Object.fromEntries((asked.flags ?? []).map((flag) => [flag, FLAGS[flag]]));
  const say = `Say: ./wergeld ${[name, asked.words, ...(asked.flags ?? []).map((flag) => `[--${flag}]`)].filter(Boolean).join(' ')}`;
  let parsed;
  try {
    parsed = parseArgs({ args: given.slice(name.split(' ').length), options: known, allowPositionals: true });
  } catch (error) {
    throw new Stop(`${(error as Error).message.split('. ')[0]}. ${say}`);
  }
  const { positionals, values } = parsed;
  if (positionals.length > 0 && !asked.words)
    throw new Stop(`“${positionals[0]}” is one word too many. ${say}`);
  return asked.run(positionals, values);
}

/** What is said of an error, for who called; an error that nobody expected is told whole. */
export function inWords(error: unknown): string {
  const { code, message, name, stack } = error as Error & { code?: string };
  if (code === 'ECONNREFUSED' || code === '28P01' || code === '3D000' || code === 'ENOTFOUND')
    return `The database cannot be reached: ${message || 'connection refused'}. Check DATABASE_URL, or run ./wergeld demo.`;
  return error instanceof Stop || name === 'Refused' || name === 'ForeignDatabase'
    ? message
    : (stack ?? String(error));
}
