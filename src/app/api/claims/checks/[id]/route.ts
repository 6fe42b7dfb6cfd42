import { Readable } from 'node:stream';
import { checkFileInput } from '../../../../../core/claims/input';
import { checkFile } from '../../../../../server/claims/check-only';
import { parseInput } from '../../../../../server/input';
import { idOf, respondWithFile, sendFile } from '../../../../session';

/** The file that a check’s ready claims would make. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respondWithFile(request, async (context) => {
    const { connection: connectionId, form } = Object.fromEntries(new URL(request.url).searchParams);
    const { name, text } = await checkFile(
      context,
      await idOf(params),
      parseInput(checkFileInput, { connectionId: Number(connectionId), form }),
    );
    return sendFile({ file: name, body: Readable.from([text]) });
  });
