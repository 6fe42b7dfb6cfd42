/**
 * What screens send and what use cases take are the same words: a field that nobody reads is typed in vain, and one that is needed
 * and never sent can never be saved. Read from the sources of the screens, against the inputs as they are.
 */
import { readFileSync, readdirSync } from 'node:fs';
import { join, relative, resolve } from 'node:path';
import ts from 'typescript';
import type { z } from 'zod';
import { type AnyUseCase, useCases } from './use-case';

/** Files below a folder. */
const filesOf = (folder: string, wanted: RegExp): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((item) => {
    const path = join(folder, item.name);
    return item.isDirectory() ? filesOf(path, wanted) : wanted.test(item.name) ? [path] : [];
  });
const parsed = (path: string): ts.SourceFile =>
  ts.createSourceFile(path, readFileSync(path, 'utf8'), ts.ScriptTarget.Latest, true, ts.ScriptKind.TSX);
const visit = (node: ts.Node, see: (node: ts.Node) => void): void => {
  see(node);
  ts.forEachChild(node, (child) => visit(child, see));
};

/** The keys of an input, and those without which it is refused. */
interface Keys {
  all: Set<string>;
  needed: Set<string>;
}

/** The keys of an object's schema, or of several that one of is to be; null for what is no object. */
function keysOf(schema: z.ZodType): Keys | null {
  const { def } = schema as unknown as {
    def: {
      type: string;
      in?: z.ZodType;
      innerType?: z.ZodType;
      options?: z.ZodType[];
      shape?: z.ZodRawShape;
    };
  };
  if (def.type === 'pipe') return keysOf(def.in!);
  if (def.innerType) return keysOf(def.innerType);
  if (def.type === 'union') {
    const all = def.options!.map(keysOf);
    if (all.some((one) => one === null)) return null;
    return {
      all: new Set(all.flatMap((one) => [...one!.all])),
      needed: new Set([...all[0]!.needed].filter((key) => all.every((one) => one!.needed.has(key)))),
    };
  }
  if (!def.shape) return null;
  const entries = Object.entries(def.shape) as [string, z.ZodType][];
  return {
    all: new Set(entries.map(([key]) => key)),
    needed: new Set(entries.filter(([, one]) => !one.safeParse(undefined).success).map(([key]) => key)),
  };
}

/** The keys that each action takes, by its name: those of the use case that it performs. */
function actionKeys(): Map<string, Keys> {
  const found = new Map<string, Keys>();
  for (const path of filesOf('src/app', /^actions\.ts$/)) {
    const file = parsed(path);
    const from = new Map<string, string>();
    const performs = new Map<string, string>();
    visit(file, (node) => {
      if (ts.isImportDeclaration(node) && node.importClause?.namedBindings)
        for (const { name } of (node.importClause.namedBindings as ts.NamedImports).elements)
          from.set(name.text, (node.moduleSpecifier as ts.StringLiteral).text);
      if (!ts.isVariableDeclaration(node) || !node.name.getText(file).endsWith('Action')) return;
      visit(node, (inner) => {
        if (!ts.isCallExpression(inner)) return;
        const [first, second] = inner.arguments;
        // perform(useCase, input), or useCase(context, input).
        if (second?.getText(file) !== 'input') return;
        const called = inner.expression.getText(file) === 'perform' ? first! : inner.expression;
        performs.set(node.name.getText(file), called.getText(file));
      });
    });
    for (const [action, name] of performs) {
      const place = from.get(name);
      if (!place?.includes('/server/')) continue;
      // eslint-disable-next-line @typescript-eslint/no-require-imports
      const module = require(resolve(path, '..', place)) as Record<string, AnyUseCase>;
      const known = useCases().get(module[name]!.title);
      const keys = known && keysOf(known.input);
      if (keys) found.set(action, keys);
    }
  }
  return found;
}

/** What a screen sends to an action. */
interface Sent {
  where: string;
  action: string;
  keys: Set<string>;
  /** Whether all of it stands in the source, word by word. */
  whole: boolean;
}

/** Functions of the screens by their names, for fields that stand in a part of their own. */
const parts = new Map<string, ts.Node>();
const screens = ['src/app', 'src/ui'].flatMap((folder) => filesOf(folder, /\.tsx$/)).map(parsed);
for (const file of screens)
  visit(file, (node) => {
    if (ts.isFunctionDeclaration(node) && node.name) parts.set(node.name.text, node);
    if (ts.isVariableDeclaration(node) && node.initializer && ts.isArrowFunction(node.initializer))
      parts.set(node.name.getText(file), node.initializer);
  });

const attribute = (node: ts.JsxOpeningLikeElement, name: string): ts.JsxAttribute | undefined =>
  node.attributes.properties.find(
    (one): one is ts.JsxAttribute => ts.isJsxAttribute(one) && one.name.getText() === name,
  );

