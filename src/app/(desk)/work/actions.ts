'use server';
/** What is done with background work, and with lists wherever they stand. */
import { resumeWork, stopWork } from '../../../server/jobs/work';
import { chooseColumns, forgetView, keepView } from '../../../server/lists/choose';
import type { InputOf } from '../../../server/use-case';
import { perform } from '../../session';

/** Asks work to stop; what is done stays done. */
export const stopWorkAction = async (input: InputOf<typeof stopWork>) => perform(stopWork, input);
/** Goes on with work that was stopped or failed. */
export const resumeWorkAction = async (input: InputOf<typeof resumeWork>) => perform(resumeWork, input);
/** Keeps which columns of a list a person wants to see; none brings back those it begins with. */
export const columnsAction = async (input: InputOf<typeof chooseColumns>) => perform(chooseColumns, input);
/** Keeps a view of a list under a name. */
export const keepViewAction = async (input: InputOf<typeof keepView>) => perform(keepView, input);
/** Forgets a kept view. */
export const forgetViewAction = async (input: InputOf<typeof forgetView>) => perform(forgetView, input);
