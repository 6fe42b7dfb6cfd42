/** Estimates of a file: what each payer and the patient are expected to pay, with the steps that led there. */
import { readFileSync } from 'node:fs';
import { estimateDocument, estimateOf } from '../core/estimates/document';
import { sum, toDecimal } from '../core/money';
import { Stop } from './cluster';

const print = (words: string): void => void process.stdout.write(`${words}\n`);

function documentOf(file: string): unknown {
  let text: string;
  try {
    text = readFileSync(file, 'utf8');
  } catch {
    throw new Stop(`${file} cannot be read`);
  }
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Stop(`${file} is not JSON`);
  }
}

/**
 * Says what a file's charges are expected to cost whom (`docs/formats/estimate.schema.json`).
 * @throws Stop naming the field that is wrong
 */
export function estimateFile(file: string, json = false): number {
  const parsed = estimateDocument.safeParse(documentOf(file));
  if (!parsed.success) {
    const [first, ...more] = parsed.error.issues;
    const others = more.length > 0 ? `, and ${more.length} more` : '';
    throw new Stop(`${first!.path.join('.') || file}: ${first!.message}${others}`);
  }
  const found = estimateOf(parsed.data);
  if (json) {
    print(JSON.stringify(found));
    return 0;
  }
  for (const one of found) {
    const { code, date } = parsed.data.charges[one.id - 1]!;
    print(`${one.id}. ${code}, ${date}`);
    for (const { words, amount } of one.steps) print(`   ${toDecimal(amount).padStart(12)}  ${words}`);
    for (const { reached, payer } of one.payers)
      for (const { words, confirm } of reached)
        print(`   ${payer}: this goes beyond ${words}${confirm ? ', which has to be meant' : ''}`);
  }
  const paid = sum(found.flatMap(({ payers }) => payers.map(({ pays }) => pays)));
  print(`Payers ${toDecimal(paid)}, patient ${toDecimal(sum(found.map(({ patient }) => patient)))}`);
  return 0;
}
