/** The contract check as spreadsheets, and all that is short for whoever works with it elsewhere. */
import type { z } from 'zod';
import type { CalendarDate } from '../../core/calendar';
import { minus } from '../../core/money';
import { owing } from '../../core/remittances/contract-check';
import type { ListColumn } from '../../core/reports/lists';
import { type Context, audit } from '../access';
import { type SheetFormat, batchOf, sheetOf } from '../lists/sheet';
import {
  type ContractLine,
  type contractCheckAsked,
  isOf,
  readContractCheck,
  readContractLines,
} from './contract-check';

/** Before any service. */
const EVER = '1900-01-01' as CalendarDate;

const COLUMNS: readonly ListColumn[] = [
  { key: 'payer', title: 'Payer', kind: 'words' },
  { key: 'cause', title: 'Cause', kind: 'words' },
  { key: 'account', title: 'Account', kind: 'words' },
  { key: 'patient', title: 'Patient', kind: 'words' },
  { key: 'claim', title: 'Claim', kind: 'words' },
  { key: 'payerClaim', title: 'Payer’s number', kind: 'words' },
  { key: 'serviceDate', title: 'Service', kind: 'day' },
  { key: 'code', title: 'Code', kind: 'words' },
  { key: 'units', title: 'Units', kind: 'number' },
  { key: 'charge', title: 'Charged', kind: 'money' },
  { key: 'expected', title: 'Contract', kind: 'money' },
  { key: 'allowed', title: 'Allowed', kind: 'money' },
  { key: 'difference', title: 'Below', kind: 'money' },
  { key: 'pays', title: 'Should pay', kind: 'money' },
  { key: 'paid', title: 'Paid', kind: 'money' },
  { key: 'owed', title: 'Payer owes', kind: 'money' },
  { key: 'askedOn', title: 'Asked on', kind: 'day' },
  { key: 'steps', title: 'Steps', kind: 'words' },
];

const sheetRow = ({ cause, steps, ...line }: ContractLine) => ({
  ...line,
  cause: cause.words,
  difference: minus(line.expected, line.allowed),
  owed: owing(line),
  steps: steps.join(', '),
});

/** The lines of a check as XLSX or CSV. */
export async function contractCheckFile(
  context: Context,
  { format, ...input }: z.input<typeof contractCheckAsked> & { format: SheetFormat },
) {
  const check = await readContractCheck(context, input);
  await audit(context.db, context, 'exported', { kind: 'report', id: 'contract check' }, { format });
  const rows = check.payers.flatMap(({ groups }) => groups.flatMap(({ lines }) => lines.map(sheetRow)));
  return sheetOf('Contract check', `contract-check-${check.to}`, COLUMNS, rows.length, batchOf(rows), format);
}

/** Every line that is short, of whatever day, for whoever works with them elsewhere: amounts in whole cents. */
export async function shortRows(context: Context): Promise<Record<string, unknown>[]> {
  const lines = await readContractLines(context, { from: EVER, to: context.today, payerId: null });
  return lines
    .filter((line) => isOf(line, 'short'))
    .map((line) => {
      const row: Record<string, unknown> = sheetRow(line);
      return Object.fromEntries(COLUMNS.map(({ key }) => [key, row[key]]));
    });
}
