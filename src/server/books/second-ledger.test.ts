/** The first half of the histories, and what comes between two stations. */
import { type Step, play, playMany, step } from '../../testing/histories';
import { FULL } from '../../testing/runs';

test(
  'whatever is done with a household, both ledgers say the same of every cent after each step',
  () => playMany(FULL ? 1500 : 150),
  FULL ? 7_200_000 : 600_000,
);

/** What comes between two stations, each as short as it can be said. */
describe('between two stations', () => {
  const seam = (name: string, steps: readonly Step[]): void =>
    void test(name, async () => {
      expect(await play(false, steps)).toEqual(steps.map((one) => one.do));
    });
  // All of 145.00 is the patient's: the fourth of the shapes above.
  const passed = [step('visit', 14_400), step('decide', 0, 3)];

  seam('credit that is not applied stands against what is past due', [
    step('pay', 14_999),
    step('own', 8000),
    step('own', 8900),
    step('state'),
    step('wait', 39),
  ]);
  seam('what a coverage that ended leaves to the patient is of that day, not of the service', [
    step('unbilled visit', 5000),
    step('wait', 39),
    step('wait', 39),
    step('uncover'),
  ]);
  seam('the same word again leaves a running plan as it is', [
    ...passed,
    step('plan', 0, 0),
    step('same word'),
  ]);
  seam('what was passed to the patient and paid becomes credit when the payer pays after all', [
    step('visit', 14_400),
    step('decide', 0, 4),
    step('settle', 1),
    step('pay', 14_499),
    step('paid after all'),
  ]);
  // 30.00 in cash and 60.01 by check: what the check paid is owed again, and what its credit paid; of the cash nothing.
  seam('of several tenders one comes back: what it paid is owed again, and nothing else', [
    step('own', 6000),
    step('pay', 9000, 4),
    step('own', 2500),
    step('spend'),
    step('comes back', 0, 0),
    step('state'),
  ]);
  seam('what was given up is taken back first when the payer pays after all', [
    ...passed,
    step('give up'),
    step('less for the patient'),
  ]);
});
