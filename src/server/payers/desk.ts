/** A payer that is not in Setup, entered at the desk with what a card says. */
import { deskPayerInput } from '../../core/payers/input';
import { Refused } from '../access';
import { useCase } from '../use-case';

/**
 * Enters a payer with its name and town alone, and a plan of it: it is marked, and its claims say what is missing.
 * @returns the plan, for a coverage of it
 * @throws Refused when there is a payer of that name
 */
export const addDeskPayer = useCase({
  name: 'add desk payer',
  permission: 'register people',
  input: deskPayerInput,
  once: (data) => data.key,
  async run(act, { name, city, state, zip, plan }): Promise<{ insurancePlanId: number }> {
    const made = await act.db
      .insertInto('payer')
      .values({ name, city, state, zip, accepts: 'hold', unfinished: true })
      .onConflict((conflict) => conflict.column('name').doNothing())
      .returning('id')
      .executeTakeFirst();
    if (!made) throw new Refused('already', `There is a payer ${name}: choose one of its plans`, 'name');
    const { id } = await act.db
      .insertInto('insurance_plan')
      .values({ payer_id: made.id, name: plan || 'Plan not named yet', contracted: false })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('entered at the desk', { kind: 'payer', id: made.id }, { name });
    return { insurancePlanId: id };
  },
});
