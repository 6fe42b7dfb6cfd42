/** The second factor as it is set up: what an authenticator scans. */
import QRCode from 'qrcode';
import type { Context } from '../access';
import { allow, audit } from '../access';

/** What is scanned or typed into an authenticator. */
export interface FactorSecret {
  /** Side of the square, in modules, and its dark ones as the data of an SVG path. */
  size: number;
  path: string;
  secret: string;
}

/** A square that an authenticator scans, from the address that it holds (otpauth://). */
export function factorSecret(uri: string): FactorSecret {
  const { modules } = QRCode.create(uri, { errorCorrectionLevel: 'M' });
  const border = 4;
  const dark: string[] = [];
  for (let row = 0; row < modules.size; row += 1)
    for (let column = 0; column < modules.size; column += 1)
      if (modules.get(row, column)) dark.push(`M${column + border} ${row + border}h1v1h-1z`);
  return {
    size: modules.size + border * 2,
    path: dark.join(''),
    secret: (new URL(uri).searchParams.get('secret') ?? '').replace(/(.{4})(?=.)/g, '$1 '),
  };
}

/** Whether somebody has a second factor, and whether it is asked of them. */
export async function ownFactor(context: Context): Promise<{ has: boolean; asked: boolean }> {
  allow(context, 'keep their own sign-in');
  const { db, user } = context;
  const row = await db
    .selectFrom('user')
    .select('twoFactorEnabled')
    .where('id', '=', user.id)
    .executeTakeFirst();
  const practice = await db.selectFrom('practice').select('second_factor').executeTakeFirst();
  const of = practice?.second_factor ?? 'managers';
  return {
    has: row?.twoFactorEnabled ?? false,
    asked: of === 'everybody' || (of === 'managers' && user.role === 'manager'),
  };
}

/** Notes what somebody did with their own second factor. */
export const noteFactor = (
  context: Context,
  action: 'set up a second factor' | 'took the own second factor off' | 'made recovery codes',
): Promise<void> => audit(context.db, context, action, { kind: 'user', id: context.user.id });
