import { searchEverything } from '../../../server/search/find';
import { respond } from '../../session';

/** What the search field asks while a person types. */
export const GET = (request: Request): Promise<Response> =>
  respond(async (context) =>
    Response.json(
      await searchEverything(context, new URL(request.url).searchParams.get('q')?.slice(0, 80) ?? ''),
    ),
  );
