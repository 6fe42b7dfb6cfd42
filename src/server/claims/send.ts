/** Sending claims: one transmission a connection and form, written to the outbox. */
import { sql } from 'kysely';
import { toX12Date } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import { claimDocument } from '../../core/claims/document';
import { sendInput } from '../../core/claims/input';
import { type ClaimStatus, SENDABLE } from '../../core/claims/life';
import { maySend } from '../../core/claims/rules';
import { readSettings } from '../../core/exchange/connections';
import { type Cents, sum } from '../../core/money';
import { write837 } from '../../core/x12/claim837';
import { type Context, Refused, timeOfDay } from '../access';
import { type Act, useCase } from '../use-case';
import { refreshClaims } from './check';
import { freeLeftOut } from './correct';
import { byUser, moveClaims } from './life';
import { closeAnswered } from './replace';

/** One file that was prepared for the outbox. */
export interface Sent {
  file: string;
  claims: number;
  total: Cents;
}

/** A file has at most so many claims. */
export const MAX_CLAIMS = 2000;

/** Claims of one connection and form, which go out in one file. */
interface Bundle {
  connectionId: number;
  form: ClaimContent['form'];
  claims: { id: number; status: ClaimStatus; content: ClaimContent }[];
}

/**
 * Checks and sends claims: all that are ready, or those named. A claim with a stop is left where it is.
 * The transmission is stored with its text before the file is written, so a kill in between loses nothing; the exchange
 * writes the file. Pressed again it finds nothing ready.
 * @throws Refused when named claims cannot be sent
 */
export const sendClaims = useCase({
  name: 'send claims',
  permission: 'work claims',
  input: sendInput,
  async run(act, { claimIds, ready }) {
    const sent: Sent[] = [];
    for (const bundle of (await bundles(act, claimIds, ready)).values())
      sent.push(await transmit(act, bundle));
    return sent;
  },
});

/** @param ready whether those named that are not ready are left instead of refused */
async function bundles(
  act: Act,
  claimIds: readonly number[] | undefined,
  ready: boolean,
): Promise<Map<string, Bundle>> {
  let query = act.db
    .selectFrom('claim as m')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .select(['m.id', 'm.form', 'm.status', 'y.connection_id', 'm.control_number'])
    .where('y.connection_id', 'is not', null)
    .where('y.accepts', '=', 'electronic');
  if (claimIds) query = query.where('m.id', '=', sql<number>`any(${[...claimIds]}::bigint[])`);
  query =
    claimIds && !ready ? query.where('m.status', 'in', [...SENDABLE]) : query.where('m.status', '=', 'ready');
  const claims = await query.orderBy('m.id').limit(MAX_CLAIMS).forNoKeyUpdate('m').execute();
  if (claimIds && !ready && claims.length < new Set(claimIds).size)
    throw new Refused('nothing', 'A claim was sent already or is not ready: nothing was sent');
  const found = new Map<string, Bundle>();
  const checked = await refreshClaims(
    act.db,
    act,
    claims.map(({ id }) => id),
  );
  claims.forEach((claim, index) => {
    const { status, content, findings } = checked[index]!;
    if (!maySend(findings)) {
      if (!claimIds || ready) return;
      const { words } = findings.find((item) => item.severity === 'stop')!;
      throw new Refused('state', `Claim ${claim.control_number} cannot be sent: ${words}`, {
        facts: { control_number: claim.control_number },
      });
    }
    const key = `${claim.connection_id}|${claim.form}`;
    const bundle = found.get(key) ?? { connectionId: claim.connection_id!, form: claim.form, claims: [] };
    bundle.claims.push({ id: claim.id, status, content });
    found.set(key, bundle);
  });
  return found;
}

/** A file as it goes: its name, its text, and how it is meant. */
interface Composed {
  name: string;
  text: string;
  usage: 'T' | 'P';
  total: Cents;
}

/** Writes a file of claims under a control number of its connection. @throws Refused without a practice */
async function compose(
  context: Context,
  connection: { settings: unknown },
  form: ClaimContent['form'],
  control: string,
  claims: readonly ClaimContent[],
): Promise<Composed> {
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const settings = readSettings('clearinghouse', connection.settings);
  const day = toX12Date(context.today);
  const time = timeOfDay(context.now);
  const usage = settings.usage === 'production' ? 'P' : 'T';
  const text = write837({
    interchange: {
      senderQualifier: 'ZZ',
      sender: settings.senderId,
      receiverQualifier: 'ZZ',
      receiver: settings.receiverId,
      controlNumber: control.padStart(9, '0'),
      date: day.slice(2),
      time,
      usage,
    },
    controlNumber: control,
    date: day,
    time,
    submitter: { name: practice.name, contact: practice.contact, phone: practice.phone },
    receiverName: settings.receiverName,
    claims,
  });
  const name = `${day}-${control.padStart(6, '0')}-${form === 'dental' ? '837D' : '837P'}.x12`;
  return { name, text, usage, total: sum(claims.map((content) => content.total)) };
}

/** The file that sending claims now would make: nothing is moved, and its number is the one that the next file has. */
export async function fileOf(
  context: Context,
  connectionId: number,
  form: ClaimContent['form'],
  claimIds: readonly number[],
): Promise<{ name: string; text: string }> {
  const connection = await context.db
    .selectFrom('connection')
    .select(['settings', sql<number>`last_control + 1`.as('control')])
    .where('id', '=', connectionId)
    .executeTakeFirst();
  if (!connection) throw new Refused('unknown', 'There is no such connection');
  const rows = await context.db
    .selectFrom('claim')
    .select('content')
    .where('id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
    .where('form', '=', form)
    .orderBy('id')
    .execute();
  const contents = rows.map(({ content }) => claimDocument.read(content));
  return compose(context, connection, form, String(connection.control), contents);
}

/** Writes the text of one transmission and moves its claims. */
async function transmit(act: Act, bundle: Bundle): Promise<Sent> {
  const tx = act.db;
  const connection = await tx
    .updateTable('connection')
    .set({ last_control: sql`last_control + 1` })
    .where('id', '=', bundle.connectionId)
    .returningAll()
    .executeTakeFirstOrThrow();
  const control = String(connection.last_control);
  const contents = bundle.claims.map((claim) => claim.content);
  const { name, text, usage, total } = await compose(act, connection, bundle.form, control, contents);
  const { id } = await tx
    .insertInto('transmission')
    .values({
      connection_id: connection.id,
      control_number: control,
      file_name: `${connection.folder}/${name}`,
      content: text,
      usage,
      claims: contents.length,
      total,
      business_date: act.today,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await moveClaims(tx, act, bundle.claims, 'sent', byUser(act), `Sent in file ${name}`, {
    transmissionId: id,
    sentBy: 'file',
    sentDate: act.today,
  });
  await closeAnswered(
    act,
    bundle.claims.map(({ id: claimId }) => claimId),
  );
  await freeLeftOut(tx, act, { claimIds: bundle.claims.map((claim) => claim.id) });
  await act.note('sent', { kind: 'transmission', id }, { claims: contents.length });
  return { file: name, claims: contents.length, total };
}
