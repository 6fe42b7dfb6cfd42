/** Codes that were missing while a visit was entered: added on the spot, and looked at by a manager later. */
import { sql } from 'kysely';
import { addCodeInput, addDiagnosisInput, lookedAtInput } from '../../core/setup/added';
import { type Cents, cents, parseMoney } from '../../core/money';
import { Refused } from '../access';
import { list, money, textLike, words } from '../lists/list';
import { writeFees } from '../fees/write';
import { useCase } from '../use-case';

/** No fee is more than this, in cents. */
const MOST = cents(1_000_000_00);

/**
 * Adds a service code on the spot, with its office fee where one is said.
 * @throws Refused when it is there already, also as an inactive one, or its category is not in Setup
 */
export const addServiceCode = useCase({
  name: 'add service code',
  permission: 'enter charges',
  input: addCodeInput,
  async run(act, { code, description, category, form, fee, modifiers }) {
    const tx = act.db;
    const amount = fee === '' ? null : parseMoney(fee);
    if (fee !== '' && (amount === null || amount < 0 || amount > MOST))
      throw new Refused('invalid', 'Fee is not an amount', 'fee');
    if (
      !(await tx
        .selectFrom('service_category')
        .select('name')
        .where('name', '=', category)
        .executeTakeFirst())
    )
      throw new Refused('unknown', 'This category is not in Setup', 'category');
    const made = await tx
      .insertInto('service_code')
      .values({ code, description, category, form, modifiers, added_by: act.user.name })
      .onConflict((conflict) => conflict.doNothing())
      .returning('code')
      .executeTakeFirst();
    if (!made) {
      const { active } = await tx
        .selectFrom('service_code')
        .select('active')
        .where('code', '=', code)
        .executeTakeFirstOrThrow();
      throw new Refused(
        'already',
        active
          ? `${code} is in the list already`
          : `${code} is in the list as an inactive one: ask a manager`,
        'code',
      );
    }
    if (amount !== null) {
      const { id: scheduleId } = await tx
        .selectFrom('fee_schedule')
        .select('id')
        .where('standard', '=', true)
        .executeTakeFirstOrThrow();
      await writeFees(act, { scheduleId, from: null, words: 'added while entering' }, [
        { code, amount, facility: null },
      ]);
    }
    await act.note('added while entering', { kind: 'service code', id: code }, { description, fee });
  },
});

/** Adds a diagnosis on the spot. @throws Refused when it is there already */
export const addDiagnosis = useCase({
  name: 'add diagnosis',
  permission: 'enter charges',
  input: addDiagnosisInput,
  async run(act, { code, description }) {
    const made = await act.db
      .insertInto('diagnosis')
      .values({ code, description, added_by: act.user.name })
      .onConflict((conflict) => conflict.doNothing())
      .returning('code')
      .executeTakeFirst();
    if (!made) throw new Refused('already', `${code} is in the list already`, 'code');
    await act.note('added while entering', { kind: 'diagnosis', id: code }, { description });
  },
});

/** Notes that a code that was added on the spot was looked at: it leaves the list. */
export const lookedAtCode = useCase({
  name: 'look at added code',
  permission: 'change setup',
  input: lookedAtInput,
  async run(act, { kind, code }) {
    const looked = await act.db
      .updateTable(kind === 'service' ? 'service_code' : 'diagnosis')
      .set({ added_by: '' })
      .where('code', '=', code)
      .where('added_by', '<>', '')
      .returning('code')
      .executeTakeFirst();
    if (looked)
      await act.note('looked at', { kind: kind === 'service' ? 'service code' : 'diagnosis', id: code });
  },
});

/** Codes that were added while visits were entered, and that nobody has looked at yet. */
export const addedList = list({
  name: 'added-codes',
  noun: ['code added while entering', 'codes added while entering'],
  permission: 'change setup',
  station: 'Setup',
  path: '/setup/added',
  from: sql`(
    select k.*, row_number() over (order by k.kind, k.code) as number
    from (
      select 'service' as kind, s.code, s.description, s.added_by,
        coalesce((select sum(c.fee) from charge c where c.code = s.code and c.status = 'done'), 0)::bigint as charged
      from service_code s
      where s.added_by <> ''
      union all
      select 'diagnosis', d.code, d.description, d.added_by, 0
      from diagnosis d
      where d.added_by <> ''
    ) k
  ) k`,
  household: null,
  id: sql`k.number`,
  columns: {
    code: words('Code', sql`k.code`),
    kind: words('What', sql<'service' | 'diagnosis'>`k.kind`),
    description: words('Words', sql`k.description`),
    by: words('Added by', sql`k.added_by`),
    charged: money('Charged with it', sql<Cents>`k.charged`),
  },
  views: {
    all: {
      label: 'All',
      waits: { words: ['code was added while entering', 'codes were added while entering'], sum: 'charged' },
    },
  },
  search: (like) => sql`${textLike(sql`k.code`, like)} or ${textLike(sql`k.description`, like)}`,
  order: sql`k.kind, k.code`,
});
