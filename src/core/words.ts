/** Words that go with numbers. */

/** A number with its noun: `1 claim`, `2 claims`; `many` where an s is not enough. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
