/** Who may do what. Every use case asks here, on the server, before it reads or changes anything. */
import { sql } from 'kysely';
import { type CalendarDate, calendarDate } from '../core/calendar';
import { type Cents, formatMoneyPlain } from '../core/money';
import type { RefusalCode } from '../core/answer';
import { ROLES, type Role } from '../core/users/roles';
import { type Db, type Tx, filesDb } from '../db/connect';

export { isBusy } from '../db/connect';

export { ROLES, type Role };

const ALLOWED = {
  'read accounts': ['front-desk', 'biller', 'collector', 'manager'],
  'register people': ['front-desk', 'biller', 'manager'],
  'enter charges': ['biller', 'manager'],
  'read claims': ['biller', 'collector', 'manager'],
  'work claims': ['biller', 'manager'],
  'read remittances': ['biller', 'collector', 'manager'],
  'post remittances': ['biller', 'manager'],
  'take payments': ['front-desk', 'biller', 'collector', 'manager'],
  'reverse entries': ['biller', 'manager'],
  'reopen remittances': ['manager'],
  'deposit money': ['biller', 'manager'],
  'send statements': ['front-desk', 'biller', 'collector', 'manager'],
  'prepare statements': ['biller', 'collector', 'manager'],
  'write notes': ['front-desk', 'biller', 'collector', 'manager'],
  'agree plans': ['front-desk', 'biller', 'collector', 'manager'],
  'agree plans beyond the limits': ['manager'],
  'work follow-ups': ['biller', 'collector', 'manager'],
  'work overdue': ['biller', 'collector', 'manager'],
  'void contacts of others': ['manager'],
  'write off small balances': ['biller', 'manager'],
  'approve placements': ['manager'],
  'post agency money': ['biller', 'manager'],
  'approve hardship': ['manager'],
  'approve refunds': ['manager'],
  'read setup': ['biller', 'collector', 'manager'],
  'change setup': ['manager'],
  'read books': ['biller', 'manager'],
  'watch work': ['biller', 'collector', 'manager'],
  'keep their own sign-in': ['front-desk', 'biller', 'collector', 'manager'],
  'manage users': ['manager'],
  'read the audit trail': ['manager'],
} as const satisfies Record<string, readonly Role[]>;

/** Something a role may or may not do. */
export type Permission = keyof typeof ALLOWED;

/** Who acts, on which database, when: `today` is the business date, the day of `now` in the practice's time zone. */
export interface Context {
  db: Db;
  user: { id: string; name: string; role: Role };
  now: Date;
  today: CalendarDate;
  /** The session and the address of the connection; absent where no browser asks. */
  from?: { session: string; address: string };
  /** Work that goes on by itself: it does what there is to do for everybody, and shows it to nobody. */
  background?: true;
}

/** The same person, reading a file: over connections of its own, so that the desk goes on however many are asked for. */
export const readingFiles = (context: Context): Context => ({ ...context, db: filesDb() });

/** Facts of a refusal: what was found, by name; cents, ids and calendar dates as they are. */
export type Facts = Readonly<Record<string, string | number | boolean | null | undefined>>;

/**
 * What a person asked for cannot be done. `code` says of which kind that is and `facts` what was found, for whoever decides by
 * it; `message` says it to a person, with what to do; `field` where, and `fields` has a message for each field when several are
 * wrong. Nothing was changed.
 */
export class Refused extends Error {
  readonly field: string | undefined;
  readonly fields: Readonly<Record<string, string>>;
  readonly facts: Facts;
  constructor(
    readonly code: RefusalCode,
    message: string,
    about: string | { field?: string; fields?: Readonly<Record<string, string>>; facts?: Facts } = {},
  ) {
    super(message);
    this.name = 'Refused';
    const { field, fields, facts } = typeof about === 'string' ? { field: about } : about;
    this.field = field;
    this.fields = fields ?? (field ? { [field]: message } : {});
    this.facts = facts ?? {};
  }
}

/** One field that somebody else has changed meanwhile: what stands there now, and what was to be written. */
export interface Difference {
  field: string;
  label: string;
  theirs: string;
  mine: string;
  /** What stands there now, as the form holds it. */
  value: unknown;
}

