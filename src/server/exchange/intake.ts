/** Taking in one answer file: recognised, checked whole, applied in one transaction, recorded with its result. */
import { sql } from 'kysely';
import { readEnvelopes, readSets } from '../../core/x12/envelope';
import { read277CA, read999, readTa1 } from '../../core/x12/acknowledgments';
import { X12Error } from '../../core/x12/segments';
import { type Context, allow, audit } from '../access';
import { type Outcome, apply277CA, apply999, applyTa1 } from '../claims/answers';
import { receiveRemittances } from '../remittances/receive';
import { fileText, fingerprint } from './folders';

/** What became of a file. */
export interface Intake {
  status: 'read' | 'set aside' | 'duplicate';
  kind: string;
  outcomes: Outcome[];
}

const ANSWERS = new Set(['835', '999', '277']);

/**
 * Takes in a file. The same file (by its hash) is taken once; a broken one changes nothing and says where it is broken.
 * @param path where the file lies
 */
export async function takeFile(
  context: Context,
  path: string,
  name: string,
  connectionId: number | null,
): Promise<Intake> {
  allow(context, 'post remittances');
  const { sha256, bytes } = await fingerprint(path);
  const record = { connection_id: connectionId, direction: 'in', name, sha256, bytes };
  try {
    const kinds = await survey(path);
    const kind = [...kinds].sort().join('+');
    return await context.db.transaction().execute(async (tx) => {
      const file = await tx
        .insertInto('exchange_file')
        .values({ ...record, kind, status: 'read' })
        .onConflict((conflict) =>
          conflict
            .columns(['direction', 'sha256'])
            .where(sql<boolean>`status in ('read', 'written')`)
            .doNothing(),
        )
        .returning('id')
        .executeTakeFirst();
      if (!file) {
        const before = await tx
          .selectFrom('exchange_file')
          .select(['name', 'at'])
          .where('direction', '=', 'in')
          .where('sha256', '=', sha256)
          .where('status', '=', 'read')
          .executeTakeFirst();
        const why = `the same file was read before, as ${before?.name ?? name}`;
        await tx
          .insertInto('exchange_file')
          .values({ ...record, kind, status: 'duplicate', result: why })
          .execute();
        return {
          status: 'duplicate' as const,
          kind,
          outcomes: [{ kind, trace: name, amount: null, result: 'refused' as const, why }],
        };
      }
      const outcomes: Outcome[] = [];
      if (kinds.has('835'))
        outcomes.push(...(await receiveRemittances(tx, context, fileText(path), file.id)));
      if (kinds.has('999') || kinds.has('277') || kinds.has('TA1')) {
        const { sets, ta1 } = await readSets(fileText(path), (id) => id !== '835');
        for (const segment of ta1)
          outcomes.push(await applyTa1(tx, context, connectionId, readTa1(segment), name));
        for (const set of sets) {
          if (set.setId === '999')
            outcomes.push(await apply999(tx, context, connectionId, read999(set), name));
          else outcomes.push(await apply277CA(tx, context, read277CA(set), name));
        }
      }
      const result = outcomes
        .map((item) => `${item.kind} ${item.trace}: ${item.why}`)
        .join('\n')
        .slice(0, 4000);
      await tx.updateTable('exchange_file').set({ result }).where('id', '=', file.id).execute();
      await audit(tx, context, 'read file', { kind: 'exchange file', id: file.id }, { kind });
      return { status: 'read' as const, kind, outcomes };
    });
  } catch (error) {
    if (!(error instanceof X12Error)) throw error;
    await context.db
      .insertInto('exchange_file')
      .values({ ...record, kind: 'unknown', status: 'set aside', result: error.message })
      .execute();
    return {
      status: 'set aside',
      kind: 'unknown',
      outcomes: [{ kind: 'file', trace: name, amount: null, result: 'refused', why: error.message }],
    };
  }
}

/** Walks the envelopes of the whole file before anything is applied. @returns the kinds of answers in it */
async function survey(path: string): Promise<Set<string>> {
  const kinds = new Set<string>();
  for await (const events of readEnvelopes(fileText(path))) {
    for (const event of events) {
      if (event.kind === 'ta1') kinds.add('TA1');
      if (event.kind !== 'set') continue;
      if (!ANSWERS.has(event.setId)) {
        const { interchange, number, id } = event.segment;
        throw new X12Error(
          { interchange, segment: number, id, element: 1 },
          `set ${event.setId} is not an answer to claims: expected 835, 999 or 277`,
        );
      }
      kinds.add(event.setId);
    }
  }
  if (kinds.size === 0)
    throw new X12Error(
      { interchange: 1, segment: 2, id: 'IEA' },
      'the file holds no transaction set and no TA1',
    );
  return kinds;
}
