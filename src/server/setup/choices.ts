/** Short lists that forms offer. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { formOf } from '../../core/claims/taxonomy';
import { PAYER_NOTICES } from '../notes/notes';
import { type OfferedSet, readChargeSets } from './charge-sets';
import { type Context, type Permission, type Role, allow, may } from '../access';

/** A choice of a form. */
export interface Choice {
  value: number | string;
  label: string;
}

/** A plan that may be chosen, with what stands at the head of its payer. */
export interface PlanChoice extends Choice {
  notice: string;
}

/** Plans with their payers, but for payers that are retired. */
export async function plansForForms(context: Context): Promise<PlanChoice[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select(['n.id', sql<string>`y.name || ' · ' || n.name`.as('label'), PAYER_NOTICES.as('notice')])
    .where((eb) => eb.or([eb('y.retired_on', 'is', null), eb('y.retired_on', '>', context.today)]))
    .orderBy('label')
    .execute();
  return rows.map(({ id: value, ...row }) => ({ value, ...row }));
}

/** The practice's sites. */
export async function sitesForForms(context: Context): Promise<{ value: number; label: string }[]> {
  allow(context, 'read accounts');
  return context.db.selectFrom('location').select(['id as value', 'name as label']).orderBy('name').execute();
}

/** Names of the people whose role may do something, in order. */
export async function workersOf(context: Context, permission: Permission): Promise<string[]> {
  allow(context, permission);
  const rows = await context.db.selectFrom('user').select(['name', 'role']).orderBy('name').execute();
  return rows.filter(({ role }) => may(role as Role, permission)).map(({ name }) => name);
}

/** Codes whose days are over are offered for so many days, for what is entered late. */
const ENTERED_LATE = 366;

/** What the quick line offers: services with office fees (cents), diagnoses, providers. */
export interface QuickChoices {
  services: {
    code: string;
    description: string;
    fee: number | null;
    form: string;
    needsTooth: boolean;
    needsSurface: boolean;
    needsArea: '' | 'quadrant' | 'arch';
    modifiers: string[];
    /** Minutes of a unit, where it is billed by time. */
    unitMinutes: number | null;
  }[];
  diagnoses: { code: string; description: string }[];
  /** Providers with the form of the claims that they fit. */
  providers: (Choice & { form: 'professional' | 'dental' })[];
  /** How patients come to the practice. */
  referralSources: string[];
  /** Services that are entered together. */
  sets: OfferedSet[];
  /** Categories of services. */
  categories: string[];
}

/** Reads the quick line's choices. */
export async function quickChoices(context: Context): Promise<QuickChoices> {
  allow(context, 'read accounts');
  const { db } = context;
  const [services, diagnoses, providers, sources, sets, categories] = await Promise.all([
    db
      .selectFrom('service_code as s')
      .select([
        's.code',
        's.description',
        sql<number | null>`fee_on(office_schedule(null), s.code, ${context.today}::date)`.as('fee'),
        's.form',
        's.needs_tooth as needsTooth',
        's.needs_surface as needsSurface',
        sql<'' | 'quadrant' | 'arch'>`s.needs_area`.as('needsArea'),
        's.modifiers',
        's.unit_minutes as unitMinutes',
      ])
      .where('s.active', '=', true)
      .where((eb) =>
        eb.or([eb('s.valid_to', 'is', null), eb('s.valid_to', '>=', addDays(context.today, -ENTERED_LATE))]),
      )
      .orderBy('s.code')
      .execute(),
    db.selectFrom('diagnosis').select(['code', 'description']).orderBy('code').execute(),
    db
      .selectFrom('provider')
      .select(['id', 'last', 'first', 'suffix', 'taxonomy'])
      .where('active', '=', true)
      .orderBy('last')
      .execute(),
    db.selectFrom('referral_source').select('name').orderBy('name').execute(),
    readChargeSets(db),
    db.selectFrom('service_category').select('name').orderBy('name').execute(),
  ]);
  return {
    services,
    diagnoses,
    referralSources: sources.map(({ name }) => name),
    sets,
    categories: categories.map(({ name }) => name),
    providers: providers.map((row) => ({
      value: row.id,
      label: `${row.last}, ${row.first} ${row.suffix}`.trim(),
      form: formOf(row.taxonomy),
    })),
  };
}
