import { LETTER_BYTES } from '../../../../core/accounts/input';
import { Refused } from '../../../../server/access';
import { exhaustCoverage, readLetter } from '../../../../server/accounts/exhausted';
import { download, idOf, respond } from '../../../session';

/** The letter by which nothing is left of a coverage. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await readLetter(context, await idOf(params));
    return download(name, new Uint8Array(bytes));
  });

/** Takes the letter: the body is the file, the day from which nothing is left stands in the query. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(
    request,
    async (context) => {
      const coverageId = await idOf(params);
      if (Number(request.headers.get('content-length') ?? 0) > LETTER_BYTES)
        throw new Refused('limit', `A letter may have ${LETTER_BYTES / 1_000_000} MB`, 'letter');
      const letter = new Uint8Array(await request.arrayBuffer());
      const from = new URL(request.url).searchParams.get('from') ?? '';
      return Response.json(await exhaustCoverage(context, { coverageId, from: from as never, letter }));
    },
    { takes: 'file' },
  );
