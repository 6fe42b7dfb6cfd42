/**
 * The simulated print shop and message gateway. The shop takes parcels from its outbox folder and answers for each piece in
 * the index; the gateway takes messages and answers for each. Both know what they have taken: a piece that comes again under
 * its id is answered as before and not delivered twice; what came back was not delivered, and is tried again. They know nothing
 * but the files.
 */
import { appendFile, mkdir, readFile, readdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import Papa from 'papaparse';
import { type PieceAnswer, writeAnswers } from '../core/mail/answers';
import { namedOutside } from '../core/mail/pieces';

const keyOf = ({ what, id }: Pick<PieceAnswer, 'what' | 'id'>): string => `${what} ${id}`;

/** What was delivered, by its id: a line each in a file of its own, so that a piece that was delivered twice would be seen. */
async function delivered(root: string): Promise<Map<string, PieceAnswer>> {
  const text = await readFile(join(root, 'delivered.jsonl'), 'utf8').catch(() => '');
  const answers = text
    .split('\n')
    .filter(Boolean)
    .map((line) => JSON.parse(line) as PieceAnswer);
  return new Map(answers.map((answer) => [keyOf(answer), answer]));
}

/** Takes the files of a kind out of the outbox, oldest name first. */
async function filesOf(root: string, ending: string): Promise<string[]> {
  const names = await readdir(join(root, 'outbox')).catch(() => []);
  return names.filter((name) => name.endsWith(ending)).sort();
}

/** Writes the answers into the inbox and puts the files away. */
async function answer(
  root: string,
  names: readonly string[],
  answers: readonly PieceAnswer[],
  known: ReadonlyMap<string, PieceAnswer>,
): Promise<string[]> {
  if (names.length === 0) return [];
  await mkdir(join(root, 'inbox'), { recursive: true });
  await mkdir(join(root, 'archive', 'out'), { recursive: true });
  const number = `${Date.now()}`;
  const file = `answers-${names[0]!.replace(/\.[^.]+$/, '')}-${number}.csv`;
  await writeFile(join(root, 'inbox', `${file}.part`), writeAnswers(answers, number));
  await rename(join(root, 'inbox', `${file}.part`), join(root, 'inbox', file));
  const seen = new Set(known.keys());
  const fresh = answers.filter((said) => {
    const isFresh = !seen.has(keyOf(said)) && said.result !== 'undeliverable' && said.result !== 'bounced';
    seen.add(keyOf(said));
    return isFresh;
  });
  if (fresh.length > 0)
    await appendFile(
      join(root, 'delivered.jsonl'),
      fresh.map((item) => `${JSON.stringify(item)}\n`).join(''),
    );
  for (const name of names) await rename(join(root, 'outbox', name), join(root, 'archive', 'out', name));
  return [file];
}

/** What the shop says of an address: some cannot be found, some are corrected, by the street that stands there. */
function shopSays(row: Readonly<Record<string, string>>): Pick<PieceAnswer, 'result' | 'words'> {
  const street = row.street ?? '';
  if (/\bVacant\b/i.test(street)) return { result: 'undeliverable', words: 'vacant' };
  const long = /\b(Street|Lane|Road)$/i.exec(street);
  const number = Number(/^\d+/.exec(street)?.[0] ?? 0);
  if (long && number % 37 === 0)
    return { result: 'address-corrected', words: `${street}, ${row.zip?.slice(0, 5) ?? ''}-0001` };
  return { result: 'accepted', words: '' };
}

/** One turn of the print shop on its folder. @returns names of the files put into the inbox */
export async function printShopRound(root: string): Promise<string[]> {
  const names = await filesOf(root, '.zip');
  const known = await delivered(root);
  const answers: PieceAnswer[] = [];
  for (const name of names) {
    const files = unzipSync(await readFile(join(root, 'outbox', name)));
    const index = new TextDecoder().decode(files['index.csv']);
    const { data } = Papa.parse<Record<string, string>>(index, { header: true, skipEmptyLines: true });
    for (const row of data) {
      const piece = namedOutside(row.piece ?? '');
      if (piece === null) continue;
      const before = known.get(keyOf(piece));
      const said = before ?? {
        ...piece,
        ...(files[row.file ?? ''] ? shopSays(row) : { result: 'undeliverable' as const, words: 'no paper' }),
      };
      answers.push(said);
    }
  }
  return answer(root, names, answers, known);
}

/** One turn of the message gateway on its folder. @returns names of the files put into the inbox */
export async function gatewayRound(root: string): Promise<string[]> {
  const names = await filesOf(root, '.eml');
  const known = await delivered(root);
  const answers: PieceAnswer[] = [];
  for (const name of names) {
    const text = await readFile(join(root, 'outbox', name), 'latin1');
    const piece = namedOutside(/^Message-ID:\s*<([PR]\d+)@/im.exec(text)?.[1] ?? '');
    if (piece === null) continue;
    const before = known.get(keyOf(piece));
    const to = /^To:.*?([^\s<]+@[^\s>]+)/im.exec(text)?.[1] ?? '';
    const said =
      before ??
      (to.startsWith('bounce') || to === ''
        ? { ...piece, result: 'bounced' as const, words: 'no such mailbox' }
        : { ...piece, result: 'accepted' as const, words: '' });
    answers.push(said);
  }
  return answer(root, names, answers, known);
}
