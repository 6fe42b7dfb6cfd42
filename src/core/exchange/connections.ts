/** The kinds of connections to the outside, each with its own settings. */
import { z } from 'zod';
import { type DocumentKind, documentKind } from '../documents';
import { type BasisPoints, basisPoints } from '../money';

/** What a clearinghouse needs to know of us, and we of it. */
export interface ClearinghouseSettings {
  /** ISA06: our id there. */
  senderId: string;
  /** ISA08: its id. */
  receiverId: string;
  receiverName: string;
  /** Whether its files are for payers, or to try the way there (ISA15 P or T). */
  usage: 'test' | 'production';
}

/** What a shop that prints and mails for us knows us by. */
export interface PrintShopSettings {
  customerId: string;
}

/** From whom messages come. */
export interface MessageGatewaySettings {
  /** Our e-mail address. */
  from: string;
}

/** What is agreed with a collection agency. */
export interface AgencySettings {
  /** What it knows us by. */
  clientId: string;
  /** Its part of what it collects, in percent as it is typed, such as `25` or `33.33`. */
  contingency: string;
  /** Whether it hands over all of it, with its fee owed, or less its fee. */
  pays: 'gross' | 'net';
}

const x12Id = z
  .string()
  .trim()
  .min(1, 'is missing')
  .max(15, 'may have 15 characters')
  .regex(/^[A-Za-z0-9 -]+$/, 'holds letters and digits');

interface ConnectionKindShape<Settings> {
  words: string;
  settings: DocumentKind<Settings>;
  /** The settings as a form enters them, in its order. */
  fields: readonly { name: keyof Settings & string; label: string; schema: z.ZodType<string> }[];
}

const clearinghouse: ConnectionKindShape<ClearinghouseSettings> = {
  words: 'clearinghouse',
  settings: documentKind(
    'setting of a clearinghouse',
    2,
    z.object({
      senderId: z.string(),
      receiverId: z.string(),
      receiverName: z.string(),
      usage: z.enum(['test', 'production']),
    }),
    // What was sent before this was asked was sent as test.
    { 1: (settings) => ({ ...(settings as object), usage: 'test' }) },
  ),
  fields: [
    { name: 'senderId', label: 'Our id', schema: x12Id },
    { name: 'receiverId', label: 'Their id', schema: x12Id },
    {
      name: 'receiverName',
      label: 'Their name',
      schema: z.string().trim().min(1, 'is missing').max(60, 'may have 60 characters'),
    },
  ],
};

const printShop: ConnectionKindShape<PrintShopSettings> = {
  words: 'print shop',
  settings: documentKind('setting of a print shop', 1, z.object({ customerId: z.string() })),
  fields: [
    {
      name: 'customerId',
      label: 'Our id there',
      schema: z.string().trim().min(1, 'is missing').max(40, 'may have 40 characters'),
    },
  ],
};

const messageGateway: ConnectionKindShape<MessageGatewaySettings> = {
  words: 'message gateway',
  settings: documentKind('setting of a message gateway', 1, z.object({ from: z.string() })),
  fields: [{ name: 'from', label: 'Our e-mail', schema: z.email('is not an e-mail address') }],
};

const agency: ConnectionKindShape<AgencySettings> = {
  words: 'collection agency',
  settings: documentKind(
    'setting of a collection agency',
    1,
    z.object({ clientId: z.string(), contingency: z.string(), pays: z.enum(['gross', 'net']) }),
  ),
  fields: [
    {
      name: 'clientId',
      label: 'Our id there',
      schema: z.string().trim().min(1, 'is missing').max(40, 'may have 40 characters'),
    },
    {
      name: 'contingency',
      label: 'Its part in percent',
      schema: z
        .string()
        .trim()
        .regex(/^(100(\.0{1,2})?|\d{1,2}(\.\d{1,2})?)$/, 'is a percentage up to 100 such as 25 or 33.33'),
    },
  ],
};

/** The contingency of an agency in basis points. */
export const contingencyOf = ({ contingency }: Pick<AgencySettings, 'contingency'>): BasisPoints =>
  basisPoints(Math.round(Number(contingency) * 100));

/** Every kind of connection. */
export const CONNECTION_KINDS = {
  clearinghouse,
  'print-shop': printShop,
  'message-gateway': messageGateway,
  agency,
} as const;
/** Name of a kind of connection. */
export type ConnectionKind = keyof typeof CONNECTION_KINDS;

/** Settings by the kind of connection. */
interface SettingsOf {
  clearinghouse: ClearinghouseSettings;
  'print-shop': PrintShopSettings;
  'message-gateway': MessageGatewaySettings;
  agency: AgencySettings;
}

/** Reads the settings of a connection. @throws DocumentFault when they are not such settings */
export const readSettings = <Kind extends ConnectionKind>(kind: Kind, stored: unknown): SettingsOf[Kind] =>
  (CONNECTION_KINDS[kind].settings as DocumentKind<SettingsOf[Kind]>).read(stored);
