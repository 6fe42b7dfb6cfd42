import { z } from 'zod';
import { CONNECTION_KINDS } from '../../../core/exchange/connections';
import { type Choice, choice, text } from '../../../core/setup/fields';
import { PAYS } from '../../../core/overdue/agency';
import type { Db } from '../../../db/connect';
import { setupTable } from '../table';

const { clearinghouse } = CONNECTION_KINDS;

const name = text('Name', { needed: true });
const folder = text('Folder', {
  form: z
    .string()
    .trim()
    .regex(/^[a-z0-9-]{1,40}$/, 'holds small letters, digits and hyphens'),
});

/** The connections of one kind, as choices of a form. */
export const connectionChoices =
  (kind: keyof typeof CONNECTION_KINDS) =>
  async (db: Db): Promise<Choice[]> => {
    const rows = await db
      .selectFrom('connection')
      .select(['id', 'name'])
      .where('kind', '=', kind)
      .orderBy('name')
      .execute();
    return rows.map((row) => ({ value: String(row.id), label: row.name }));
  };

/** Ways to payers, each with its folder and its settings. */
export const clearinghouses = setupTable({
  key: 'clearinghouses',
  title: 'Clearinghouses',
  noun: ['clearinghouse', 'clearinghouses'],
  about: 'Ways to payers, each with its folder of outbox, inbox and archive.',
  table: 'connection',
  rowsWith: { column: 'kind', value: 'clearinghouse' },
  keys: ['id'],
  order: 'name',
  fields: {
    name,
    folder,
    usage: choice('Files are', ['test', 'production']),
    ...Object.fromEntries(
      clearinghouse.fields.map(({ name, label, schema }) => [name, text(label, { form: schema })]),
    ),
  },
  document: {
    column: 'settings',
    fields: [...clearinghouse.fields.map((field) => field.name), 'usage'],
    read: (kept) => ({ ...clearinghouse.settings.read(kept) }),
    write: (values) =>
      clearinghouse.settings.write({
        senderId: values.senderId ?? '',
        receiverId: values.receiverId ?? '',
        receiverName: values.receiverName ?? '',
        usage: values.usage === 'production' ? 'production' : 'test',
      }),
  },
});

/** A kind of connection that needs its name, its folder and the settings of its kind. */
const plainConnections = (
  kind: 'print-shop' | 'message-gateway',
  shown: { key: string; title: string; noun: readonly [string, string]; about: string },
) => {
  const { fields, settings } = CONNECTION_KINDS[kind];
  const names = fields.map((field) => field.name);
  return setupTable({
    ...shown,
    table: 'connection',
    rowsWith: { column: 'kind', value: kind },
    keys: ['id'],
    order: 'name',
    fields: {
      name,
      folder,
      ...Object.fromEntries(fields.map((field) => [field.name, text(field.label, { form: field.schema })])),
    },
    document: {
      column: 'settings',
      fields: names,
      read: (kept) => ({ ...settings.read(kept) }),
      write: (values) =>
        settings.write(Object.fromEntries(names.map((field) => [field, values[field] ?? ''])) as never),
    },
  });
};

/** Who prints and mails for us. */
export const printShops = plainConnections('print-shop', {
  key: 'print-shops',
  title: 'Print shops',
  noun: ['print shop', 'print shops'],
  about: 'Who prints and mails for us, with its folder of outbox, inbox and archive.',
});

/** Who delivers our e-mail. */
export const gateways = plainConnections('message-gateway', {
  key: 'gateways',
  title: 'Message gateways',
  noun: ['message gateway', 'message gateways'],
  about: 'Who delivers our e-mail, with its folder of outbox, inbox and archive.',
});

const { agency } = CONNECTION_KINDS;

/** Who collects for us. */
export const agencies = setupTable({
  key: 'agencies',
  title: 'Collection agencies',
  noun: ['agency', 'agencies'],
  about:
    'Who collects for us, with its folder of outbox, inbox and archive. What is agreed counts for what is proposed from then on.',
  table: 'connection',
  rowsWith: { column: 'kind', value: 'agency' },
  keys: ['id'],
  order: 'name',
  fields: {
    name,
    folder,
    ...Object.fromEntries(
      agency.fields.map((field) => [field.name, text(field.label, { form: field.schema })]),
    ),
    pays: choice('Hands over', PAYS),
  },
  document: {
    column: 'settings',
    fields: [...agency.fields.map((field) => field.name), 'pays'],
    read: (kept) => ({ ...agency.settings.read(kept) }),
    write: (values) =>
      agency.settings.write({
        clientId: values.clientId ?? '',
        contingency: values.contingency ?? '0',
        pays: values.pays === 'net' ? 'net' : 'gross',
      }),
  },
});
