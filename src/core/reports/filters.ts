/** Filters that lists and reports share: each narrows to one row of a table, and is said once in every address. */

/** The filters by their name in an address, and what stands there where nothing is chosen. */
export const FILTERS = {
  payer: { label: 'Payer', all: 'All payers' },
  provider: { label: 'Provider', all: 'All providers' },
  site: { label: 'Site', all: 'All sites' },
} as const;
/** The name of a filter. */
export type FilterName = keyof typeof FILTERS;

/** What is chosen: the id of a row, by filter. */
export type Filtered = Readonly<Partial<Record<FilterName, number>>>;

/** A filter as a screen shows it. */
export interface ShownFilter {
  name: FilterName;
  /** The id that is chosen; null for all. */
  value: number | null;
  choices: readonly { value: number; label: string }[];
}

/** The filters that an address names, of those given; what is no id counts as not said. */
export function filtered(
  names: readonly FilterName[],
  address: Readonly<Partial<Record<string, string | string[]>>>,
): Filtered {
  const said = names.flatMap((name) => {
    const text = address[name];
    const one = Array.isArray(text) ? text[0] : text;
    return /^[1-9]\d{0,14}$/.test(one ?? '') ? [[name, Number(one)] as const] : [];
  });
  return Object.fromEntries(said);
}

/** Filters as a part of an address, in their order. */
export const filterAddress = (chosen: Filtered): Record<string, string> =>
  Object.fromEntries(
    (Object.keys(FILTERS) as FilterName[]).flatMap((name) =>
      chosen[name] === undefined ? [] : [[name, String(chosen[name])]],
    ),
  );
