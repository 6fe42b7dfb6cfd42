'use server';
/** What a manager does with users. */
import { ownUrl } from '../../../../server/users/sign-in';
import {
  LINK_DAYS,
  ableUser,
  changeUser,
  inviteUser,
  resetUser,
  takeFactorOff,
} from '../../../../server/users/manage';
import type { InputOf } from '../../../../server/use-case';
import { perform } from '../../../session';

const linkOf = (token: string) => ({ link: `${ownUrl()}/set-password?token=${token}`, days: LINK_DAYS });

/** Adds a user. @returns the link with which they set a password */
export const inviteAction = async (input: InputOf<typeof inviteUser>) => {
  const answer = await perform(inviteUser, input);
  return answer.ok ? { ok: true as const, value: linkOf(answer.value.token) } : answer;
};
/** Gives a user another link. @returns it */
export const resetAction = async (input: InputOf<typeof resetUser>) => {
  const answer = await perform(resetUser, input);
  return answer.ok ? { ok: true as const, value: linkOf(answer.value.token) } : answer;
};
/** Another name or role. */
export const changeUserAction = async (input: InputOf<typeof changeUser>) => perform(changeUser, input);
/** Ends or gives back the right to sign in. */
export const ableAction = async (input: InputOf<typeof ableUser>) => perform(ableUser, input);
/** Takes the second factor off, with a reason. */
export const factorOffAction = async (input: InputOf<typeof takeFactorOff>) => perform(takeFactorOff, input);
