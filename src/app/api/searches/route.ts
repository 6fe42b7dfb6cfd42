import { z } from 'zod';
import { allow } from '../../../server/access';
import { parseInput } from '../../../server/input';
import { sealSearch } from '../../../server/lists/sealed';
import { bodyOf, respond } from '../../session';

const asked = z.object({ text: z.string().trim().max(200, 'may have 200 characters') });

/** What is typed into the search field of a list, as it may stand in an address. */
export const POST = (request: Request): Promise<Response> =>
  respond(
    request,
    async (context) => {
      allow(context, 'read accounts');
      return Response.json({ search: sealSearch(parseInput(asked, await bodyOf(request)).text) });
    },
    { takes: 'json' },
  );
