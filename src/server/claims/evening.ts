/** The evening: claims are built by themselves, and sent where the payer is to have them the same day. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { eveningInput } from '../../core/claims/input';
import { documentKind } from '../../core/documents';
import { counted } from '../../core/words';
import type { Db } from '../../db/connect';
import type { WorkKind } from '../jobs/kind';
import { buildClaims, toBuildInTheEvening } from './build';
import { MAX_CLAIMS, sendClaims } from './send';

const STEPS = {
  first: 'To first payers',
  next: 'To next payers',
  send: 'Sending what goes the same day',
} as const;

/** Claims that are ready and go in the evening, by their ids. */
async function readyToGo(db: Db): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select m.id
    from claim m
      join payer y on y.id = m.payer_id
    where m.status = 'ready' and y.new_claims = 'sent' and y.accepts = 'electronic' and y.connection_id is not null
    order by m.id
    limit ${MAX_CLAIMS}`.execute(db);
  return rows.map(({ id }) => id);
}

/** Builds what waits with first payers and what was passed on to next ones, and sends what is to go. */
export const eveningClaims: WorkKind<z.output<typeof eveningInput>> = {
  expireSeconds: 6 * 3600,
  input: eveningInput,
  document: documentKind('order for the evening', 1, eveningInput),
  title: () => 'Claims of the evening',
  async items({ db }) {
    const sizes = await toBuildInTheEvening(db);
    return (['first', 'next', 'send'] as const).map((step) => ({
      subject: step,
      words: STEPS[step],
      size: step === 'send' ? 1 : sizes[step],
    }));
  },
  async one(context, subject) {
    if (subject === 'send') {
      let sent = 0;
      for (let ids = await readyToGo(context.db); ids.length > 0; ids = await readyToGo(context.db)) {
        const files = await sendClaims(context, { claimIds: ids, ready: true });
        const claims = files.reduce((all, file) => all + file.claims, 0);
        sent += claims;
        // What has got a stop is a draft now; where nothing went there is nothing to go on with.
        if (claims === 0) break;
      }
      return sent === 0 ? 'nothing to send' : `${counted(sent, 'claim')} sent`;
    }
    const which = subject === 'next' ? 'next' : 'first';
    let built = 0;
    for (let ids = await buildClaims(context, { which, evening: true }); ids.length > 0;) {
      built += ids.length;
      ids = await buildClaims(context, { which, evening: true });
    }
    return built === 0 ? 'nothing to build' : `${counted(built, 'claim')} built`;
  },
};
