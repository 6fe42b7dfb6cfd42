/** What a change of Setup brings along. */
import { startWork } from '../jobs/work';
import type { Act } from '../use-case';

/** Claims that are still ours are checked again, in the background. */
export const checkAgain = (act: Act): Promise<number | null> => startWork(act, 'check claims', {});
