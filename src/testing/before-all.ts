/** What Jest does once before the database's tests; without a server each test says for itself what is missing. */
import { makeTemplate } from './database';

export default async (): Promise<void> => {
  if (process.env.DATABASE_URL) await makeTemplate();
};
