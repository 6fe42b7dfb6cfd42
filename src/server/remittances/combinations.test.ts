/** Reasons and remarks that go together: brought in whole, said where a denial is shown. The combinations are made up. */
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, postedRemittance, says, sentClaim } from '../../testing/desk';
import { bringCombinations } from './combinations';
import { readRemittance } from './read';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const LIST = '2,16,M76,CO PI\n4,97,,PI';
const inForce = async () =>
  (
    await t.db
      .selectFrom('reason_combination')
      .select(['reason', 'remark', 'groups'])
      .where('active', '=', true)
      .orderBy('reason')
      .execute()
  ).map(({ reason, remark, groups }) => [reason, remark, groups.join(' ')]);

test('a list takes the place of the one before, whole or not at all', async () => {
  expect(await bringCombinations(t.context, { text: LIST })).toBe(2);
  expect(await inForce()).toEqual([
    ['16', 'M76', 'CO PI'],
    ['97', '', 'PI'],
  ]);
  await expect(bringCombinations(t.context, { text: `${LIST}\n9,16,,CO` })).rejects.toThrow(
    /Line 3: “9” is no scenario from 1 to 4. Nothing was brought in/,
  );
  await expect(bringCombinations(t.context, { text: 'scenario,reason,remark,groups' })).rejects.toThrow(
    /no line/,
  );
  await expect(bringCombinations(t.as('biller'), { text: LIST })).rejects.toThrow(/may not/);
  expect(await inForce()).toHaveLength(2);
  await bringCombinations(t.context, { text: '4,97,,PI CO' });
  expect(await inForce()).toEqual([['97', '', 'PI CO']]);
});

test('a denial outside the scenarios is said on its line, whatever is posted; without a list nothing is', async () => {
  const made = await sentClaim(t);
  const denied = says(made, 0, ['CO-97:145.00']);
  const id = await postedRemittance(t, [denied]);
  const said = async () => (await readRemittance(t.context, id)).rows[0]!.outside;
  await bringCombinations(t.context, { text: LIST });
  expect(await said()).toEqual([['CO-97: the scenarios have it under PI alone']]);
  await bringCombinations(t.context, { text: '4,97,,PI CO' });
  expect(await said()).toEqual([[]]);
  await bringCombinations(t.context, { text: '2,16,M76,CO' });
  expect(await said()).toEqual([['CO-97 is in none of the four scenarios']]);
  await t.db.updateTable('reason_combination').set({ active: false }).execute();
  expect(await said()).toEqual([]);
  // What takes off and refuses nothing is no denial.
  await bringCombinations(t.context, { text: LIST });
  const paid = await postedRemittance(t, [says(await sentClaim(t), 6800)]);
  expect((await readRemittance(t.context, paid)).rows[0]!.outside).toEqual([[]]);
});
