/** Letters: their words with versions, and what they say to an account today. */
import type { z } from 'zod';
import { sql } from 'kysely';
import { letterInput, letterPreviewInput } from '../../core/overdue/input';
import {
  BLOCKS,
  type Block,
  type LetterContent,
  blocksDocument,
  brokenParts,
  fillLetter,
} from '../../core/overdue/letters';
import type { Stage } from '../../core/overdue/policy';
import { wordsOf } from '../../core/statements/compose';
import { PLAIN_OPTIONS } from '../../core/statements/document';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { parseInput } from '../input';
import { readContents } from '../statements/door';
import { readPolicies } from '../setup/statement-policies';
import { useCase } from '../use-case';
import { refuseOlder } from '../versions';
import { type OverdueAccount, readOverdue } from './facts';

/** A letter with its newest words. */
export interface LetterRow {
  id: number;
  name: string;
  active: boolean;
  version: number;
  versionId: number;
  number: number;
  subject: string;
  blocks: Block[];
  changedBy: string;
  changedOn: string;
  /** Stages that it is the letter of. */
  stages: string[];
  /** How often a version of it went out. */
  sent: number;
}

/** Reads the letters with their newest words. */
export async function readLetters(context: Context): Promise<LetterRow[]> {
  allow(context, 'read accounts');
  const { rows } = await sql<Omit<LetterRow, 'blocks'> & { blocks: unknown }>`
    select t.id, t.name, t.active, t.version, v.id as "versionId", v.number, v.subject, v.blocks,
      v.user_name as "changedBy", v.made_on as "changedOn",
      coalesce(
        (select array_agg(s.name order by s.position) from overdue_stage s where s.template_id = t.id), '{}'
      ) as stages,
      (
        select count(*) from letter l join letter_version w on w.id = l.version_id where w.template_id = t.id
      ) as sent
    from letter_template t
      join lateral (select * from letter_version v where v.template_id = t.id order by v.number desc limit 1) v
        on true
    order by t.id`.execute(context.db);
  return rows.map(({ blocks, ...row }) => ({ ...row, blocks: blocksDocument.read(blocks) }));
}

/** Words that cannot be read. @throws Refused naming the part */
function refuseBroken(subject: string, blocks: readonly Block[]): void {
  const [broken] = brokenParts(subject, blocks);
  if (broken) throw new Refused('state', broken.message, broken.part === 0 ? 'subject' : 'blocks');
}

/** The newest words of a letter; undefined for one that has none yet. */
const lastVersion = (tx: Tx, templateId: number) =>
  tx
    .selectFrom('letter_version')
    .select(['number', 'subject', 'blocks'])
    .where('template_id', '=', templateId)
    .orderBy('number', 'desc')
    .executeTakeFirst();

/** The parts of a letter as a person compares them. */
const inWords = (blocks: readonly Block[]): string =>
  blocks.map(({ kind, text }) => text || BLOCKS[kind].words).join(' / ');

/** Saves a letter: its words become a new version, the ones that were used stay as they are. @returns the letter's id */
export const saveLetter = useCase({
  name: 'save letter',
  permission: 'change setup',
  input: letterInput,
  async run(act, { templateId, name, active, subject, blocks, version }) {
    refuseBroken(subject, blocks);
    const tx = act.db;
    const twin = await tx
      .selectFrom('letter_template')
      .select('id')
      .where(sql<boolean>`lower(name) = lower(${name})`)
      .executeTakeFirst();
    if (twin && twin.id !== templateId)
      throw new Refused('invalid', 'There is a letter of this name', 'name');
    let id = templateId;
    if (id === null) {
      const made = await tx
        .insertInto('letter_template')
        .values({ name, active })
        .onConflict((conflict) => conflict.doNothing())
        .returning('id')
        .executeTakeFirst();
      if (!made) throw new Refused('invalid', 'There is a letter of this name', 'name');
      id = made.id;
    } else {
      const there = await tx
        .selectFrom('letter_template')
        .select(['name', 'active', 'version'])
        .where('id', '=', id)
        .forUpdate()
        .executeTakeFirst();
      if (!there) throw new Refused('unknown', 'There is no such letter');
      const words = await lastVersion(tx, id);
      refuseOlder(
        version,
        there.version,
        {
          ...there,
          subject: words?.subject,
          blocks: words ? inWords(blocksDocument.read(words.blocks)) : '',
        },
        { name, active, subject, blocks: inWords(blocks) },
        { name: 'Name', active: 'In use', subject: 'Subject', blocks: 'Words' },
      );
      const used = await tx
        .selectFrom('overdue_stage')
        .select('name')
        .where('template_id', '=', id)
        .executeTakeFirst();
      if (!active && used)
        throw new Refused('invalid', `It is the letter of the stage “${used.name}”`, {
          field: 'active',
          facts: { name: used.name },
        });
      await tx.updateTable('letter_template').set({ name, active }).where('id', '=', id).execute();
    }
    const last = await lastVersion(tx, id);
    const same =
      last !== undefined &&
      last.subject === subject &&
      JSON.stringify(blocksDocument.read(last.blocks)) === JSON.stringify(blocks);
    if (!same)
      await tx
        .insertInto('letter_version')
        .values({
          template_id: id,
          number: (last?.number ?? 0) + 1,
          subject,
          blocks: blocksDocument.write(blocks),
          user_name: act.user.name,
          made_on: act.today,
        })
        .execute();
    await act.note('saved', { kind: 'letter', id }, { name, version: (last?.number ?? 0) + (same ? 0 : 1) });
    return id;
  },
});

