/** What became of a piece when it was made. */
export type Made =
  { as: 'made' } | { as: 'out already'; words: string } | { as: 'taken out' | 'changed'; words: string };
