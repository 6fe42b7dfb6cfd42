/** How PostgreSQL's own programs are told where to connect. */

/** How a program of PostgreSQL is told where to connect: whatever is secret stands in its environment, never in its words. */
export function connection(url: string): { dbname: string; env: NodeJS.ProcessEnv } {
  const plain = new URL(url);
  const password = decodeURIComponent(plain.password);
  plain.password = '';
  return { dbname: plain.toString(), env: { ...process.env, PGPASSWORD: password } };
}
