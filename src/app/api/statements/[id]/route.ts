import { statementPdf } from '../../../../server/statements/pdf';
import { readStatement } from '../../../../server/statements/read';
import { download, idOf, respond } from '../../../session';

/** A statement as PDF. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const statement = await readStatement(context, await idOf(params));
    const file = `statement-${statement.account}-${statement.date}.pdf`;
    return download(file, new Uint8Array(await statementPdf(statement)));
  });
