/** What payers tell of what was used of a policy: a dated total, in the place of what was counted by that day. */
import { toldInput } from '../../core/accounts/input';
import { formatDate } from '../../core/calendar';
import { parseMoney } from '../../core/money';
import { Refused } from '../access';
import { benefitsOf, coverageDay } from '../books/benefits';
import { lockHouseholds } from '../books/journal';
import { startWork } from '../jobs/work';
import { useCase } from '../use-case';

/**
 * Writes down a total that the payer told of a rule of a coverage, in cents or how many; nothing takes back what was told of that day.
 * @throws Refused when the rule is not counted there, or the day is not in force or not yet
 */
export const tellBenefit = useCase({
  name: 'tell benefit',
  permission: 'register people',
  input: toldInput,
  async run(act, { coverageId, rule, asOf, quantity, source }) {
    const covered = await act.db
      .selectFrom('covered as o')
      .innerJoin('patient as p', 'p.id', 'o.patient_id')
      .select(['o.policy_id', 'o.patient_id', 'p.household_id'])
      .where('o.id', '=', coverageId)
      .executeTakeFirst();
    if (!covered) throw new Refused('unknown', 'There is no such coverage');
    if (asOf > act.today) throw new Refused('date', `${formatDate(asOf)} is not yet`, 'asOf');
    await lockHouseholds(act.db, [covered.household_id]);
    const ask = { coverageId, day: asOf };
    const benefits = (await benefitsOf(act.db, [ask])).get(coverageDay(ask))!;
    const counted = benefits.rules.find((one) => one.id === rule && 'period' in one);
    if (!counted)
      throw new Refused('unknown', `This was not counted on ${formatDate(asOf)}: choose what is`, 'rule');
    const money = counted.kind !== 'limit' || counted.measure === 'money';
    const amount =
      quantity === ''
        ? null
        : money
          ? parseMoney(quantity)
          : /^\d{1,6}$/.test(quantity)
            ? Number(quantity)
            : null;
    if (quantity !== '' && (amount === null || amount < 0))
      throw new Refused(
        'invalid',
        money ? 'This is not an amount' : 'This is not a whole number',
        'quantity',
      );
    const last = await act.db
      .selectFrom('benefit_elsewhere')
      .select(['quantity', 'source'])
      .where('policy_id', '=', covered.policy_id)
      .where('patient_id', '=', covered.patient_id)
      .where('rule', '=', rule)
      .where('as_of', '=', asOf)
      .orderBy('id', 'desc')
      .executeTakeFirst();
    // The same word again is the same word.
    if (last && last.quantity === amount && last.source === source) return;
    await act.db
      .insertInto('benefit_elsewhere')
      .values({
        policy_id: covered.policy_id,
        patient_id: covered.patient_id,
        rule,
        as_of: asOf,
        quantity: amount,
        source,
        user_name: act.user.name,
      })
      .execute();
    await startWork(act, 'check claims', { householdId: covered.household_id });
    await act.note(
      quantity === '' ? 'took back what the payer told' : 'was told by the payer',
      { kind: 'coverage', id: coverageId },
      { rule, asOf, quantity, source },
    );
  },
});
