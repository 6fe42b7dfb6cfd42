/** The stand-in of a card terminal as a process of its own, started by the demo. */
import { serveTerminal } from '../standins/terminal';

process.umask(0o077);

// Its clock is the desk's: the practice's zone, and in the demo the day on which that begins.
const started = Date.now();
const given = process.env.WERGELD_TODAY;
const begun = given === undefined ? started : Date.parse(`${given.slice(0, 10)}T18:00:00Z`);
const day = new Intl.DateTimeFormat('sv-SE', {
  timeZone: process.env.WERGELD_ZONE ?? 'America/Los_Angeles',
  dateStyle: 'short',
});

serveTerminal(Number(process.env.WERGELD_TERMINAL_PORT ?? 3401), {
  folder: process.env.WERGELD_TERMINAL_FOLDER ?? '.data/terminal',
  today: () => day.format(begun + Date.now() - started),
}).then(
  ({ stop }) => {
    process.on('SIGTERM', () => void stop().then(() => process.exit(0)));
    process.on('SIGINT', () => undefined);
  },
  (error: unknown) => {
    process.stderr.write(`The card terminal could not start: ${String(error)}\n`);
    process.exit(1);
  },
);
