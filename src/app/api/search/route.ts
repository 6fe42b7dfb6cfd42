import { z } from 'zod';
import { parseInput } from '../../../server/input';
import { searchEverything } from '../../../server/search/find';
import { bodyOf, respond } from '../../session';

const asked = z.object({ q: z.string().max(400).default('') });

/** What the search field asks while a person types. What is searched are names: it stands in the body, not in an address. */
export const POST = (request: Request): Promise<Response> =>
  respond(
    request,
    async (context) => {
      const { q } = parseInput(asked, await bodyOf(request));
      return Response.json(await searchEverything(context, q.slice(0, 80)));
    },
    { takes: 'json' },
  );
