/** The lists of the desk and their columns, the same on the screen and in a spreadsheet. */

/** What stands in a column: amounts in cents, calendar dates, counts or words. */
export type ColumnKind = 'words' | 'day' | 'number' | 'money';

/** A column of a list; `key` names the field of a row. */
export interface ListColumn {
  readonly key: string;
  readonly title: string;
  readonly kind: ColumnKind;
  /** Not shown until a person chooses it. */
  readonly extra?: true;
  /** Put together after reading, so that the list cannot be ordered by it. */
  readonly unordered?: true;
}

interface ListShape {
  /** What a row is, and several. */
  readonly noun: readonly [one: string, many: string];
  readonly columns: readonly ListColumn[];
}

const words = (key: string, title: string) => ({ key, title, kind: 'words' as const });
const day = (key: string, title: string) => ({ key, title, kind: 'day' as const });
const money = (key: string, title: string) => ({ key, title, kind: 'money' as const });
const number = (key: string, title: string) => ({ key, title, kind: 'number' as const });

/** Every list by its name in addresses. Columns stand in the order they begin with. */
export const LISTS = {
  accounts: {
    noun: ['account', 'accounts'],
    columns: [
      words('number', 'Account'),
      words('guarantor', 'Guarantor'),
      words('members', 'Members'),
      words('phone', 'Phone'),
      day('lastVisit', 'Last visit'),
      money('withPayer', 'With payers'),
      money('withPatient', 'Owes now'),
      money('credit', 'Credit'),
      money('balance', 'Balance'),
      { ...day('lastPayment', 'Last payment'), extra: true },
      { ...day('lastStatement', 'Last statement'), extra: true },
    ],
  },
  claims: {
    noun: ['claim', 'claims'],
    columns: [
      words('controlNumber', 'Claim'),
      words('patient', 'Patient'),
      words('payer', 'Payer'),
      words('form', 'Form'),
      day('serviceDate', 'Service'),
      day('sentDate', 'Sent'),
      words('status', 'Status'),
      { ...words('wrong', 'What is wrong'), unordered: true },
      money('total', 'Charge'),
      { ...words('account', 'Account'), extra: true },
      { ...words('payerClaimNumber', 'Payer’s number'), extra: true },
    ],
  },
  remittances: {
    noun: ['remittance', 'remittances'],
    columns: [
      words('trace', 'Trace'),
      words('payer', 'Payer'),
      day('date', 'Paid on'),
      words('method', 'How'),
      words('status', 'Status'),
      { ...words('why', 'Why it waits'), unordered: true },
      number('claims', 'Claims'),
      money('amount', 'Payment'),
    ],
  },
  'follow-ups': {
    noun: ['follow-up', 'follow-ups'],
    columns: [
      day('dueDate', 'Due'),
      words('kind', 'Kind'),
      words('words', 'What'),
      words('patient', 'Patient'),
      words('service', 'Service'),
      words('controlNumber', 'Claim'),
      money('amount', 'Amount'),
      money('waiting', 'With payer'),
      { ...words('account', 'Account'), extra: true },
    ],
  },
  receipts: {
    noun: ['receipt', 'receipts'],
    columns: [
      day('date', 'Date'),
      words('account', 'Account'),
      words('guarantor', 'From'),
      words('tender', 'Tender'),
      words('reference', 'Reference'),
      words('by', 'Taken by'),
      words('state', 'State'),
      money('left', 'Held as credit'),
      money('amount', 'Amount'),
    ],
  },
  'statements-due': {
    noun: ['household', 'households'],
    columns: [
      words('account', 'Account'),
      words('guarantor', 'Guarantor'),
      day('lastStatement', 'Last statement'),
      money('amount', 'Amount due'),
    ],
  },
  statements: {
    noun: ['statement', 'statements'],
    columns: [
      words('account', 'Account'),
      words('guarantor', 'Guarantor'),
      day('date', 'Date'),
      day('dueDate', 'Due'),
      money('amount', 'Amount due'),
    ],
  },
} as const satisfies Record<string, ListShape>;

/** Name of a list. */
export type ListName = keyof typeof LISTS;

/** The names of all lists. */
export const LIST_NAMES = Object.keys(LISTS) as ListName[];

/** Whether a text names a list. */
export const isList = (name: string): name is ListName => Object.hasOwn(LISTS, name);

/** The columns of a list. */
export const columnsOf = (name: ListName): readonly ListColumn[] => LISTS[name].columns;

/**
 * The columns that a person sees: those chosen, in that order, or those the list begins with. A choice may be older than
 * the list, so that keys no longer known are left out.
 */
export function shownColumns(name: ListName, chosen: readonly string[] | null): ListColumn[] {
  const all = columnsOf(name);
  const kept = (chosen ?? []).flatMap((key) => all.find((column) => column.key === key) ?? []);
  return kept.length > 0 ? kept : all.filter((column) => !column.extra);
}

/** An order by one column: `key`, or `-key` for the other way round; null when the list has no such order. */
export function listOrder(name: ListName, text: string): { key: string; down: boolean } | null {
  const down = text.startsWith('-');
  const key = down ? text.slice(1) : text;
  const column = columnsOf(name).find((item) => item.key === key);
  return column && !column.unordered ? { key, down } : null;
}
