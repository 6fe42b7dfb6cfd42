import { receiptPaper } from '../../../../server/payments/paper';
import { download, idOf, respond } from '../../../session';

/** The receipt of a payment as PDF; `?roll` for the roll of a receipt printer. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const roll = new URL(request.url).searchParams.has('roll');
    const { name, bytes } = await receiptPaper(context, { receiptId: await idOf(params), roll });
    return download(name, new Uint8Array(bytes));
  });
