/**
 * What the program says of the columns of its raw queries, against what PostgreSQL brought while the database tests ran: each
 * query was asked at least once, and its columns have the names and the types of its type.
 */
import { readFileSync, readdirSync } from 'node:fs';
import { join, relative } from 'node:path';
import ts from 'typescript';
import { type Brought, sourceOf } from './asked';

/** What a column holds as the driver reads it (`db/connect`). */
type Kind = 'number' | 'string' | 'boolean' | 'Date' | 'number[]' | 'string[]' | 'json';

/** Kinds by the numbers of `pg_type.dat` (PostgreSQL 15); dates are read as text, bigint and numeric as numbers. */
const KINDS: Readonly<Record<number, Kind>> = {
  16: 'boolean',
  18: 'string',
  19: 'string',
  20: 'number',
  21: 'number',
  23: 'number',
  25: 'string',
  114: 'json',
  700: 'number',
  701: 'number',
  1005: 'number[]',
  1007: 'number[]',
  1009: 'string[]',
  1015: 'string[]',
  1016: 'number[]',
  1042: 'string',
  1043: 'string',
  1082: 'string',
  1184: 'Date',
  1700: 'number',
  3802: 'json',
};

/** A query with the columns that its type names; `fits` says whether one may hold a kind. */
interface Typed {
  where: string;
  columns: Map<string, { type: string; optional: boolean; fits: (kind: Kind) => boolean }>;
}

/** Every `sql<…>` that is executed and whose type names its columns, by its source. */
function typedQueries(): Map<string, Typed> {
  const host = { ...ts.sys, onUnRecoverableConfigFileDiagnostic: () => undefined };
  const config = ts.getParsedCommandLineOfConfigFile('tsconfig.json', {}, host)!;
  const program = ts.createProgram(
    config.fileNames.filter((name) => /\/src\/server\//.test(name) && !name.endsWith('.test.ts')),
    config.options,
  );
  const checker = program.getTypeChecker();
  const found = new Map<string, Typed>();
  const columnOf = (type: ts.Type) => {
    const own = checker.getNonNullableType(type);
    const parts = own.isUnion() ? own.types : [own];
    const all = (wanted: ts.Type): boolean => parts.every((part) => checker.isTypeAssignableTo(part, wanted));
    const elements = checker.isArrayType(own)
      ? checker.getNonNullableType(checker.getTypeArguments(own as ts.TypeReference)[0]!)
      : null;
    const anything = (own.flags & (ts.TypeFlags.Any | ts.TypeFlags.Unknown)) !== 0;
    return (kind: Kind): boolean => {
      if (anything || kind === 'json') return own.symbol?.name !== 'Date';
      if (kind === 'number') return all(checker.getNumberType());
      if (kind === 'string') return all(checker.getStringType());
      if (kind === 'boolean') return all(checker.getBooleanType());
      if (kind === 'Date') return own.symbol?.name === 'Date';
      const wanted = kind === 'number[]' ? checker.getNumberType() : checker.getStringType();
      return elements !== null && checker.isTypeAssignableTo(elements, wanted);
    };
  };
  for (const file of program.getSourceFiles()) {
    if (!/\/src\/server\//.test(file.fileName)) continue;
    const visit = (node: ts.Node): void => {
      ts.forEachChild(node, visit);
      if (!ts.isTaggedTemplateExpression(node) || node.tag.getText(file) !== 'sql') return;
      if (!ts.isPropertyAccessExpression(node.parent) || node.parent.name.text !== 'execute') return;
      const [given] = node.typeArguments ?? [];
      if (!given) return;
      const type = checker.getTypeFromTypeNode(given);
      // Columns that are put together (a list's, a report's) are told of by tests of their own.
      if (checker.getIndexInfosOfType(type).length > 0 || isOpen(type)) return;
      const { template } = node;
      const words = ts.isNoSubstitutionTemplateLiteral(template)
        ? [template.text]
        : [template.head.text, ...template.templateSpans.map(({ literal }) => literal.text)];
      const { line } = file.getLineAndCharacterOfPosition(node.getStart(file));
      const columns: Typed['columns'] = new Map();
      for (const property of checker.getPropertiesOfType(type)) {
        const own = checker.getTypeOfSymbol(property);
        columns.set(property.name, {
          type: checker.typeToString(own),
          optional: (property.flags & ts.SymbolFlags.Optional) !== 0,
          fits: columnOf(own),
        });
      }
      found.set(sourceOf(words), { where: `${relative('.', file.fileName)}:${line + 1}`, columns });
    };
    visit(file);
  }
  return found;
}

/** Whether a type is not known before it is used, such as a type parameter. */
const isOpen = (type: ts.Type): boolean => (type.flags & ts.TypeFlags.TypeParameter) !== 0;

/** What a query brought that its type does not say, or the other way round. */
function faultsOf({ where, columns }: Typed, brought: Brought): string[] {
  const names = new Set(brought.map(([name]) => name));
  const missing = [...columns]
    .filter(([name, { optional }]) => !optional && !names.has(name))
    .map(([name]) => `${where}: the type names ${name}, which the query does not bring`);
  const wrong = brought.flatMap(([name, type]) => {
    const column = columns.get(name);
    const kind = KINDS[type];
    if (!column) return [`${where}: the query brings ${name}, which the type does not name`];
    if (!kind) return [`${where}: ${name} is of the type ${type} of pg_type, which nobody here knows`];
    return column.fits(kind) ? [] : [`${where}: ${name} is ${kind}, the type says ${column.type}`];
  });
  return [...missing, ...wrong];
}

/**
 * @param folder where `testing/asked` noted what was asked
 * @param whole whether all database tests ran, so that a query that was never asked is one without a test
 * @returns what is wrong, in words
 */
export function typedQueryFaults(folder: string, whole: boolean): string[] {
  const asked = new Map<string, Brought[]>();
  for (const name of readdirSync(folder))
    for (const [source, all] of JSON.parse(readFileSync(join(folder, name), 'utf8')) as [string, Brought[]][])
      asked.set(source, [...(asked.get(source) ?? []), ...all]);
  const faults = [...typedQueries()].flatMap(([source, typed]) => {
    const brought = asked.get(source);
    if (!brought) return whole ? [`${typed.where}: no test asks this query`] : [];
    return brought.flatMap((one) => faultsOf(typed, one));
  });
  return [...new Set(faults)];
}
