/** How much is tried: a part of it with each change, all of it at night. */

/** Whether volumes are tried at their whole size, and properties with fresh seeds: `./wergeld test --full`. */
export const FULL = process.env.WERGELD_FULL === '1';

/** How often a property is tried: a quarter of its runs where not all is tried. */
export const runs = (all: number): number => (FULL ? all : Math.ceil(all / 4));

/** What goes for every property: the same cases each time where not all is tried, so that a failure is the change's. */
export const PROPERTIES: { numRuns: number; seed?: number } = FULL
  ? { numRuns: 100 }
  : { numRuns: runs(100), seed: 20260316 };
