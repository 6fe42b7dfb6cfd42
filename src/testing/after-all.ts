/** What Jest does once after the database's tests. */
import { dropTemplate } from './database';

export default async (): Promise<void> => {
  if (process.env.DATABASE_URL) await dropTemplate();
};
