/** Parsing what comes from outside. */
import type { z } from 'zod';
import { FIELD_WORDS } from '../core/words';
import { Refused } from './access';

/** What is wrong with a value of another kind than the one expected. */
function missing(input: unknown, path: readonly PropertyKey[]): string {
  const value = path.reduce<unknown>((inside, key) => (inside as Record<PropertyKey, unknown>)?.[key], input);
  return value === undefined || value === null || value === '' ? 'is missing' : 'is not what belongs there';
}

/** Whose own words the schema gave are kept; what it left to the library is said in ours. */
const plain: z.core.$ZodErrorMap = (issue) => {
  const things = issue.origin === 'string' ? 'characters' : issue.origin === 'array' ? 'entries' : '';
  if (issue.code === 'too_small')
    return things ? `has at least ${issue.minimum} ${things}` : `is more than ${issue.minimum}`;
  if (issue.code === 'too_big')
    return things ? `has at most ${issue.maximum} ${things}` : `is at most ${issue.maximum}`;
  if (issue.code === 'invalid_value' || issue.code === 'invalid_union') return 'is not one of the choices';
  return 'is not what belongs there';
};

/** What a field is called: of one of several rows, the field of that row. */
function wordsOf(path: readonly PropertyKey[]): string {
  const row = path.findLastIndex((key) => typeof key === 'number');
  const name = String((row === -1 ? undefined : path[row + 1]) ?? path[0] ?? '');
  return FIELD_WORDS[name] ?? (name || 'The input');
}

/** Control characters but line breaks and tabs, and those that turn the direction of writing around. */
const UNSEEN = /[\p{Cc}\u202a-\u202e\u2066-\u2069]/u;

/** Whether a text somewhere inside holds a character that nobody sees and that does something. */
const holdsUnseen = (value: unknown): boolean =>
  typeof value === 'string'
    ? UNSEEN.test(value.replace(/[\t\r\n]/g, ''))
    : typeof value === 'object' && value !== null && Object.entries(value).flat().some(holdsUnseen);

/** Parses input from outside. @throws Refused with a message for each field that is wrong, the first one first */
export function parseInput<T extends z.ZodType>(schema: T, input: unknown): z.output<T> {
  const unkept = Object.entries(input ?? {}).find(([, value]) => holdsUnseen(value));
  if (unkept)
    throw new Refused(
      'invalid',
      `${FIELD_WORDS[unkept[0]] ?? unkept[0]} has a character that cannot be kept`,
      unkept[0],
    );
  const result = schema.safeParse(input, { error: plain });
  if (result.success) return result.data;
  const fields: Record<string, string> = {};
  for (const issue of result.error.issues) {
    const field = String(issue.path[0] ?? '');
    const message = issue.code === 'invalid_type' ? missing(input, issue.path) : issue.message;
    // A message that begins with a capital is a sentence of its own.
    fields[field] ??= /^\p{Lu}/u.test(message) ? message : `${wordsOf(issue.path)} ${message}`;
  }
  const [first = ''] = Object.keys(fields);
  throw new Refused('invalid', fields[first]!, { field: first, fields });
}
