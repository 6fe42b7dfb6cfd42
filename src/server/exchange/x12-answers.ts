/** Answers to claims in X12: interchanges with any number of 835, 999 and 277CA sets, and TA1. */
import { readSettings } from '../../core/exchange/connections';
import { read277CA, read999, readTa1 } from '../../core/x12/acknowledgments';
import {
  type Interchange,
  type InterchangeEvent,
  type TransactionSet,
  readInterchanges,
  readSets,
} from '../../core/x12/interchange';
import { X12Error } from '../../core/x12/segments';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { apply277CA, apply999, applyTa1 } from '../claims/door';
import { receiveRemittances } from '../remittances/door';
import { fileText } from '../folders';
import type { FileKind, IncomingFile } from './kind';
import { BrokenFile, type Outcome } from '../outcome';

type ApplySet = (
  tx: Tx,
  context: Context,
  connectionId: number,
  set: TransactionSet,
  name: string,
) => Promise<Outcome>;

/** A guide of X12 by which a set is written: a 277 is one thing by X214 and another by X212. */
interface Guide {
  set: string;
  /** How the implementation begins that the set or its group names (ST03, GS08), whatever its errata are. */
  implementation: string;
  /** What is done with such a set, held in memory as a whole; an 835 streams instead. */
  apply: ApplySet | 'streamed';
}
const GUIDES: readonly Guide[] = [
  { set: '835', implementation: '005010X221', apply: 'streamed' },
  {
    set: '999',
    implementation: '005010X231',
    apply: (tx, context, connectionId, set, name) => apply999(tx, context, connectionId, read999(set), name),
  },
  {
    set: '277',
    implementation: '005010X214',
    apply: (tx, context, connectionId, set, name) =>
      apply277CA(tx, context, connectionId, read277CA(set), name),
  },
];
const STREAMED = '835';

const guideFor = (setId: string, version: string): Guide | undefined =>
  GUIDES.find(({ set, implementation }) => set === setId && version.startsWith(implementation));

/** The guide of a set. @throws X12Error when it answers nothing of ours */
function guideOf({ setId, version, segment }: Extract<InterchangeEvent, { kind: 'set' }>): Guide {
  const at = (element: number) => ({
    interchange: segment.interchange,
    segment: segment.number,
    id: segment.id,
    element,
  });
  const known = GUIDES.filter(({ set }) => set === setId);
  if (known.length === 0)
    throw new X12Error(at(1), `set ${setId} is not an answer to claims: expected 835, 999 or 277`);
  const guide = guideFor(setId, version);
  if (guide) return guide;
  throw new X12Error(
    at(3),
    `set ${setId} is by ${version || 'no guide'}: expected ${known.map(({ implementation }) => implementation).join(' or ')}`,
  );
}

/** Turns what the reader says into what the exchange understands. */
async function asBroken<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    if (error instanceof X12Error) throw new BrokenFile(error.message);
    throw error;
  }
}

/**
 * The connection whose claims an answer is about: the one that it came through; of a file that a person brought, the one
 * that knows the sender by that id.
 * @throws BrokenFile when none does, or more than one
 */
async function connectionOf(
  tx: Tx,
  file: IncomingFile,
  { sender }: Pick<Interchange, 'sender'>,
): Promise<number> {
  if (file.connectionId !== null) return file.connectionId;
  const all = await tx
    .selectFrom('connection')
    .select(['id', 'settings'])
    .where('kind', '=', 'clearinghouse')
    .orderBy('id')
    .execute();
  const known = all.filter(({ settings }) => readSettings('clearinghouse', settings).receiverId === sender);
  if (known.length === 1) return known[0]!.id;
  throw new BrokenFile(
    known.length === 0
      ? `No connection in Setup knows the sender ${sender}: what it answers cannot be told`
      : `${known.length} connections know the sender ${sender}: put the file into the inbox of the one that it came through`,
  );
}

/** Walks the envelopes of the whole file. @returns the kinds of answers in it @throws X12Error */
async function survey(path: string): Promise<Set<string>> {
  const kinds = new Set<string>();
  for await (const events of readInterchanges(fileText(path))) {
    for (const event of events) {
      if (event.kind === 'ta1') kinds.add('TA1');
      if (event.kind !== 'set') continue;
      kinds.add(guideOf(event).set);
    }
  }
  if (kinds.size === 0)
    throw new X12Error(
      { interchange: 1, segment: 2, id: 'IEA' },
      'the file holds no transaction set and no TA1',
    );
  return kinds;
}

/** Answers to claims. It takes any file, and says of one that is no X12 what it expected. */
export const x12Answers: FileKind = {
  connections: ['clearinghouse'],
  recognizes: () => true,
  check: (path) => asBroken(async () => [...(await survey(path))].sort().join('+')),
  apply: (tx, context, file) =>
    asBroken(async () => {
      const kinds = await survey(file.path);
      const outcomes: Outcome[] = [];
      if (kinds.has(STREAMED))
        outcomes.push(...(await receiveRemittances(tx, context, fileText(file.path), file.fileId)));
      if ([...kinds].some((kind) => kind !== STREAMED)) {
        const { sets, ta1, interchanges } = await readSets(fileText(file.path), (id) => id !== STREAMED);
        for (const segment of ta1) {
          const connectionId = await connectionOf(tx, file, interchanges[segment.interchange - 1]!);
          outcomes.push(await applyTa1(tx, context, connectionId, readTa1(segment), file.name));
        }
        for (const set of sets) {
          const connectionId = await connectionOf(tx, file, set.interchange);
          // The whole file was surveyed: every set has its guide.
          const { apply } = guideFor(set.setId, set.version)!;
          if (apply !== 'streamed') outcomes.push(await apply(tx, context, connectionId, set, file.name));
        }
      }
      return outcomes;
    }),
};
