/** The flags of commands; each command knows some of them. */

/** Every flag, as `parseArgs` of Node is told. */
export const FLAGS = {
  json: { type: 'boolean' },
  fresh: { type: 'boolean' },
  format: { type: 'string' },
  set: { type: 'string' },
  amount: { type: 'string' },
  down: { type: 'string' },
  rate: { type: 'string' },
  months: { type: 'string' },
  every: { type: 'string' },
  agreed: { type: 'string' },
  first: { type: 'string' },
  on: { type: 'string' },
  'dry-run': { type: 'boolean' },
  full: { type: 'boolean' },
  workers: { type: 'string' },
  shuffle: { type: 'string' },
} as const;
/** What was given of them, as it was typed. */
export type Flags = {
  [Name in keyof typeof FLAGS]?: (typeof FLAGS)[Name]['type'] extends 'boolean' ? boolean : string;
};