/** Keys of an object as it is written; false for one of which some stand elsewhere. */
function literalKeys(value: ts.Expression | undefined, keys: Set<string>): boolean {
  if (!value || !ts.isObjectLiteralExpression(value)) return false;
  let whole = true;
  for (const one of value.properties) {
    const conditional = ts.isSpreadAssignment(one) ? unbracketed(one.expression) : null;
    if (one.name && !ts.isComputedPropertyName(one.name)) keys.add(one.name.getText().replace(/['"]/g, ''));
    else if (conditional && ts.isConditionalExpression(conditional)) {
      // What is sent at times counts as sent.
      for (const side of [conditional.whenTrue, conditional.whenFalse])
        whole = literalKeys(unbracketed(side), keys) && whole;
    } else whole = false;
  }
  return whole;
}
const unbracketed = (node: ts.Expression): ts.Expression =>
  ts.isParenthesizedExpression(node) ? unbracketed(node.expression) : node;

/** The name of a field: `name="last"`, or what its properties are made from, as in `{...on('last')}`; undefined where it has none. */
function fieldName(field: ts.JsxOpeningLikeElement): string | null | undefined {
  const name = attribute(field, 'name')?.initializer;
  if (name) return ts.isStringLiteral(name) ? name.text : null;
  const [spread] = field.attributes.properties.filter(ts.isJsxSpreadAttribute);
  if (!spread) return undefined;
  const [word] = ts.isCallExpression(spread.expression) ? spread.expression.arguments : [];
  return word && ts.isStringLiteral(word) ? word.text : null;
}

/**
 * Adds the names of the fields below a node, also of those in parts of their own.
 * @param used how the part is used in which the node stands: what `orders && …` and `parts.includes('address') && …` depend on
 * @returns whether all are known
 */
function fieldNames(node: ts.Node, keys: Set<string>, used?: ts.JsxOpeningLikeElement): boolean {
  if (ts.isBinaryExpression(node) && used) {
    const [, prop = '', section] = /^(\w+)(?:\.includes\('(\w+)'\))?$/.exec(node.left.getText()) ?? [];
    const given = attribute(used, prop);
    if (prop && (section ? !given?.getText().includes(`'${section}'`) : !given)) return true;
  }
  let whole = true;
  if (ts.isJsxSelfClosingElement(node) || ts.isJsxOpeningElement(node)) {
    const tag = node.tagName.getText();
    if (/Field$|^Form\.Item$/.test(tag)) {
      const name = fieldName(node);
      if (name) keys.add(name);
      return name !== null;
    }
    const part = parts.get(tag);
    if (part) whole = fieldNames(part, keys, node);
  }
  ts.forEachChild(node, (child) => void (whole = fieldNames(child, keys, used) && whole));
  return whole;
}

function everythingSent(): Sent[] {
  const found: Sent[] = [];
  for (const file of screens)
    visit(file, (node) => {
      const { line } = file.getLineAndCharacterOfPosition(node.getStart(file));
      const where = `${relative('.', file.fileName)}:${line + 1}`;
      if (ts.isJsxElement(node) && /^(FormDrawer|DeskForm)$/.test(node.openingElement.tagName.getText())) {
        const { openingElement: form } = node;
        const value = (name: string): ts.Expression | undefined => {
          const initializer = attribute(form, name)?.initializer;
          return initializer && ts.isJsxExpression(initializer) ? initializer.expression : undefined;
        };
        const action = value('action');
        if (!action || !ts.isIdentifier(action)) return;
        const keys = new Set<string>();
        let whole = node.children.map((child) => fieldNames(child, keys)).every(Boolean);
        if (attribute(form, 'along')) whole = literalKeys(value('along'), keys) && whole;
        if (attribute(form, 'version')) keys.add('version');
        if (attribute(form, 'once')) keys.add('key');
        found.push({ where, action: action.text, keys, whole });
      }
      if (ts.isCallExpression(node) && /^\w+Action$/.test(node.expression.getText())) {
        const [given] = node.arguments;
        if (!given || !ts.isObjectLiteralExpression(given)) return;
        const keys = new Set<string>();
        const whole = literalKeys(given, keys);
        found.push({ where, action: node.expression.getText(), keys, whole });
      }
    });
  return found;
}

const faultsOf = (sent: readonly Sent[], taken: ReadonlyMap<string, Keys>): string[] =>
  sent.flatMap(({ where, action, keys, whole }) => {
    const wanted = taken.get(action);
    if (!wanted) return [];
    return [
      ...[...keys]
        .filter((key) => !wanted.all.has(key) && key !== 'sure')
        .map((key) => `${where}: ${action} does not take ${key}`),
      ...(whole ? [...wanted.needed].filter((key) => !keys.has(key)) : []).map(
        (key) => `${where}: ${action} needs ${key}`,
      ),
    ];
  });

test('every screen sends what its use case takes, and all that it needs', () => {
  const [sent, taken] = [everythingSent(), actionKeys()];
  // Seen at all: nearly every form and press, with nearly all of what it sends.
  const known = sent.filter(({ action }) => taken.has(action));
  expect(known.length).toBeGreaterThan(85);
  expect(known.filter(({ whole }) => whole).length / known.length).toBeGreaterThan(0.85);
  expect(faultsOf(sent, taken)).toEqual([]);
});

test('a field that nobody reads is told, and one that is missing', () => {
  const taken = new Map([['a', { all: new Set(['x', 'y', 'z']), needed: new Set(['x', 'y']) }]]);
  const one = { where: 'w', action: 'a', whole: true };
  expect(faultsOf([{ ...one, keys: new Set(['x', 'wrong']) }], taken)).toEqual([
    'w: a does not take wrong',
    'w: a needs y',
  ]);
  expect(faultsOf([{ ...one, keys: new Set(['x']), whole: false }], taken)).toEqual([]);
});
