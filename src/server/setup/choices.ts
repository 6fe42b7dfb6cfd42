/** Short lists that forms offer. */
import { sql } from 'kysely';
import { type Context, allow } from '../access';

/** A choice of a form. */
export interface Choice {
  value: number | string;
  label: string;
}

/** Plans with their payers. */
export async function plansForForms(context: Context): Promise<Choice[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select(['n.id', sql<string>`y.name || ' · ' || n.name`.as('label')])
    .orderBy('label')
    .execute();
  return rows.map((row) => ({ value: row.id, label: row.label }));
}

/** What the quick line offers: services with office fees (cents), diagnoses, providers. */
export interface QuickChoices {
  services: {
    code: string;
    description: string;
    fee: number | null;
    form: string;
    needsTooth: boolean;
    needsSurface: boolean;
  }[];
  diagnoses: { code: string; description: string }[];
  providers: Choice[];
}

/** Reads the quick line's choices. */
export async function quickChoices(context: Context): Promise<QuickChoices> {
  allow(context, 'read accounts');
  const { db } = context;
  const [services, diagnoses, providers] = await Promise.all([
    db
      .selectFrom('service_code as s')
      .leftJoin('fee_schedule as o', (join) => join.on('o.kind', '=', 'office'))
      .leftJoin('fee as f', (join) =>
        join.onRef('f.fee_schedule_id', '=', 'o.id').onRef('f.code', '=', 's.code'),
      )
      .select([
        's.code',
        's.description',
        'f.amount as fee',
        's.form',
        's.needs_tooth as needsTooth',
        's.needs_surface as needsSurface',
      ])
      .where('s.active', '=', true)
      .orderBy('s.code')
      .execute(),
    db.selectFrom('diagnosis').select(['code', 'description']).orderBy('code').execute(),
    db
      .selectFrom('provider')
      .select(['id', 'last', 'first', 'suffix'])
      .where('active', '=', true)
      .orderBy('last')
      .execute(),
  ]);
  return {
    services,
    diagnoses,
    providers: providers.map((row) => ({
      value: row.id,
      label: `${row.last}, ${row.first} ${row.suffix}`.trim(),
    })),
  };
}
