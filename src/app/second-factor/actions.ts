'use server';
/** Setting up the second factor. It is done before anything else where it is asked for. */
import { headers } from 'next/headers';
import { redirect } from 'next/navigation';
import { z } from 'zod';
import { failed, mayTry, right, takeCode, waitWords } from '../../server/users/enter';
import { type FactorSecret, factorSecret, noteFactor, ownFactor } from '../../server/users/factor';
import { BUSY_WORDS } from '../../server/users/passwords';
import { asked } from '../asked';
import { signedInAtAll } from '../session';

/** Where the setting up stands: what is scanned, and the codes for a day without the telephone. */
export interface FactorStep {
  fault: string;
  scan?: FactorSecret;
  codes?: string[];
}

const field = (form: unknown, name: string): string =>
  z
    .string()
    .max(1000)
    .catch('')
    .parse(form instanceof FormData ? (form.get(name) ?? '') : '');

/** Asks the service for something that needs the password; tries are counted. */
async function withPassword(
  path: string,
  form: FormData,
): Promise<{ fault: string } | { fault: null; body: Record<string, unknown> }> {
  const { email } = await signedInAtAll();
  const from = await headers();
  const wait = await mayTry(from, email);
  if (wait > 0) return { fault: `${waitWords(wait)}.` };
  const answer = await asked(path, { password: field(form, 'password') });
  if (answer.status === 503) return { fault: `${BUSY_WORDS}.` };
  if (answer.status !== 200) {
    await failed(from, email, 'password');
    return { fault: 'The password is wrong.' };
  }
  await right(from, email, true);
  return { fault: null, body: answer.body };
}

const codesOf = (body: Record<string, unknown>): string[] =>
  z.array(z.string()).catch([]).parse(body['backupCodes']);

/** First the password. @returns what is scanned, and the recovery codes */
export async function beginFactorAction(_before: FactorStep, form: FormData): Promise<FactorStep> {
  const answer = await withPassword('two-factor/enable', form);
  if (answer.fault !== null) return answer;
  return {
    fault: '',
    scan: factorSecret(z.string().parse(answer.body['totpURI'])),
    codes: codesOf(answer.body),
  };
}

/** Then a code, which proves that the authenticator has it. */
export async function proveFactorAction(
  _before: { fault: string },
  form: FormData,
): Promise<{ fault: string }> {
  const { context, email } = await signedInAtAll();
  const from = await headers();
  const wait = await mayTry(from, email);
  if (wait > 0) return { fault: `${waitWords(wait)}.` };
  const code = field(form, 'code').replace(/\s/g, '');
  // This code, too, opens once.
  const answer = (await takeCode(email, code))
    ? await asked('two-factor/verify-totp', { code })
    : { status: 401 };
  if (answer.status !== 200)
    return {
      fault: 'This code is not right, or was used: is the clock of the telephone? Take the next one.',
    };
  await right(from, email, true);
  await noteFactor(context, 'set up a second factor');
  redirect('/you');
}

/** Makes other recovery codes; those until now are of no use any more. */
export async function recoveryAction(_before: FactorStep, form: FormData): Promise<FactorStep> {
  const answer = await withPassword('two-factor/generate-backup-codes', form);
  if (answer.fault !== null) return answer;
  await noteFactor((await signedInAtAll()).context, 'made recovery codes');
  return { fault: '', codes: codesOf(answer.body) };
}

/** Takes one's own second factor off, where nobody asks for it. */
export async function dropFactorAction(
  _before: { fault: string },
  form: FormData,
): Promise<{ fault: string }> {
  const { context } = await signedInAtAll();
  if ((await ownFactor(context)).asked) return { fault: 'A second factor is asked of your role.' };
  const answer = await withPassword('two-factor/disable', form);
  if (answer.fault !== null) return answer;
  await noteFactor(context, 'took the own second factor off');
  redirect('/you');
}
