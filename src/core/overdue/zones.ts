/** Time zones by state; states that lie in two have both. From memory, after 49 CFR part 71. */

const EAST = 'America/New_York';
const MIDDLE = 'America/Chicago';
const MOUNTAIN = 'America/Denver';
const WEST = 'America/Los_Angeles';

const ZONES: Readonly<Record<string, readonly string[]>> = {
  AK: ['America/Anchorage', 'America/Adak'],
  AL: [MIDDLE],
  AR: [MIDDLE],
  // The Navajo Nation keeps summer time, the rest of the state does not.
  AZ: ['America/Phoenix', MOUNTAIN],
  CA: [WEST],
  CO: [MOUNTAIN],
  CT: [EAST],
  DC: [EAST],
  DE: [EAST],
  FL: [EAST, MIDDLE],
  GA: [EAST],
  GU: ['Pacific/Guam'],
  HI: ['Pacific/Honolulu'],
  IA: [MIDDLE],
  ID: [MOUNTAIN, WEST],
  IL: [MIDDLE],
  IN: [EAST, MIDDLE],
  KS: [MIDDLE, MOUNTAIN],
  KY: [EAST, MIDDLE],
  LA: [MIDDLE],
  MA: [EAST],
  MD: [EAST],
  ME: [EAST],
  MI: [EAST, MIDDLE],
  MN: [MIDDLE],
  MO: [MIDDLE],
  MS: [MIDDLE],
  MT: [MOUNTAIN],
  NC: [EAST],
  ND: [MIDDLE, MOUNTAIN],
  NE: [MIDDLE, MOUNTAIN],
  NH: [EAST],
  NJ: [EAST],
  NM: [MOUNTAIN],
  NV: [WEST, MOUNTAIN],
  NY: [EAST],
  OH: [EAST],
  OK: [MIDDLE],
  OR: [WEST, MOUNTAIN],
  PA: [EAST],
  PR: ['America/Puerto_Rico'],
  RI: [EAST],
  SC: [EAST],
  SD: [MIDDLE, MOUNTAIN],
  TN: [EAST, MIDDLE],
  TX: [MIDDLE, MOUNTAIN],
  UT: [MOUNTAIN],
  VA: [EAST],
  VI: ['America/St_Thomas'],
  VT: [EAST],
  WA: [WEST],
  WI: [MIDDLE],
  WV: [EAST],
  WY: [MOUNTAIN],
};

/** The zones in which an address of a state may lie; none for a state that is not known. */
export const zonesOf = (state: string): readonly string[] => ZONES[state.trim().toUpperCase()] ?? [];
