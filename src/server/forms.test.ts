/**
 * What a use case needs, its form sends: without it nothing could ever be saved. That a form sends nothing which its use case does
 * not take, and a press all that it needs, is a matter of types. Read from the sources of the screens, against the inputs as they
 * are.
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

/** The keys without which an input is refused; null for what is no object. */
function keysNeeded(schema: z.ZodType): Set<string> | null {
  const { def } = schema as unknown as {
    def: {
      type: string;
      in?: z.ZodType;
      innerType?: z.ZodType;
      options?: z.ZodType[];
      shape?: z.ZodRawShape;
    };
  };
  if (def.type === 'pipe') return keysNeeded(def.in!);
  if (def.innerType) return keysNeeded(def.innerType);
  if (def.type === 'union') {
    const all = def.options!.map(keysNeeded);
    if (all.some((one) => one === null)) return null;
    return new Set([...all[0]!].filter((key) => all.every((one) => one!.has(key))));
  }
  if (!def.shape) return null;
  const entries = Object.entries(def.shape) as [string, z.ZodType][];
  return new Set(entries.filter(([, one]) => !one.safeParse(undefined).success).map(([key]) => key));
}

/** The keys that each action needs, by its name: those of the use case that it performs. */
function actionKeys(): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
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
      const keys = known && keysNeeded(known.input);
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

/** Adds the names of the fields below a node, also of those in parts of their own. @returns whether all are known */
function fieldNames(node: ts.Node, keys: Set<string>): boolean {
  let whole = true;
  if (ts.isJsxSelfClosingElement(node) || ts.isJsxOpeningElement(node)) {
    const tag = node.tagName.getText();
    if (/^f\.\w+$|Field$|^Form\.Item$/.test(tag)) {
      const name = fieldName(node);
      if (name) keys.add(name);
      return name !== null;
    }
    const part = parts.get(tag);
    if (part) whole = fieldNames(part, keys);
  }
  ts.forEachChild(node, (child) => void (whole = fieldNames(child, keys) && whole));
  return whole;
}

/** What every form sends whose action is a use case as it is. */
function everythingSent(): Sent[] {
  const found: Sent[] = [];
  for (const file of screens)
    visit(file, (node) => {
      if (!ts.isJsxElement(node) || !/^(FormDrawer|DeskForm)$/.test(node.openingElement.tagName.getText()))
        return;
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
      const { line } = file.getLineAndCharacterOfPosition(node.getStart(file));
      found.push({ where: `${relative('.', file.fileName)}:${line + 1}`, action: action.text, keys, whole });
    });
  return found;
}

const faultsOf = (sent: readonly Sent[], needed: ReadonlyMap<string, ReadonlySet<string>>): string[] =>
  sent.flatMap(({ where, action, keys, whole }) =>
    whole
      ? [...(needed.get(action) ?? [])]
          .filter((key) => !keys.has(key))
          .map((key) => `${where}: ${action} needs ${key}`)
      : [],
  );

test('every form sends all that its use case needs', () => {
  const [sent, needed] = [everythingSent(), actionKeys()];
  // Seen at all: every form, with nearly all of what it sends.
  const known = sent.filter(({ action }) => needed.has(action));
  expect(known.length).toBeGreaterThan(18);
  expect(known.filter(({ whole }) => whole).length / known.length).toBeGreaterThan(0.85);
  expect(faultsOf(sent, needed)).toEqual([]);
});

test('what is missing is told', () => {
  const needed = new Map([['a', new Set(['x', 'y'])]]);
  const one = { where: 'w', action: 'a', whole: true };
  expect(faultsOf([{ ...one, keys: new Set(['x']) }], needed)).toEqual(['w: a needs y']);
  expect(faultsOf([{ ...one, keys: new Set(['x', 'y']) }], needed)).toEqual([]);
  expect(faultsOf([{ ...one, keys: new Set(['x']), whole: false }], needed)).toEqual([]);
});
