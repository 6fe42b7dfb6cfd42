/** What the screen of a run offers. */
import { type Context, allow } from '../access';
import { type StatementSet, readSets } from '../setup/statement-policies';

/** Saved sets, and what the rows can choose from. */
export interface RunChoices {
  sets: StatementSet[];
  category: { value: string; label: string }[];
  site: { value: string; label: string }[];
  provider: { value: string; label: string }[];
}

/** Reads the choices. */
export async function readRunChoices(context: Context): Promise<RunChoices> {
  allow(context, 'prepare statements');
  const { db } = context;
  const [sets, categories, sites, providers] = await Promise.all([
    readSets(db),
    db.selectFrom('account_category').select('name').orderBy('name').execute(),
    db.selectFrom('location').select(['id', 'name']).orderBy('name').execute(),
    db.selectFrom('provider').select(['id', 'last', 'first']).orderBy('last').orderBy('first').execute(),
  ]);
  return {
    sets,
    category: categories.map(({ name }) => ({ value: name, label: name })),
    site: sites.map(({ id, name }) => ({ value: String(id), label: name })),
    provider: providers.map(({ id, last, first }) => ({ value: String(id), label: `${last}, ${first}` })),
  };
}
