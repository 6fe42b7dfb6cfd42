/** What became of a piece when it was made. */
export type Made =
  /** `pieceId` where it is a piece anew. */
  | { as: 'made'; pieceId?: number }
  | { as: 'out already'; words: string }
  | { as: 'taken out' | 'changed'; words: string };
