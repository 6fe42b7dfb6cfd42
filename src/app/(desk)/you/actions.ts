'use server';
/** What a person does with their own sign-in. */
import { headers } from 'next/headers';
import { Refused } from '../../../server/access';
import { mayTry, right, waitWords } from '../../../server/users/enter';
import { changePassword } from '../../../server/users/manage';
import { endSession } from '../../../server/users/sessions';
import type { InputOf } from '../../../server/use-case';
import { ask, perform, signedInAtAll } from '../../session';

/** Sets another password; tries with the one until now are counted. @returns how many other sessions ended */
export const changePasswordAction = async (input: InputOf<typeof changePassword>) =>
  ask(async (context) => {
    const { email } = await signedInAtAll();
    const from = await headers();
    const wait = await mayTry(from, email);
    if (wait > 0) throw new Refused('state', waitWords(wait));
    const ended = await changePassword(context, input);
    await right(from, email, true);
    return ended;
  });

/** Ends one of one's own sessions, or all others. @returns how many ended */
export const endSessionAction = async (input: InputOf<typeof endSession>) => perform(endSession, input);
