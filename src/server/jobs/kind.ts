/** What a kind of background work is. */
import type { z } from 'zod';
import type { DocumentKind } from '../../core/documents';
import type { Context } from '../access';
import type { Act } from '../use-case';

/** One item of a piece of work. */
export interface WorkItem {
  /** What it is about, as the kind understands it, such as an id. */
  subject: string;
  /** What a person reads. */
  words: string;
  /** How much there is to do, in what the work counts, such as claims. */
  size: number;
}

/** What an item tells of itself while it is done: how far it is. The answer is whether to go on. */
export type Progress = (done: number) => Promise<boolean>;

/** A kind of background work: its input, its items, how one item is done, and its result in words. */
export interface WorkKind<Input> {
  /** How long an item may take, in seconds, before the queue gives it to somebody else. */
  expireSeconds: number;
  input: z.ZodType<Input>;
  document: DocumentKind<Input>;
  /** What a person reads of the whole. */
  title(items: readonly WorkItem[]): string;
  /** What there is to do, read in the transaction that starts the work; none means there is nothing to start. */
  items(act: Act, input: Input): Promise<WorkItem[]>;
  /**
   * Does one item of the work that was asked for. Done twice, at once or after a kill, it does nothing more.
   * @returns its result in words, null when it was told to stop
   * @throws Refused with words for the item's result
   */
  one(context: Context, subject: string, progress: Progress, input: Input): Promise<string | null>;
}
