import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { Readable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { pipeline } from 'node:stream/promises';
import { allow } from '../../../server/access';
import { takeFile } from '../../../server/exchange/intake';
import { respond } from '../../session';

/** Takes an uploaded answer file: the body is the file, its name stands in the query. Streams, whatever the size. */
export const POST = (request: Request): Promise<Response> =>
  respond(async (context) => {
    allow(context, 'post remittances');
    const folder = await mkdtemp(join(tmpdir(), 'wergeld-'));
    try {
      const path = join(folder, 'upload');
      const body = request.body ? Readable.fromWeb(request.body as NodeStream) : Readable.from([]);
      await pipeline(body, createWriteStream(path));
      const name = basename(new URL(request.url).searchParams.get('name') ?? 'upload').slice(0, 120);
      const intake = await takeFile(context, path, name, null);
      return Response.json(intake, { status: intake.status === 'read' ? 200 : 422 });
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });
