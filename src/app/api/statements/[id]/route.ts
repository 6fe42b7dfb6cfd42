import { statementPdf } from '../../../../server/statements/pdf';
import { readStatement } from '../../../../server/statements/read';
import { download, respond } from '../../../session';

/** A statement as PDF. */
export const GET = (_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(async (context) => {
    const statement = await readStatement(context, Number((await params).id) || 0);
    const file = `statement-${statement.account}-${statement.date}.pdf`;
    return download(file, new Uint8Array(await statementPdf(statement)));
  });
