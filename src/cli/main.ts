/** The one command, `./wergeld`. */
import { worksAlone } from '../db/connect';
import { command, inWords } from './commands';

// What we write is for us alone, whatever the shell says.
process.umask(0o077);
worksAlone();
// Whoever reads our output may stop before its end, as `head` does: that is no fault of ours.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
});
command(process.argv.slice(2)).then(
  (status) => process.exit(status),
  (error: unknown) => {
    process.stderr.write(`${inWords(error)}\n`);
    process.exit(1);
  },
);
