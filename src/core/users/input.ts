/** What the forms about users send. */
import { z } from 'zod';
import { reasonField } from '../fields';
import { ROLES } from './roles';

const roleField = z.enum(ROLES, { error: 'choose a role' });
const nameField = z.string().trim().min(1, 'is missing').max(80, 'may have 80 characters');
/** The id of a user. */
export const userIdField = z.string().min(1).max(80);
/** An e-mail address, which is the account that one signs in with. */
export const emailField = z
  .string()
  .trim()
  .toLowerCase()
  .max(254, 'may have 254 characters')
  .pipe(z.email('is no e-mail address'));
/** A password as it is typed; whether it is good is said where it is set. */
export const passwordField = z.string().min(1, 'is missing').max(1000, 'may have 128 characters');

/** Somebody new. */
export const inviteInput = z.object({ email: emailField, name: nameField, role: roleField });
/** Another name or role. */
export const changeUserInput = z.object({ userId: userIdField, name: nameField, role: roleField });
/** Ends or gives back the right to sign in. */
export const ableInput = z.object({ userId: userIdField, able: z.boolean() });
/** A new link to set a password. */
export const resetInput = z.object({ userId: userIdField });
/** Takes the second factor off, which a manager answers for. */
export const factorOffInput = z.object({
  userId: userIdField,
  reason: reasonField('Say why, such as a telephone that was lost'),
});
/** Another password of one's own. */
export const passwordInput = z.object({ current: passwordField, password: passwordField });
/** A password set by the link that a manager handed over. */
export const linkInput = z.object({ token: z.string().min(20).max(100), password: passwordField });
