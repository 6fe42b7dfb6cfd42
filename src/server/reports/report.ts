/**
 * A report, declared whole: its parameters, its columns with what stands in them, what it can be grouped by, its chart.
 * Screen, totals, spreadsheet and print are all made from the declaration.
 */
import { type RawBuilder, sql } from 'kysely';
import { type CalendarDate, addDays, parseDate } from '../../core/calendar';
import { type ShownFilter, filtered } from '../../core/reports/filters';
import { CLOSED_ACCOUNT, type ColumnKind, type ListColumn } from '../../core/reports/lists';
import { type Db, readInBatches } from '../../db/connect';
import { type Context, type Permission, allow } from '../access';
import { isClosed } from '../closed';
import { type FilterColumns, filterConditions, filterNames, readFilters } from '../lists/filters';

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
  /** What holds of it today, in a sentence, beside what its figures mean. */
  says?: (context: Context) => Promise<string>;
  permission: Permission;
  parameters: P;
  columns: Readonly<Record<string, Column>>;
  /** Columns that say nothing for what was chosen: they are left out. */
  silent?: (chosen: Chosen<P>) => readonly string[];
  /** What it can be narrowed by, asked of `from`. */
  filters?: FilterColumns;
  /** The address to which a row leads: the page or the list of what it is about, which the first column names. */
  leads?: RawBuilder<unknown>;
  /**
   * The household of whom a row tells, one of what makes a row; null for a report that tells of none. A row of a household that is
   * closed to who asks says its amounts.
   */
  household: RawBuilder<unknown> | null;
  /** Columns by which its rows can be grouped, with subtotals. */
  groups?: readonly string[];
  /** On paper each group begins a page. */
  pages?: 'group';
  /** The words along the chart, the first column where these say nothing, and the amounts drawn. */
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
  /** Those that were asked for: the first of the report. */
  rows: readonly ReportRow[];
  /** Sums and counts over all rows of the group, as the database has them. */
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
  /** On paper each group begins a page. */
  pages: boolean;
  columns: readonly ListColumn[];
  parameters: readonly ShownParameter[];
  /** What it can be narrowed by, with what is chosen. */
  narrowed: readonly ShownFilter[];
  groups: readonly ReportGroup[];
  /** Sums and counts over all rows, as the database has them. */
  totals: Readonly<Record<string, number>>;
  /** How many rows there are, and how many of them stand in the groups. */
  rows: number;
  shown: number;
  chart: { along: string; draws: readonly { key: string; title: string }[] } | null;
}

/** A declared report. */
export interface Report {
  readonly name: string;
  readonly title: string;
  readonly about: string;
  readonly permission: Permission;
  /** Reads it for what an address asks, with its first rows, from one snapshot. @param most so many rows @throws NotAllowed */
  read(context: Context, address: ReportAddress, most?: number): Promise<ReportPage>;
  /** All its rows, in batches, from one snapshot; the column that they are grouped by is words. @throws NotAllowed */
  stream(context: Context, address: ReportAddress, signal?: AbortSignal): AsyncGenerator<ReportRow[]>;
}

/** What an address asks of a report, as text that anybody may have written. */
export type ReportAddress = Readonly<Record<string, string | undefined>>;

/** So many rows are shown on a screen; totals are of all, and files hold all. */
export const SHOWN_ROWS = 2_000;
const BATCH = 2_000;
/** Where a row leads, beside its columns. */
export const LEADS = 'leads';

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

/** What rows have in common that are grouped by a column. */
const wordsOf = (value: unknown): string => String(value ?? '–');

/** A group as the database counts it: what its rows have in common, how many they are, and sums by column. */
type Counted = Record<string, number> & { rows: number; words: string | null };

/** Reads from one snapshot, whatever is posted meanwhile. */
const inSnapshot = <T>(db: Db, run: (db: Db) => Promise<T>): Promise<T> =>
  db.isTransaction
    ? run(db)
    : db.transaction().setIsolationLevel('repeatable read').setAccessMode('read only').execute(run);

