/** Sizes of paper that documents are printed on, with what they are called. */
export const PAPERS = { LETTER: 'US letter', A4: 'A4' } as const;
/** A size of paper. */
export type PaperSize = keyof typeof PAPERS;
/** All of them, as a form offers them. */
export const PAPER_SIZES = Object.keys(PAPERS) as [PaperSize, ...PaperSize[]];
