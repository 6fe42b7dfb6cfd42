/**
 * A report, declared whole: its parameters, its columns with what stands in them, what it can be grouped by, its chart.
 * Screen, totals, spreadsheet and print are all made from the declaration.
 */
import { type RawBuilder, sql } from 'kysely';
import { type CalendarDate, addDays, parseDate } from '../../core/calendar';
import { type Cents, ZERO, add, cents } from '../../core/money';
import type { ColumnKind, ListColumn } from '../../core/reports/lists';
import { type Context, type Permission, allow } from '../access';

/** A column, as lists declare them. */
interface Column {
  title: string;
  kind: ColumnKind;
  value: RawBuilder<unknown> | null;
}

/** What a person chooses of a report: a day, or one of a few words. */
type Parameter =
  | { label: string; kind: 'day'; usual: (today: CalendarDate) => CalendarDate }
  | { label: string; kind: 'choice'; choices: Readonly<Record<string, string>> };

/** What was chosen, by parameter. */
type Chosen<P> = { [K in keyof P]: P[K] extends { kind: 'day' } ? CalendarDate : string };

interface Declaration<P extends Readonly<Record<string, Parameter>>> {
  /** In addresses and file names. */
  name: string;
  title: string;
  /** What its figures mean, in a sentence. */
  about: string;
  permission: Permission;
  parameters: P;
  columns: Readonly<Record<string, Column>>;
  /** Columns by which its rows can be grouped, with subtotals. */
  groups?: readonly string[];
  /** The words along the chart, and the amounts drawn. */
  chart?: { along: string; draws: readonly string[] };
  from: (chosen: Chosen<P>, context: Context) => RawBuilder<unknown>;
  where: (chosen: Chosen<P>, context: Context) => RawBuilder<unknown>;
  /** What makes one row. */
  rowBy: RawBuilder<unknown>;
  /** Rows that say nothing are left out. */
  having?: RawBuilder<unknown>;
  order: RawBuilder<unknown>;
}

/** A row of a report, by column. Amounts in cents. */
export type ReportRow = Readonly<Record<string, string | number | null>>;

/** Rows of one group with their totals. */
export interface ReportGroup {
  /** What they have in common; empty where a report is not grouped. */
  words: string;
  rows: readonly ReportRow[];
  totals: Readonly<Record<string, number>>;
}

/** A parameter with what was chosen. */
export interface ShownParameter {
  key: string;
  label: string;
  kind: 'day' | 'choice';
  value: string;
  choices: readonly { value: string; label: string }[];
}

/** A report as its screen, its spreadsheet and its print show it. */
export interface ReportPage {
  name: string;
  title: string;
  about: string;
  columns: readonly ListColumn[];
  parameters: readonly ShownParameter[];
  groups: readonly ReportGroup[];
  /** Sums and counts over all rows. */
  totals: Readonly<Record<string, number>>;
  rows: number;
  chart: { along: string; draws: readonly { key: string; title: string }[] } | null;
}

/** A declared report. */
export interface Report {
  readonly name: string;
  readonly title: string;
  readonly about: string;
  readonly permission: Permission;
  /** Reads it for what an address asks. @throws NotAllowed */
  read(context: Context, address: Readonly<Record<string, string | undefined>>): Promise<ReportPage>;
}

/** The longest report that is shown; a narrower choice shows the rest. */
const MOST = 20_000;

/** A period that begins so many days ago and ends today. */
export const period = (days: number) =>
  ({
    from: { label: 'From', kind: 'day', usual: (today) => addDays(today, -days) },
    to: { label: 'To', kind: 'day', usual: (today) => today },
  }) as const satisfies Readonly<Record<string, Parameter>>;

function chosenOf(parameter: Parameter, asked: string | undefined, today: CalendarDate): string {
  if (parameter.kind === 'day') return parseDate(asked ?? '') ?? parameter.usual(today);
  const [first = ''] = Object.keys(parameter.choices);
  return asked !== undefined && Object.hasOwn(parameter.choices, asked) ? asked : first;
}

/** Sums over amounts, and counts; of other columns nothing. */
function totalsOf(columns: readonly ListColumn[], rows: readonly ReportRow[]): Record<string, number> {
  const summed = columns.filter((column) => column.kind === 'money' || column.kind === 'number');
  return Object.fromEntries(
    summed.map(({ key, kind }) => [
      key,
      kind === 'money'
        ? rows.reduce((all: Cents, row) => add(all, cents(Number(row[key] ?? 0))), ZERO)
        : rows.reduce((all, row) => all + Number(row[key] ?? 0), 0),
    ]),
  );
}

/** Rows by what stands in a column, in the order in which they came. */
function grouped(columns: readonly ListColumn[], rows: readonly ReportRow[], by: string): ReportGroup[] {
  const found = new Map<string, ReportRow[]>();
  for (const row of rows) {
    const words = String(row[by] ?? '–');
    found.set(words, [...(found.get(words) ?? []), row]);
  }
  return [...found].map(([words, inside]) => ({ words, rows: inside, totals: totalsOf(columns, inside) }));
}

/** Declares a report. */
export function report<const P extends Readonly<Record<string, Parameter>>>(d: Declaration<P>): Report {
  const columns: ListColumn[] = Object.entries(d.columns).map(([key, { title, kind }]) => ({
    key,
    title,
    kind,
  }));
  const fields = sql.join(
    Object.entries(d.columns).map(([key, { value }]) => sql`${value} as ${sql.ref(key)}`),
  );
  const groups = d.groups ?? [];
  return {
    name: d.name,
    title: d.title,
    about: d.about,
    permission: d.permission,
    async read(context, address) {
      allow(context, d.permission);
      const chosen = Object.fromEntries(
        Object.entries(d.parameters).map(([key, parameter]) => [
          key,
          chosenOf(parameter, address[key], context.today),
        ]),
      );
      const from = d.from(chosen as Chosen<P>, context);
      const where = d.where(chosen as Chosen<P>, context);
      const { rows } =
        await sql<ReportRow>`select ${fields} from ${from} where ${where} group by ${d.rowBy} ${d.having ? sql`having ${d.having}` : sql``} order by ${d.order} limit ${MOST}`.execute(
          context.db,
        );
      const by = groups.includes(address.group ?? '') ? address.group! : '';
      const titleOf = (key: string): string => columns.find((column) => column.key === key)!.title;
      const totals = totalsOf(columns, rows);
      return {
        name: d.name,
        title: d.title,
        about: d.about,
        columns: columns.filter((column) => column.key !== by),
        parameters: [
          ...Object.entries(d.parameters).map(([key, parameter]) => ({
            key,
            label: parameter.label,
            kind: parameter.kind,
            value: chosen[key]!,
            choices:
              parameter.kind === 'choice'
                ? Object.entries(parameter.choices).map(([value, label]) => ({ value, label }))
                : [],
          })),
          ...(groups.length === 0
            ? []
            : [
                {
                  key: 'group',
                  label: 'Grouped by',
                  kind: 'choice' as const,
                  value: by,
                  choices: [
                    { value: '', label: 'nothing' },
                    ...groups.map((key) => ({ value: key, label: titleOf(key).toLowerCase() })),
                  ],
                },
              ]),
        ],
        groups: by ? grouped(columns, rows, by) : [{ words: '', rows, totals }],
        totals,
        rows: rows.length,
        chart: d.chart
          ? { along: d.chart.along, draws: d.chart.draws.map((key) => ({ key, title: titleOf(key) })) }
          : null,
      };
    },
  };
}