/** Declares a report. */
export function report<const P extends Readonly<Record<string, Parameter>>>(d: Declaration<P>): Report {
  const columns: ListColumn[] = Object.entries(d.columns).map(([key, { title, kind }]) => ({
    key,
    title,
    kind,
  }));
  /** What is read of a row; of one that is closed to who asks its first words and its amounts. */
  const fieldsFor = (context: Context): RawBuilder<unknown> => {
    const closed = d.household ? isClosed(context, d.household) : null;
    const told = (value: RawBuilder<unknown> | null, instead: RawBuilder<unknown>) =>
      closed ? sql`case when ${closed} then ${instead} else ${value} end` : value;
    const first = columns.find(({ kind }) => kind === 'words')?.key;
    return sql.join([
      ...Object.entries(d.columns).map(([key, { kind, value }]) => {
        const shown =
          kind === 'money' || kind === 'number'
            ? value
            : told(value, key === first ? sql`${sql.lit(CLOSED_ACCOUNT)}` : sql`null`);
        return sql`${shown} as ${sql.ref(key)}`;
      }),
      ...(d.leads ? [sql`${told(d.leads, sql`null`)} as ${sql.ref(LEADS)}`] : []),
    ]);
  };
  const summed = columns.filter(({ kind }) => kind === 'money' || kind === 'number').map(({ key }) => key);
  const titleOf = (key: string): string => columns.find((column) => column.key === key)!.title;

  const asked = (context: Context, address: ReportAddress) => {
    allow(context, d.permission);
    const chosen = Object.fromEntries(
      Object.entries(d.parameters).map(([key, parameter]) => [
        key,
        chosenOf(parameter, address[key], context.today),
      ]),
    );
    const narrowed = filtered(filterNames(d.filters ?? {}), address);
    const silent = d.silent?.(chosen as Chosen<P>) ?? [];
    const groups = (d.groups ?? []).filter((key) => !silent.includes(key));
    const by = groups.includes(address.group ?? '') ? address.group! : '';
    const rows = sql`
      select ${fieldsFor(context)}
      from ${d.from(chosen as Chosen<P>, context)}
      where ${sql.join([sql`(${d.where(chosen as Chosen<P>, context)})`, ...filterConditions(d.filters ?? {}, narrowed)], sql` and `)}
      group by ${d.rowBy} ${d.having ? sql`having ${d.having}` : sql``}`;
    const ordered = sql<ReportRow>`${rows} order by ${by ? sql`${sql.ref(by)} nulls last, ` : sql``}${d.order}`;
    return { chosen, silent, groups, narrowed, by, rows, ordered };
  };
  const shownParameters = (
    chosen: Record<string, string>,
    groups: readonly string[],
    by: string,
  ): ShownParameter[] => [
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
  ];

  return {
    name: d.name,
    title: d.title,
    about: d.about,
    permission: d.permission,
    async read(context, address, most = SHOWN_ROWS) {
      const { chosen, silent, groups, narrowed, by, rows, ordered } = asked(context, address);
      const words = by ? sql.ref(by) : sql`null`;
      const sums = summed.map((key) => sql`, coalesce(sum(${sql.ref(key)}), 0) as ${sql.ref(key)}`);
      const [counted, first] = await inSnapshot(context.db, async (db) => [
        (
          await sql<Counted>`
            select count(*) as rows, ${words} as words ${sql.join(sums, sql``)}
            from (${rows}) r
            group by 2
            order by 2 nulls last`.execute(db)
        ).rows,
        (await sql<ReportRow>`${ordered} limit ${most}`.execute(db)).rows,
      ]);
      const found = new Map<string, ReportRow[]>();
      for (const row of first) {
        const key = by ? wordsOf(row[by]) : '';
        const rows = found.get(key);
        if (rows) rows.push(row);
        else found.set(key, [row]);
      }
      const totalsOf = (some: readonly Counted[]): Record<string, number> =>
        Object.fromEntries(summed.map((key) => [key, some.reduce((all, one) => all + one[key]!, 0)]));
      const told = columns.filter(({ key }) => !silent.includes(key));
      const shown = counted.map((group) => {
        const key = by ? wordsOf(group.words) : '';
        return { words: key, rows: found.get(key) ?? [], totals: totalsOf([group]) };
      });
      return {
        name: d.name,
        title: d.title,
        about: d.says ? `${d.about} ${await d.says(context)}` : d.about,
        pages: d.pages === 'group' && by !== '',
        columns: told.filter(({ key }) => key !== by),
        parameters: shownParameters(chosen, groups, by),
        narrowed: await readFilters(context, d.filters ?? {}, narrowed),
        groups: by || shown.length > 0 ? shown : [{ words: '', rows: [], totals: totalsOf([]) }],
        totals: totalsOf(counted),
        rows: counted.reduce((all, group) => all + group.rows, 0),
        shown: first.length,
        chart: d.chart
          ? {
              along: silent.includes(d.chart.along) ? told[0]!.key : d.chart.along,
              draws: d.chart.draws.map((key) => ({ key, title: titleOf(key) })),
            }
          : null,
      };
    },
    async *stream(context, address, signal) {
      const { by, ordered } = asked(context, address);
      const query = ordered.compile(context.db);
      for await (const rows of readInBatches<ReportRow>(context.db, query, BATCH, signal))
        yield by ? rows.map((row) => ({ ...row, [by]: wordsOf(row[by]) })) : rows;
    },
  };
}