/** The row was changed by somebody else since it was read: nothing was written, both are shown. */
export class Conflict extends Refused {
  constructor(
    readonly differences: readonly Difference[],
    /** The version that stands there now. */
    readonly version: string | number,
  ) {
    super(
      'conflict',
      differences.length === 0
        ? 'Somebody else saved this meanwhile: look at it again and save once more'
        : `Somebody else saved this meanwhile. ${differences.map((item) => `${item.label}: now “${item.theirs}”, yours “${item.mine}”`).join('; ')}. Save once more to put yours in its place`,
    );
  }
}

/** What a person asked for is doubtful: nothing was changed, and asked again with `sure` it is done. */
export class Doubtful extends Refused {
  constructor(readonly doubts: readonly string[]) {
    super('doubtful', doubts.join('. '));
  }
}

/** @throws Doubtful when something is, and the person has not said that it is meant */
export function lookAgain(sure: boolean, doubts: readonly (string | false | null | undefined)[]): void {
  const found = doubts.filter((item): item is string => Boolean(item));
  if (!sure && found.length > 0) throw new Doubtful(found);
}

/** What is doubtful when an amount is another than the one that was seen; both in cents. */
export const otherThanSeen = (now: Cents, seen: Cents | undefined): string | false =>
  seen !== undefined && now !== seen && `It is ${formatMoneyPlain(now)} now, not ${formatMoneyPlain(seen)}`;

/** What a person asked for is not for their role. */
export class NotAllowed extends Refused {
  constructor(message: string) {
    super('not-allowed', message);
  }
}

/** Whether a role may do something. */
export const may = (role: Role, permission: Permission): boolean =>
  (ALLOWED[permission] as readonly Role[]).includes(role);

/** All that a role may do. */
export const permissionsOf = (role: Role): Permission[] =>
  (Object.keys(ALLOWED) as Permission[]).filter((permission) => may(role, permission));

/** @throws NotAllowed when the person's role does not allow it */
export function allow(context: Context, permission: Permission): void {
  if (!may(context.user.role, permission))
    throw new NotAllowed(`Your role (${context.user.role}) may not ${permission}`);
}

/** The practice's time zone. */
export const zone = (): string => process.env.WERGELD_ZONE ?? 'America/Los_Angeles';

/** Formats by zone: making one costs more than a thousand uses. */
const formats = new Map<string, Intl.DateTimeFormat>();

/** What the practice's clock on the wall says at a moment: `2026-03-16 10:00`. */
export function wallClock(now: Date): string {
  const timeZone = zone();
  const format =
    formats.get(timeZone) ??
    // Sweden writes dates as ISO 8601 does.
    new Intl.DateTimeFormat('sv-SE', { timeZone, dateStyle: 'short', timeStyle: 'short' });
  formats.set(timeZone, format);
  return format.format(now);
}

/** What the clock says (`desk_now()`). */
export async function readNow(db: Db | Tx): Promise<Date> {
  const { rows } = await sql<{ now: Date }>`select desk_now() as now`.execute(db);
  return rows[0]!.now;
}

/** The business date at a moment: the day in the practice's time zone (`WERGELD_ZONE`). */
export const businessDate = (now: Date): CalendarDate => calendarDate(wallClock(now).slice(0, 10));

/** The time of day in the practice's time zone, as interchanges say it (HHMM). */
export const timeOfDay = (now: Date): string => wallClock(now).slice(11).replace(':', '');

/** Who acts where no person does. */
export const SYSTEM_USER = 'wergeld';

/** The context of work that no person started: background work and the command line. */
export async function systemContext(db: Db): Promise<Context> {
  const now = await readNow(db);
  const user = { id: SYSTEM_USER, name: 'Wergeld', role: 'manager' } as const;
  return { db, user, now, today: businessDate(now), background: true };
}

/** Writes an audit row, in the transaction of the change it records where there is one. */
export async function audit(
  db: Db | Tx,
  context: Context,
  action: string,
  subject: { kind: string; id: string | number },
  detail: Record<string, unknown> = {},
): Promise<void> {
  await db
    .insertInto('audit')
    .values({
      user_id: context.user.id,
      session_id: context.from?.session ?? '',
      address: context.from?.address ?? '',
      action,
      subject_kind: subject.kind,
      subject_id: String(subject.id),
      detail: JSON.stringify(detail),
    })
    .execute();
}

/** Notes that somebody asked for what their role may not do. @param what the permission, or the words of the refusal */
export const noteRefusal = (context: Context, what: string): Promise<void> =>
  audit(context.db, context, 'was refused', { kind: 'user', id: context.user.id }, { what });
