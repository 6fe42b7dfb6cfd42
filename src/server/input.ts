/** Parsing what comes from outside. */
import type { z } from 'zod';
import { FIELD_WORDS } from '../core/words';
import { Refused } from './access';

/** What is wrong with a value of another kind than the one expected. */
function missing(input: unknown, path: readonly PropertyKey[]): string {
  const value = path.reduce<unknown>((inside, key) => (inside as Record<PropertyKey, unknown>)?.[key], input);
  return value === undefined || value === null || value === '' ? 'is missing' : 'is not what belongs there';
}

/** Parses input from outside. @throws Refused with a message for each field that is wrong, the first one first */
export function parseInput<T extends z.ZodType>(schema: T, input: unknown): z.output<T> {
  const result = schema.safeParse(input);
  if (result.success) return result.data;
  const fields: Record<string, string> = {};
  for (const issue of result.error.issues) {
    const field = String(issue.path[0] ?? '');
    const message = issue.code === 'invalid_type' ? missing(input, issue.path) : issue.message;
    // A message that begins with a capital is a sentence of its own.
    fields[field] ??= /^\p{Lu}/u.test(message)
      ? message
      : `${FIELD_WORDS[field] ?? (field || 'The input')} ${message}`;
  }
  const [first = ''] = Object.keys(fields);
  throw new Refused(fields[first]!, first, fields);
}
