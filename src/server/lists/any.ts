/** Any list by its name: those of the stations, and those of Setup. */
import { setupTable } from '../setup/tables';
import { LISTS, isList } from './index';
import type { List } from './list';

/** The list of a name, such as `claims` or `setup-payers`; null when there is none. */
export function anyList(name: string): List | null {
  if (isList(name)) return LISTS[name] as List;
  return setupTable(name.replace(/^setup-/, ''))?.list ?? null;
}
