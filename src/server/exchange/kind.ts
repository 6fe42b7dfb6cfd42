/** What a kind of file that comes in is. */
import type { ConnectionKind } from '../../core/exchange/connections';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import type { Outcome } from '../outcome';

/** A file that is being taken in. */
export interface IncomingFile {
  path: string;
  name: string;
  /** The connection whose inbox it came through; null when a person brought it in. */
  connectionId: number | null;
  /** Its row. */
  fileId: number;
}

/** A kind of file: recognized by how it begins, checked whole before anything is changed, applied once. */
export interface FileKind {
  /** Connections that bring such files. */
  connections: readonly ConnectionKind[];
  /** Whether a file is of this kind. @param head its first few hundred characters */
  recognizes(head: string): boolean;
  /** Reads the whole file and changes nothing. @returns what is in it, in words @throws BrokenFile */
  check(path: string): Promise<string>;
  /** Applies it, in the transaction given. @throws BrokenFile */
  apply(tx: Tx, context: Context, file: IncomingFile): Promise<Outcome[]>;
}
