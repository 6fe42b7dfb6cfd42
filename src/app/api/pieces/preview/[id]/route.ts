import { previewPages } from '../../../../../server/statements/prepare';
import { download, idOf, respond } from '../../../../session';

/** The pages of a household's statement as it would be handed over today, or of a patient's with an address apart. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  respond(request, async (context) => {
    const { name, bytes } = await previewPages(context, {
      householdId: await idOf(params),
      patientId: new URL(request.url).searchParams.get('patientId'),
    });
    return download(name, new Uint8Array(bytes));
  });
