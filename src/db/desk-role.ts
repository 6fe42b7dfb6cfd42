/**
 * The role as which the desk works: it owns nothing, and may do with each table only what the program does. Who owns the
 * tables migrates, backs up and restores, and nothing else.
 */
import { createHash, createHmac } from 'node:crypto';
import type pg from 'pg';

/** The role of the desk in one database; `password` is null where somebody else made the role. */
export interface DeskRole {
  role: string;
  password: string | null;
}

const LONGEST_NAME = 63;

/** The desk's role in a database of ours: named after it, with a password that follows from the installation's secret. */
export function deskRole(ownerUrl: string, secret: string): { role: string; password: string; url: string } {
  const url = new URL(ownerUrl);
  const database = decodeURIComponent(url.pathname.slice(1));
  const plain = `${database}_desk`;
  const role =
    Buffer.byteLength(plain) <= LONGEST_NAME
      ? plain
      : `${createHash('sha256').update(database).digest('hex').slice(0, 40)}_desk`;
  const password = createHmac('sha256', secret).update(`desk role of ${database}`).digest('base64url');
  url.username = encodeURIComponent(role);
  url.password = password;
  return { role, password, url: url.toString() };
}

/** Only ever added to. */
const ADDED_TO = [
  'audit',
  'benefit_elsewhere',
  'entry',
  'posting',
  'claim_event',
  'document',
  'statement',
  'statement_charge',
  'statement_void',
  'receipt_household',
  'receipt_moved',
  'drawer_drop',
  'card_reading',
  'plan_charge',
  'plan_installment',
  'letter_version',
  'letter',
  'letter_charge',
  'contact',
  'contact_void',
  'note_seen',
  'placement_charge',
  'placement_event',
  'agency_statement',
  'advance_notice',
  'fee_change_line',
  'treatment_estimate_line',
] as const;
/** Changed by triggers only. */
const KEPT = [
  'charge_balance',
  'debt_layer',
  'payer_balance',
  'benefit_use',
  'benefit_counter',
  'household_balance',
  'receipt_balance',
  'provider_adjustment_balance',
  'month_total',
  'months_kept',
  'period_closed',
] as const;
/** Closed lists of the program, and what was migrated. */
const KNOWN = [
  'benefit_kind',
  'book_account',
  'connection_kind',
  'entry_kind',
  'claim_move',
  'claim_need',
  'claim_rule',
  'migration',
  'owned',
  'passing',
  'payer_setting_kind',
  'tender_kind',
  'tender_move',
] as const;
/** Added to, with some columns that say how it went on. */
const GOES_ON = {
  transmission: ['written_at', 'interchange_answer', 'group_answer'],
  mail_parcel: ['written_at'],
  deposit: ['undone_on'],
  plan_reminder: ['written_at', 'why'],
  promise: ['ended_on', 'ended_why'],
  agency_payment: ['reversed_on', 'reversed_why'],
  agency_notice: ['written_at'],
  fee_change: ['undone_on', 'undone_by'],
  note: ['ended_on', 'ended_by'],
  treatment_estimate: [
    'signed_on',
    'signed_by',
    'above_seen',
    'above_seen_on',
    'above_seen_by',
    'above_seen_why',
  ],
  hardship: ['status', 'decided_on', 'decided_by', 'decided_why'],
} as const;
/** Rows that are taken away again. */
const FORGOTTEN = [
  'answered',
  'benefit_rule',
  'case_diagnosis',
  'case_service',
  'claim_check',
  'clearinghouse_payer',
  'connection',
  'dormancy',
  'fee',
  'household_open_to',
  'keyed_claim',
  'list_choice',
  'list_view',
  'lost_tooth',
  'overdue_owner',
  'policy_number',
  'remittance',
  'remittance_claim',
  'session',
  'verification',
  'twoFactor',
  'sign_in_limit',
  'spent_code',
] as const;

const literal = (text: string): string => `'${text.replaceAll("'", "''")}'`;
const name = (text: string): string => `"${text.replaceAll('"', '""')}"`;

/** The privileges of the desk's role, as statements; said anew after each migration. */
function privileges(role: string): string[] {
  const to = name(role);
  const list = (tables: readonly string[]): string => tables.map(name).join(', ');
  return [
    'revoke create on schema public from public',
    // A table of its own would stand before one of ours.
    `
      do $$ begin execute format('revoke temporary on database %I from public', current_database());
      execute format('revoke temporary on database %I from %I', current_database(), ${literal(role)});
      end $$`,
    `revoke all on function close_period(date, text) from public`,
    `grant execute on function close_period(date, text) to ${to}`,
    `revoke all on all tables in schema public from ${to}`,
    `grant usage on schema public, pgboss to ${to}`,
    `grant select, insert, update on all tables in schema public to ${to}`,
    `revoke update on ${list(ADDED_TO)} from ${to}`,
    `revoke insert, update on ${list([...KEPT, ...KNOWN])} from ${to}`,
    ...Object.entries(GOES_ON).flatMap(([table, columns]) => [
      `revoke update on ${name(table)} from ${to}`,
      `grant update (${list(columns)}) on ${name(table)} to ${to}`,
    ]),
    `grant delete on ${list(FORGOTTEN)} to ${to}`,
    `grant usage on all sequences in schema public to ${to}`,
    `grant select, insert, update, delete on all tables in schema pgboss to ${to}`,
    // A queue is a table of its own: it is made by the owner, whoever asks.
    'alter function pgboss.create_queue(text, json) security definer set search_path = pgboss, pg_temp',
  ];
}

/**
 * Makes the desk's role where it is ours to make, and gives it what it may do.
 * @throws Error when the owner may not make roles, or the role that somebody else made owns a table or is a superuser
 */
export async function admitDesk(client: pg.PoolClient, { role, password }: DeskRole): Promise<void> {
  if (password !== null) {
    const { rowCount } = await client.query('select 1 from pg_roles where rolname = $1', [role]);
    await client.query(
      `${rowCount ? 'alter' : 'create'} role ${name(role)} login nosuperuser nocreatedb nocreaterole noreplication password ${literal(password)}`,
    );
  }
  const { rows } = await client.query<{ super: boolean; owns: number }>(
    `
      select rolsuper as super, (select count(*)::int from pg_class where relowner = r.oid) as owns
      from pg_roles r
      where rolname = $1`,
    [role],
  );
  if (rows[0]?.super !== false || rows[0].owns > 0)
    throw new Error(
      `The desk may not work as ${role}: it must be a role that is no superuser and owns nothing`,
    );
  for (const statement of privileges(role)) await client.query(statement);
}

/** Whether who is connected may change the schema; true for a database that holds nothing yet. */
export async function mayMigrate(pool: pg.Pool): Promise<boolean> {
  const { rows } = await pool.query<{ may: boolean }>(
    `
      select
        coalesce(
          (select pg_has_role(relowner, 'usage') from pg_class where oid = to_regclass('public.migration')), true
        ) as may`,
  );
  return rows[0]!.may;
}
