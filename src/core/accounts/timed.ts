/**
 * Units of services that are billed by the time they take. Medicare counts the minutes of all timed services of a discipline on a day
 * together (Medicare Claims Processing Manual, chapter 5, 20.2: 8 through 22 minutes are 1 unit, 23 through 37 are 2, …); others
 * count each service by itself, from more than half of a unit on (common practice, no source).
 */

/** How a plan counts units of timed services. */
export const TIMED_UNITS = {
  total: 'by the minutes of the day together',
  each: 'each service by itself',
} as const;
/** How a plan counts units of timed services. */
export type TimedUnits = keyof typeof TIMED_UNITS;

/** A timed service: how long it took, of which discipline, how many minutes make a unit, and what it counts already. */
export interface Timed {
  minutes: number;
  discipline: string;
  /** Minutes of one unit, such as 15. */
  per: number;
  /** Units that stand already and stay. */
  units?: number;
}

/** Units of so many minutes: a further one from more than half of it on. */
const unitsOf = (minutes: number, per: number): number =>
  Math.floor((minutes + Math.floor((per - 1) / 2)) / per);

/** Minutes of the same discipline and unit that are counted together. */
const groupOf = ({ discipline, per }: Timed): string => `${discipline}/${per}`;

/**
 * Units of timed services of one person and day, in the order given. Counted together, each has its whole units, and what is left over
 * goes to those with most minutes left, the first of equals; what stands already keeps what it has.
 */
export function timedUnits(services: readonly Timed[], by: TimedUnits): number[] {
  if (by === 'each') return services.map(({ minutes, per, units }) => units ?? unitsOf(minutes, per));
  const found = services.map(({ minutes, per, units }) => units ?? Math.floor(minutes / per));
  for (const group of new Set(services.map(groupOf))) {
    const own = [...services.keys()].filter((at) => groupOf(services[at]!) === group);
    const { per } = services[own[0]!]!;
    const all = own.reduce((sum, at) => sum + services[at]!.minutes, 0);
    const open = own
      .filter((at) => services[at]!.units === undefined)
      .sort((a, b) => (services[b]!.minutes % per) - (services[a]!.minutes % per) || a - b);
    let left = unitsOf(all, per) - own.reduce((sum, at) => sum + found[at]!, 0);
    for (const at of open) {
      if (left === 0) break;
      // What stands already may have taken a part of the day's units.
      const more = left > 0 ? 1 : -Math.min(found[at]!, -left);
      found[at]! += more;
      left -= more;
    }
  }
  return found;
}
