import { z } from 'zod';
import { CONNECTION_KINDS } from '../../../core/exchange/connections';
import { choice, text } from '../../../core/setup/fields';
import { setupTable } from '../table';

const { clearinghouse } = CONNECTION_KINDS;

/** Ways to the outside, each with its folder and the settings of its kind. */
export const connections = setupTable({
  key: 'connections',
  title: 'Connections',
  noun: ['connection', 'connections'],
  about: 'Clearinghouses, each with its folder of outbox, inbox and archive.',
  table: 'connection',
  keys: ['id'],
  order: 'name',
  fields: {
    name: text('Name', { needed: true }),
    kind: choice('Kind', Object.keys(CONNECTION_KINDS), { fixed: true }),
    folder: text('Folder', {
      form: z
        .string()
        .trim()
        .regex(/^[a-z0-9-]{1,40}$/, 'holds small letters, digits and hyphens'),
    }),
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
