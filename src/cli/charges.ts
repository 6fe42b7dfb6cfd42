/** Entering the visits of a file: each is entered whole or not at all, and once, however often the file is read. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import type { z } from 'zod';
import { visitsDocument } from '../core/accounts/visits-document';
import { sql } from 'kysely';
import { db } from '../db/connect';
import { Refused, systemContext } from '../server/access';
import { enterVisit } from '../server/accounts/visits';
import type { Context } from '../server/access';
import { Stop } from './cluster';

const print = (words: string): void => void process.stdout.write(`${words}\n`);

type FileVisit = z.output<typeof visitsDocument>['visits'][number];

/** What became of a visit of the file. */
interface Entered {
  visit: number;
  account: string;
  /** The charges' ids; none where it was refused. */
  charges: number[];
  refused?: string;
  field?: string;
}

/** Whose visit it is, and by whom. @throws Refused when that is nobody, or not one alone */
async function whoseOf({ db: desk }: Context, visit: FileVisit) {
  const { rows } = await sql<{ patientId: number; caseId: number | null }>`
    select p.id as "patientId", k.id as "caseId"
    from household h
      join patient p on p.household_id = h.id and p.merged_into is null
      left join care_case k on k.patient_id = p.id
        and case when ${visit.case ?? null}::text is null then k.standing else k.name = ${visit.case ?? ''} end
    where h.number = ${visit.account}
      and lower(p.first) = lower(${visit.first})
      and (${visit.birthDate ?? null}::date is null or p.birth_date = ${visit.birthDate ?? null}::date)
    order by p.id, k.id desc`.execute(desk);
  const [first] = rows;
  if (!first) throw new Refused('unknown', `${visit.first} is nobody of ${visit.account}`, 'first');
  if (new Set(rows.map(({ patientId }) => patientId)).size > 1)
    throw new Refused(
      'invalid',
      `${visit.first} is two of ${visit.account}: say the birth date`,
      'birthDate',
    );
  if (first.caseId === null)
    throw new Refused('unknown', `${visit.first} has no case “${visit.case}”`, 'case');
  const provider = await desk
    .selectFrom('provider')
    .select('id')
    .where('npi', '=', visit.provider)
    .executeTakeFirst();
  if (!provider) throw new Refused('unknown', `Nobody here has the NPI ${visit.provider}`, 'provider');
  return { patientId: first.patientId, caseId: first.caseId, providerId: provider.id };
}

/**
 * Enters the visits of a file (`docs/formats/visits.schema.json`). @returns 0, or 1 where one was refused
 * @throws Stop naming the field that is wrong, before anything is entered
 */
export async function chargesEnter(file: string, json = false): Promise<number> {
  let text: string;
  let value: unknown;
  try {
    text = readFileSync(file, 'utf8');
  } catch {
    throw new Stop(`${file} cannot be read`);
  }
  try {
    value = JSON.parse(text) as unknown;
  } catch {
    throw new Stop(`${file} is not JSON`);
  }
  const parsed = visitsDocument.safeParse(value);
  if (!parsed.success) {
    const [first] = parsed.error.issues;
    throw new Stop(`${first!.path.join('.') || file}: ${first!.message}`);
  }
  const context = await systemContext(db());
  const of = createHash('sha256').update(text).digest('hex').slice(0, 24);
  const done: Entered[] = [];
  for (const [index, visit] of parsed.data.visits.entries()) {
    const said = { visit: index + 1, account: visit.account };
    try {
      const charges = await enterVisit(context, {
        ...(await whoseOf(context, visit)),
        serviceDate: visit.date,
        planned: visit.planned,
        sure: visit.sure,
        lines: visit.lines as never,
        key: `file-${of}-${index}`,
      });
      done.push({ ...said, charges });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      done.push({
        ...said,
        charges: [],
        refused: error.message,
        ...(error.field ? { field: error.field } : {}),
      });
    }
  }
  const refused = done.filter((one) => one.refused !== undefined);
  if (json) print(JSON.stringify(done));
  else {
    for (const one of done)
      print(
        one.refused === undefined
          ? `${one.visit}. ${one.account}: ${one.charges.length} entered`
          : `${one.visit}. ${one.account}: refused${one.field ? ` at ${one.field}` : ''}: ${one.refused}`,
      );
    print(`${done.length - refused.length} entered, ${refused.length} refused`);
  }
  return refused.length === 0 ? 0 : 1;
}
