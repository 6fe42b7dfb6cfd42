import { z } from 'zod';
import { batchInput } from '../../../../core/statements/input';
import { parseInput } from '../../../../server/input';
import { batchPaper } from '../../../../server/statements/batches';
import { download, idOf, respond } from '../../../session';

const { from, to } = batchInput.shape;
const ask = z.object({ from, to, list: z.literal('only').optional() });

/** The papers of a batch in mailing order as one PDF, between two numbers where they are given; or its list alone. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const asked = parseInput(ask, Object.fromEntries(new URL(request.url).searchParams));
    const { name, bytes } = await batchPaper(context, { batchId: await idOf(params), ...asked });
    return download(name, new Uint8Array(bytes));
  });