/** The words of a letter that a stage goes by now. */
interface Words {
  versionId: number;
  subject: string;
  blocks: Block[];
}

/** The newest words of letters, by letter. */
export async function newestWords(db: Db): Promise<Map<number, Words>> {
  const { rows } = await sql<{ templateId: number; versionId: number; subject: string; blocks: unknown }>`
    select distinct on (template_id) template_id as "templateId", id as "versionId", subject, blocks
    from letter_version
    order by template_id, number desc`.execute(db);
  return new Map(
    rows.map(({ templateId, blocks, ...row }) => [
      templateId,
      { ...row, blocks: blocksDocument.read(blocks) },
    ]),
  );
}

/** What is asked for one letter. */
export interface AskedLetter {
  account: Pick<OverdueAccount, 'householdId' | 'patientId'> & {
    facts: Pick<OverdueAccount['facts'], 'charges'>;
  };
  stage: Pick<Stage, 'position' | 'name'> & { id: number | null };
  words: Words;
}

/** What letters would say today, in the order in which they are asked for; a fixed number of queries whatever their number. */
export async function letterContents(
  context: Context,
  asked: readonly AskedLetter[],
): Promise<LetterContent[]> {
  const statements = await readContents(
    context,
    await readPolicies(context.db),
    asked.map(({ account: { householdId, patientId } }) => ({
      householdId,
      patientId,
      options: PLAIN_OPTIONS,
    })),
  );
  const chargeIds = asked.flatMap(({ account }) => account.facts.charges.map(({ chargeId }) => chargeId));
  const rows = await context.db
    .selectFrom('charge as c')
    .leftJoin('patient as p', 'p.id', 'c.patient_id')
    .select([
      'c.id',
      'c.service_date as date',
      'c.description as title',
      sql<string>`coalesce(p.first, '')`.as('patient'),
    ])
    .where('c.id', '=', sql<number>`any(${chargeIds}::bigint[])`)
    .execute();
  const about = new Map(rows.map((row) => [row.id, row]));
  return asked.map(({ account, stage, words }, index): LetterContent => {
    const statement = statements[index]!;
    const { facts } = account;
    const charges = facts.charges.map(({ chargeId, amount, since }) => {
      const { date, title, patient } = about.get(chargeId)!;
      return { chargeId, date, patient, title, since, amount };
    });
    const pastDue = charges.reduce(
      (all, { amount }) => (all + amount) as typeof amount,
      0 as LetterContent['pastDue'],
    );
    return {
      paper: statement.paper,
      practice: { ...statement.practice, line2: '' },
      remit: { ...statement.remit, line2: '' },
      hours: statement.hours,
      account: statement.account,
      to: statement.to,
      date: context.today,
      ...fillLetter(words, { ...wordsOf(statement), pastDue }),
      stage: { id: stage.id, position: stage.position, name: stage.name },
      versionId: words.versionId,
      pastDue,
      charges,
    };
  });
}

/**
 * A letter's words as they would go to an account today; what is not past due stands there as nothing.
 * @throws Refused naming the part that is broken
 */
export async function previewLetter(
  context: Context,
  input: z.input<typeof letterPreviewInput>,
): Promise<LetterContent> {
  allow(context, 'read accounts');
  const { householdId, subject, blocks } = parseInput(letterPreviewInput, input);
  refuseBroken(subject, blocks);
  const [account] = await readOverdue(context, [householdId]);
  const [content] = await letterContents(context, [
    {
      account: account ?? { householdId, patientId: null, facts: { charges: [] } },
      stage: { id: null, position: 0, name: '' },
      words: { versionId: 0, subject, blocks },
    },
  ]);
  await opened(context, { kind: 'household', id: householdId });
  return content!;
}
