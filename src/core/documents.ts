/** Documents kept whole in the database: each has a version and a schema, and is parsed on reading. */
import { z } from 'zod';

/** A kind of document. */
export interface DocumentKind<T> {
  /** Reads what the database keeps. @throws DocumentFault when it is not such a document */
  read(stored: unknown): T;
  /** Writes a document as the database keeps it: JSON with its version. */
  write(value: T): string;
}

/** What is kept is not the document that it should be. */
export class DocumentFault extends Error {}

const around = z.object({ version: z.int().min(1), value: z.unknown() });

/**
 * Declares a kind of document.
 * @param version of what is written now
 * @param upgrades what makes a document of version n one of version n + 1, by n
 */
export function documentKind<T>(
  name: string,
  version: number,
  schema: z.ZodType<T>,
  upgrades: Readonly<Record<number, (value: unknown) => unknown>> = {},
): DocumentKind<T> {
  return {
    read(stored) {
      const outside = around.safeParse(stored);
      if (!outside.success) throw new DocumentFault(`A ${name} is kept without its version`);
      let { value } = outside.data;
      for (let at = outside.data.version; at !== version; at += 1) {
        const upgrade = upgrades[at];
        if (!upgrade) throw new DocumentFault(`A ${name} of version ${outside.data.version} cannot be read`);
        value = upgrade(value);
      }
      const inside = schema.safeParse(value);
      if (!inside.success) {
        const issue = inside.error.issues[0]!;
        throw new DocumentFault(
          `A kept ${name} is broken at ${issue.path.join('.') || 'its root'}: ${issue.message}`,
        );
      }
      return inside.data;
    },
    write: (value) => JSON.stringify({ version, value }),
  };
}
