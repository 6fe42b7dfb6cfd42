import { readStatement } from '../../../../server/statements/prepare';
import { statementPdf } from '../../../../server/statements/pdf';
import { respond } from '../../../session';

/** A statement as PDF. */
export const GET = (_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(async (context) => {
    const statement = await readStatement(context, Number((await params).id) || 0);
    const body = new Uint8Array(await statementPdf(statement));
    return new Response(body, {
      headers: {
        'content-type': 'application/pdf',
        'content-disposition': `inline; filename="statement-${statement.account}-${statement.date}.pdf"`,
        'cache-control': 'private, no-store',
      },
    });
  });
