import { auth } from '../../../../server/sign-in';

/** Sign-in, sign-out and session, by better-auth. */
const handle = (request: Request): Promise<Response> => auth().handler(request);
export { handle as GET, handle as POST };
