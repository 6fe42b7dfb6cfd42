import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { Readable, Transform } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { pipeline } from 'node:stream/promises';
import { Refused, allow } from '../../../server/access';
import { takeFile } from '../../../server/exchange/intake';
import { respond } from '../../session';

/** What may come in one upload. A year of a large practice's remittances is a tenth of it. */
const UPLOAD_BYTES = 200_000_000;

/** Takes an uploaded answer file: the body is the file, its name stands in the query. Streams, whatever the size. */
export const POST = (request: Request): Promise<Response> =>
  respond(
    request,
    async (context) => {
      allow(context, 'post remittances');
      const folder = await mkdtemp(join(tmpdir(), 'wergeld-'));
      try {
        const path = join(folder, 'upload');
        const body = request.body ? Readable.fromWeb(request.body as NodeStream) : Readable.from([]);
        await pipeline(body, atMost(UPLOAD_BYTES), createWriteStream(path, { mode: 0o600 }));
        const name = basename(new URL(request.url).searchParams.get('name') ?? 'upload').slice(0, 120);
        const intake = await takeFile(context, path, name, null);
        return Response.json(intake, { status: intake.status === 'read' ? 200 : 422 });
      } finally {
        await rm(folder, { recursive: true, force: true });
      }
    },
    { takes: 'file' },
  );

/** Lets so many bytes through. @throws Refused at the first one more */
function atMost(bytes: number): Transform {
  let seen = 0;
  return new Transform({
    transform(piece: Buffer, _encoding, done) {
      seen += piece.length;
      if (seen > bytes)
        done(
          new Refused('state', `A file may have ${bytes / 1_000_000} MB: split it, or use ./wergeld import`),
        );
      else done(null, piece);
    },
  });
}
