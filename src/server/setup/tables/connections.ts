import { z } from 'zod';
import { CONNECTION_KINDS } from '../../../core/exchange/connections';
import { type Choice, choice, text } from '../../../core/setup/fields';
import type { Db } from '../../../db/connect';
import { setupTable } from '../table';

const { clearinghouse, 'print-shop': printShop, 'message-gateway': gateway } = CONNECTION_KINDS;

const name = text('Name', { needed: true });
const folder = text('Folder', {
  form: z
    .string()
    .trim()
    .regex(/^[a-z0-9-]{1,40}$/, 'holds small letters, digits and hyphens'),
});

/** The clearinghouses, as choices of a form. */
export const clearinghouseChoices = async (db: Db): Promise<Choice[]> => {
  const rows = await db
    .selectFrom('connection')
    .select(['id', 'name'])
    .where('kind', '=', 'clearinghouse')
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

/** Who prints and mails for us. */
export const printShops = setupTable({
  key: 'print-shops',
  title: 'Print shops',
  noun: ['print shop', 'print shops'],
  about: 'Who prints and mails for us, with its folder of outbox, inbox and archive.',
  table: 'connection',
  rowsWith: { column: 'kind', value: 'print-shop' },
  keys: ['id'],
  order: 'name',
  fields: {
    name,
    folder,
    ...Object.fromEntries(
      printShop.fields.map((field) => [field.name, text(field.label, { form: field.schema })]),
    ),
  },
  document: {
    column: 'settings',
    fields: printShop.fields.map((field) => field.name),
    read: (kept) => ({ ...printShop.settings.read(kept) }),
    write: ({ customerId = '' }) => printShop.settings.write({ customerId }),
  },
});

/** Who delivers our e-mail. */
export const gateways = setupTable({
  key: 'gateways',
  title: 'Message gateways',
  noun: ['message gateway', 'message gateways'],
  about: 'Who delivers our e-mail, with its folder of outbox, inbox and archive.',
  table: 'connection',
  rowsWith: { column: 'kind', value: 'message-gateway' },
  keys: ['id'],
  order: 'name',
  fields: {
    name,
    folder,
    ...Object.fromEntries(
      gateway.fields.map((field) => [field.name, text(field.label, { form: field.schema })]),
    ),
  },
  document: {
    column: 'settings',
    fields: gateway.fields.map((field) => field.name),
    read: (kept) => ({ ...gateway.settings.read(kept) }),
    write: ({ from = '' }) => gateway.settings.write({ from }),
  },
});
