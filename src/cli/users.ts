/** Users from the command line: the same as on their page, by whoever may use this machine. */
import { ROLES, type Role, systemContext } from '../server/access';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { ableUser, addUser, changeUser, resetUser, takeFactorOff } from '../server/users/manage';
import { passwordFault } from '../server/users/passwords';
import { ownUrl } from '../server/users/sign-in';
import { Stop } from './cluster';
import { askSecret } from './secret';

const print = (text: string): void => void process.stdout.write(`${text}\n`);

const roleOf = (text = ''): Role => {
  if (!(ROLES as readonly string[]).includes(text)) throw new Stop(`The role is one of ${ROLES.join(', ')}`);
  return text as Role;
};

async function userOf(email = '') {
  const user = await db()
    .selectFrom('user')
    .selectAll()
    .where('email', '=', email.toLowerCase())
    .executeTakeFirst();
  if (!user) throw new Stop(`There is no user ${email}: ./wergeld users lists them`);
  return user;
}

/** Adds a user with a password, which is asked for and never shown. */
async function add([email, role, ...name]: string[]): Promise<void> {
  if (!email || !role || name.length === 0)
    throw new Stop(`Say: ./wergeld user add EMAIL ${ROLES.join('|')} NAME`);
  const wanted = { email, role: roleOf(role), name: name.join(' ') };
  const password = await askSecret(`Password of ${email}`, true);
  const fault = passwordFault(password, [email, wanted.name]);
  if (fault) throw new Stop(fault);
  await addUser(await systemContext(db()), { ...wanted, password });
  print(`${email} can sign in`);
}

const link = (token: string): string => `${ownUrl()}/set-password?token=${token}`;

const ACTS: Readonly<Record<string, (words: string[]) => Promise<void>>> = {
  add,
  role: async ([email, role]) => {
    const { id, name } = await userOf(email);
    await changeUser(await systemContext(db()), { userId: id, name, role: roleOf(role) });
    print(`${email} is ${role}`);
  },
  disable: async ([email]) => {
    await ableUser(await systemContext(db()), { userId: (await userOf(email)).id, able: false });
    print(`${email} may no longer sign in`);
  },
  enable: async ([email]) => {
    await ableUser(await systemContext(db()), { userId: (await userOf(email)).id, able: true });
    print(`${email} may sign in`);
  },
  reset: async ([email]) => {
    const { token } = await resetUser(await systemContext(db()), { userId: (await userOf(email)).id });
    print(`${email} sets another password at ${link(token)}`);
  },
  'factor-off': async ([email, ...reason]) => {
    await takeFactorOff(await systemContext(db()), {
      userId: (await userOf(email)).id,
      reason: reason.join(' '),
    });
    print(`${email} has no second factor`);
  },
};

/** Changes a user. */
export async function user([what = '', ...words]: string[]): Promise<number> {
  const act = Object.hasOwn(ACTS, what) ? ACTS[what] : undefined;
  if (!act) throw new Stop(`Say: ./wergeld user ${Object.keys(ACTS).join('|')} EMAIL …`);
  await act(words);
  return 0;
}

/** Lists users. */
export async function users(): Promise<number> {
  const all = await db().selectFrom('user').selectAll().orderBy('name').execute();
  for (const one of all)
    print(
      [
        one.email,
        one.role,
        one.name,
        one.disabled_at ? 'disabled' : 'may sign in',
        one.twoFactorEnabled ? 'second factor' : '',
      ].join('\t'),
    );
  print(counted(all.length, 'user'));
  return 0;
}
