import { depositPaper } from '../../../../server/payments/paper';
import { download, idOf, respond } from '../../../session';

/** The slip of a deposit as PDF. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await depositPaper(context, { depositId: await idOf(params) });
    return download(name, new Uint8Array(bytes));
  });
