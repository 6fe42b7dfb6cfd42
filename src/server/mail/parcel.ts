/** A parcel for a print shop: one ZIP file with the paper of each piece and an index of them, written as a stream. */
import { type FileHandle, open, rename } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { Zip, ZipPassThrough } from 'fflate';
import Papa from 'papaparse';

/** A piece in a parcel. */
export interface ParcelPiece {
  name: string;
  address: { name: string; line1: string; line2: string; city: string; state: string; zip: string };
  pages: number;
}

const INDEX = ['piece', 'file', 'pages', 'name', 'street', 'street2', 'city', 'state', 'zip'];

/** The index of a parcel, as CSV. */
const indexOf = (pieces: readonly ParcelPiece[]): string =>
  `${Papa.unparse(
    [
      INDEX,
      ...pieces.map(({ name, pages, address: a }) => [
        name,
        `${name}.pdf`,
        pages,
        a.name,
        a.line1,
        a.line2,
        a.city,
        a.state,
        a.zip,
      ]),
    ],
    { newline: '\n' },
  )}\n`;

/** The date in every parcel, so that the same pieces make the same file. */
const ALWAYS = new Date('2000-01-01T00:00:00Z');

/**
 * Writes a parcel so that nobody ever sees half of it. Papers are read one by one.
 * @param paperOf the bytes of a piece's paper
 */
export async function writeParcel(
  path: string,
  pieces: readonly ParcelPiece[],
  paperOf: (piece: ParcelPiece) => Promise<Uint8Array>,
): Promise<void> {
  const part = `${path}.${randomUUID()}.part`;
  const handle: FileHandle = await open(part, 'w', 0o600);
  try {
    const waiting: Uint8Array[] = [];
    const zip = new Zip((error, piece) => {
      if (error) throw error;
      waiting.push(piece);
    });
    const flush = async (): Promise<void> => {
      for (const piece of waiting.splice(0)) await handle.write(piece);
    };
    const put = async (name: string, bytes: Uint8Array): Promise<void> => {
      const file = new ZipPassThrough(name);
      file.mtime = ALWAYS;
      zip.add(file);
      file.push(bytes, true);
      await flush();
    };
    await put('index.csv', new TextEncoder().encode(indexOf(pieces)));
    for (const piece of pieces) await put(`${piece.name}.pdf`, await paperOf(piece));
    zip.end();
    await flush();
    await handle.sync();
  } finally {
    await handle.close();
  }
  await rename(part, path);
}
