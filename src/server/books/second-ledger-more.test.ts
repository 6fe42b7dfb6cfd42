/** The other half of the histories, with others than the first. */
import { playMany } from '../../testing/histories';
import { FULL } from '../../testing/runs';

test(
  'whatever else is done with a household, both ledgers say the same of every cent after each step',
  () => playMany(FULL ? 1500 : 150, 1),
  FULL ? 7_200_000 : 600_000,
);
