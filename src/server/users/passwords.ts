/** Passwords: how they are kept, how many are worked on at once, and which are taken. */
import { randomBytes, scrypt, timingSafeEqual } from 'node:crypto';
import { availableParallelism } from 'node:os';
import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { dictionary, adjacencyGraphs } from '@zxcvbn-ts/language-common';

/** So much work is asked of a guesser (OWASP Password Storage Cheat Sheet, scrypt: N 2^17, r 8, p 1). */
const COST = { N: 2 ** 17, r: 8, p: 1, maxmem: 256 * 1024 * 1024 };
const BYTES = 32;

/** Everybody at the door waits longer than anybody should: come again. */
export class Busy extends Error {}

/** What is said to whoever is sent away. */
export const BUSY_WORDS = 'Too many people sign in just now: try again in a moment';

/** Lets so many in at once, and so many more wait; what comes then is sent away at once. */
export class Gate {
  private inside = 0;
  private readonly queue: (() => void)[] = [];

  constructor(
    private readonly most: number,
    private readonly waiting: number,
  ) {}

  /** @throws Busy when too many wait already */
  async run<T>(work: () => Promise<T>): Promise<T> {
    if (this.inside >= this.most) {
      if (this.queue.length >= this.waiting) throw new Busy('Too many at once');
      await new Promise<void>((resolve) => this.queue.push(resolve));
    } else this.inside += 1;
    try {
      return await work();
    } finally {
      const next = this.queue.shift();
      if (next) next();
      else this.inside -= 1;
    }
  }
}

/** One password for every two processors, so that the desk keeps the others. */
const gate = new Gate(Math.max(1, Math.floor(availableParallelism() / 2)), 12);

const derived = (password: string, salt: Buffer): Promise<Buffer> =>
  gate.run(
    () =>
      new Promise((resolve, reject) =>
        scrypt(password.normalize('NFKC'), salt, BYTES, COST, (error, key) =>
          error ? reject(error) : resolve(key),
        ),
      ),
  );

/** What is kept of a password: salt and key, in hexadecimal. @throws Busy */
export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(16);
  return `${salt.toString('hex')}:${(await derived(password, salt)).toString('hex')}`;
}

/** Whether a password is the one of which this was kept. @throws Busy */
export async function isPassword({ hash, password }: { hash: string; password: string }): Promise<boolean> {
  const [salt = '', key = ''] = hash.split(':').map((part) => Buffer.from(part, 'hex'));
  const found = await derived(password, Buffer.from(salt));
  return found.length === key.length && timingSafeEqual(found, Buffer.from(key));
}

/** Shortest and longest password, in characters (NIST SP 800-63B-4, 3.1.1.2: at least 15 where it stands alone). */
export const PASSWORD_LENGTH = { least: 15, most: 128 } as const;
/** What a guesser who knows lists, patterns and repetitions needs fewer tries for, as a power of ten, is not taken. */
const EASY = 10;

let guesser: ZxcvbnFactory | undefined;

/**
 * Why a password is not taken, in words; null when it is. There are no rules of composition: it is long, on no list of common
 * and breached ones, no pattern, and not made of what everybody knows about the person.
 * @param known e-mail and name of the person
 */
export function passwordFault(password: string, known: readonly string[]): string | null {
  const text = password.normalize('NFKC');
  const length = [...text].length;
  if (length < PASSWORD_LENGTH.least)
    return `Too short: ${PASSWORD_LENGTH.least} characters or more. A few words are easy to remember`;
  if (length > PASSWORD_LENGTH.most) return `Too long: ${PASSWORD_LENGTH.most} characters at most`;
  const parts = [...known, 'Wergeld'].flatMap((item) => item.toLowerCase().split(/[^\p{L}\p{N}]+/u));
  const left = parts
    .filter((part) => part.length > 2)
    .reduce((rest, part) => rest.replaceAll(part, ''), text.toLowerCase());
  if ([...left.replace(/[^\p{L}\p{N}]/gu, '')].length < 8)
    return 'It is made of your name, your e-mail or the name of this program: take something else';
  guesser ??= new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });
  return guesser.check(text, parts).guessesLog10 < EASY
    ? 'Too easy to guess: it is on a list of common passwords, or a pattern. A few words that do not belong together are better'
    : null;
}
