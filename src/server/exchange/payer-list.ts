/** A clearinghouse's list of payers: the last one that it delivered is the one that counts. */
import { readFile } from 'node:fs/promises';
import { BrokenPayerList, isPayerList, readPayerList } from '../../core/payers/payer-list';
import { counted } from '../../core/words';
import { checkAgain } from '../setup/changed';
import { BrokenFile } from '../outcome';
import type { FileKind } from './kind';

async function read(path: string) {
  try {
    return readPayerList(await readFile(path, 'utf8'));
  } catch (error) {
    if (error instanceof BrokenPayerList) throw new BrokenFile(error.message);
    throw error;
  }
}

/** Whom a clearinghouse reaches; claims of payers on it are checked again. */
export const payerLists: FileKind = {
  connections: ['clearinghouse'],
  recognizes: isPayerList,
  async check(path) {
    await read(path);
    return 'list of payers';
  },
  async apply(tx, context, file) {
    const payers = await read(file.path);
    const connection = await tx
      .selectFrom('connection')
      .select('id')
      .where('id', '=', file.connectionId)
      .where('kind', '=', 'clearinghouse')
      .executeTakeFirst();
    if (!connection)
      throw new BrokenFile('A list of payers is taken through the inbox of the clearinghouse whose it is');
    await tx.deleteFrom('clearinghouse_payer').where('connection_id', '=', connection.id).execute();
    if (payers.length > 0)
      await tx
        .insertInto('clearinghouse_payer')
        .values(payers.map((payer) => ({ connection_id: connection.id, ...payer })))
        .execute();
    await checkAgain({ ...context, db: tx, note: () => Promise.resolve() });
    return [
      {
        kind: 'list of payers',
        trace: file.name,
        amount: null,
        result: 'posted',
        why: counted(payers.length, 'payer'),
      },
    ];
  },
};
