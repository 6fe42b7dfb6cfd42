/** Rows that people edit carry a version: a change made on an older one is refused, with both shown; what changes is kept. */
import { Conflict } from './access';

/** A value as a person reads it. */
const shown = (value: unknown): string => {
  if (value === null || value === undefined || value === '') return '–';
  if (Array.isArray(value)) return value.map(shown).join(', ') || '–';
  // A row of a list.
  return typeof value === 'object' ? Object.values(value).map(shown).join(' ') : String(value);
};

/**
 * Compares what stands there with what is to be written, when it was made on an older version.
 * @param read the version that the person saw; absent: whatever stands there is replaced
 * @param current the version that stands there, whose rows the caller has locked
 * @param labels what the fields are called; only these are compared
 * @throws Conflict with the fields that differ
 */
export function refuseOlder<Field extends string>(
  read: string | number | undefined,
  current: string | number,
  there: { readonly [F in NoInfer<Field>]?: unknown },
  wanted: { readonly [F in NoInfer<Field>]?: unknown },
  labels: Readonly<Record<Field, string>>,
): void {
  if (read === undefined || read === current) return;
  const differences = (Object.entries(labels) as [Field, string][])
    .map(([field, label]) => ({
      field,
      label,
      theirs: shown(there[field]),
      mine: shown(wanted[field]),
      value: there[field] ?? '',
    }))
    .filter((item) => item.theirs !== item.mine);
  throw new Conflict(differences, current);
}

/** What a change changes, field by field, as the audit trail keeps it: what stood there, and what stands there now. */
export function changesOf<Field extends string>(
  there: { readonly [F in NoInfer<Field>]?: unknown },
  wanted: { readonly [F in NoInfer<Field>]?: unknown },
  labels: Readonly<Record<Field, string>>,
): Record<string, { from: string; to: string }> {
  return Object.fromEntries(
    (Object.keys(labels) as Field[])
      .map((field) => [field, { from: shown(there[field]), to: shown(wanted[field]) }] as const)
      .filter(([, { from, to }]) => from !== to),
  );
}
