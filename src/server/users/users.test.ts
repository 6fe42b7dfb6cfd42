/** Who gets in, who is kept out, and what managers do about it. */
import { createHash } from 'node:crypto';
import { inspect } from 'node:util';
import { Secret, TOTP } from 'otpauth';
import { sql } from 'kysely';
import { fileDatabase } from '../../testing/database';
import { household } from '../../testing/desk';
import { type Context, NotAllowed, Refused, ROLES } from '../access';
import { changeCoverage } from '../accounts/coverage';
import { changePatient, registerHousehold } from '../accounts/register';
import { forgetTries, knock, opened, spend } from './door';
import { factorSecret } from './factor';
import {
  ableUser,
  addUser,
  changePassword,
  changeUser,
  inviteUser,
  linkOf,
  resetUser,
  takeFactorOff,
  usePasswordLink,
} from './manage';
import { Busy, Gate, hashPassword, isPassword, passwordFault } from './passwords';
import { endSession, ownSessions, sessionState } from './sessions';

const t = fileDatabase();

let serial = 0;
const GOOD = 'a quiet otter counts beans';
const OTHER = 'seven lanterns over cold water';
const someone = async (role: Context['user']['role'] = 'biller', password = GOOD) => {
  serial += 1;
  const who = { email: `person${serial}@example.com`, name: `Person ${serial}`, role };
  const id = await addUser(t.context, { ...who, password });
  const context: Context = { ...t.context, user: { id, name: who.name, role } };
  return { ...who, id, context };
};
const userRow = (id: string) =>
  t.db.selectFrom('user').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
/** Opens a session, as the sign-in service does. */
const session = async (userId: string): Promise<string> => {
  const id = `session-${(serial += 1)}`;
  await t.db
    .insertInto('session')
    .values({ id, token: `token-${serial}`, userId, expiresAt: new Date(Date.now() + 3_600_000) })
    .execute();
  return id;
};
const sessions = async (userId: string): Promise<string[]> =>
  (await t.db.selectFrom('session').select('id').where('userId', '=', userId).execute()).map(({ id }) => id);
const noted = async (action: string, id: string) =>
  t.db
    .selectFrom('audit')
    .select(['user_id', 'detail'])
    .where('action', '=', action)
    .where('subject_kind', '=', 'user')
    .where('subject_id', '=', id)
    .execute();

test('a session is over after half an hour without use, after twelve hours, and for who may not sign in', async () => {
  const { id: userId } = await someone();
  const id = await session(userId);
  /** How it stands when it was used and opened so many minutes ago. */
  const stands = async (used: number, opened: number) => {
    await sql`
      update session set seen_at = now() - make_interval(mins => ${used}),
        "createdAt" = now() - make_interval(mins => ${opened})
      where id = ${id}`.execute(t.db);
    return sessionState(t.db, id);
  };
  expect(await stands(0, 0)).toMatchObject({ over: false, stale: false, factor: false, asked: false });
  await t.db.updateTable('practice').set({ second_factor: 'everybody' }).execute();
  expect(await stands(0, 0)).toMatchObject({ asked: true });
  await t.db.updateTable('practice').set({ second_factor: 'nobody' }).execute();
  expect(await stands(2, 719)).toMatchObject({ over: false, stale: true });
  expect(await stands(31, 31)).toMatchObject({ over: true });
  expect(await stands(0, 721)).toMatchObject({ over: true });
  expect((await stands(0, 0))!.now.getUTCFullYear()).toBe(2026);
  await ableUser(t.context, { userId, able: false });
  expect(await sessionState(t.db, id)).toBeUndefined();
  expect(await sessionState(t.db, 'none')).toBeUndefined();
});

describe('passwords', () => {
  test('are kept as salt and key; the same one typed another way in Unicode is the same', async () => {
    const hash = await hashPassword('Ångström and a kettle');
    expect(hash).toMatch(/^[0-9a-f]{32}:[0-9a-f]{64}$/);
    expect(await hashPassword('Ångström and a kettle')).not.toBe(hash);
    expect(await isPassword({ hash, password: 'Ångström and a kettle'.normalize('NFD') })).toBe(true);
    expect(await isPassword({ hash, password: 'Angstrom and a kettle' })).toBe(false);
    expect(await isPassword({ hash: '', password: '' })).toBe(false);
  });

  // NIST SP 800-63B-4, 3.1.1.2: at least 15 characters, at least 64 allowed, no composition rules, a list of common ones.
  test.each([
    ['fourteen chars', 'fourteen chars', /Too short/],
    ['15 of one', 'aaaaaaaaaaaaaaa', /easy to guess/],
    ['a walk over the keys', 'qwertyuiopasdfgh', /easy to guess/],
    ['a common one twice', 'passwordpassword', /easy to guess/],
    ['digits in order', '1234567890123456', /easy to guess/],
    ['name and mail', 'personexample.com', /made of your name/],
    ['too long', 'x '.repeat(70), /Too long/],
  ])('%s is not taken', (_, password, words) => {
    expect(passwordFault(password, ['person@example.com', 'Ann Person'])).toMatch(words);
  });

  test.each([
    ['small letters alone', GOOD],
    ['64 and more', 'the ferry leaves at nine, unless the fog decides that it does not leave at all'],
    ['beyond Latin', 'тихая выдра считает бобы'],
    ['fifteen', 'otter beans 4 u'],
  ])('%s is taken', (_, password) => {
    expect(passwordFault(password, ['person@example.com', 'Ann Person'])).toBeNull();
  });

  test('only so many are worked on at once, so many wait, and what comes then is sent away', async () => {
    const gate = new Gate(2, 3);
    let inside = 0;
    let most = 0;
    const work = async (): Promise<void> => {
      inside += 1;
      most = Math.max(most, inside);
      await new Promise((resolve) => setTimeout(resolve, 10));
      inside -= 1;
    };
    const all = await Promise.allSettled(Array.from({ length: 10 }, () => gate.run(work)));
    expect(most).toBe(2);
    expect(all.filter((one) => one.status === 'fulfilled')).toHaveLength(5);
    for (const one of all) if (one.status === 'rejected') expect(one.reason).toBeInstanceOf(Busy);
    await gate.run(() => Promise.reject(new Error('x'))).catch(() => undefined);
    await Promise.all([gate.run(work), gate.run(work)]);
    expect(most).toBe(2);
  });
});

describe('the door', () => {
  const who = () => ({ email: `door${(serial += 1)}@example.com`, address: `10.1.0.${serial}` });

  test('eighty tries at once are five and a wait, on one account from anywhere', async () => {
    const { email } = who();
    const waits = await Promise.all(
      Array.from({ length: 80 }, (_, n) => knock(t.db, { email, address: `10.2.${n}.1` })),
    );
    expect(waits.filter((wait) => wait === 0)).toHaveLength(5);
  });

  test('eighty tries at once from one address are twenty, on any account', async () => {
    const { address } = who();
    const waits = await Promise.all(
      Array.from({ length: 80 }, () => knock(t.db, { email: who().email, address })),
    );
    expect(waits.filter((wait) => wait === 0)).toHaveLength(20);
  });

  test('each failure after it doubles the wait, up to a quarter of an hour; waiting in vain makes it no longer', async () => {
    const one = who();
    const waits: number[] = [];
    for (let n = 0; n < 20; n += 1) {
      expect(await knock(t.db, { ...one, address: `10.3.${n}.1` })).toBe(0);
      const wait = await knock(t.db, { ...one, address: `10.4.${n}.1` });
      if (wait > 0) {
        waits.push(wait);
        expect(await knock(t.db, { ...one, address: `10.5.${n}.1` })).toBe(wait);
      }
      await sql`update sign_in_limit set free_at = now()`.execute(t.owner);
    }
    expect(waits.slice(0, 4)).toEqual([2, 4, 8, 16]);
    expect(Math.max(...waits)).toBe(900);
  });

  test('an hour later the count begins anew; who gets in begins anew at once', async () => {
    const one = who();
    for (let n = 0; n < 5; n += 1) await knock(t.db, one);
    expect(await knock(t.db, one)).toBeGreaterThan(0);
    await opened(t.db, one, true);
    for (let n = 0; n < 4; n += 1) expect(await knock(t.db, one)).toBe(0);
    await sql`update sign_in_limit set last_at = now() - interval '61 minutes', failures = 9`.execute(t.db);
    for (let n = 0; n < 4; n += 1) expect(await knock(t.db, one)).toBe(0);
  });

  test('the right password alone, where a code comes after it, lets nobody try codes without end', async () => {
    const one = who();
    let tries = 0;
    for (let n = 0; n < 40; n += 1) {
      const address = `10.6.${n}.1`;
      if ((await knock(t.db, { ...one, address })) > 0) break;
      await opened(t.db, { ...one, address }, false);
      if ((await knock(t.db, { ...one, address })) > 0) break;
      tries += 1;
    }
    expect(tries).toBeLessThanOrEqual(5);
  });

  test('nobody can lock out an account at the address where it was signed in', async () => {
    const { email, id } = await someone();
    const address = '10.7.0.1';
    await sql`
      insert into audit (user_id, action, subject_kind, subject_id, address)
      values (${id}, 'signed in', 'user', ${id}, ${address})`.execute(t.db);
    for (let n = 0; n < 9; n += 1) await knock(t.db, { email, address: `10.8.${n}.1` });
    expect(await knock(t.db, { email, address: '10.8.99.1' })).toBeGreaterThan(0);
    expect(await knock(t.db, { email, address })).toBe(0);
  });

  test('what was typed as an e-mail is not kept', async () => {
    const typed = 'my-secret-passphrase-in-the-wrong-field';
    await knock(t.db, { email: typed, address: '10.9.0.1' });
    const { rows } = await sql<{ key: string }>`select key from sign_in_limit`.execute(t.db);
    expect(rows.some(({ key }) => key.includes(typed))).toBe(false);
  });

  test('a code of the second factor opens once, also when it comes twice at once', async () => {
    const { id } = await someone();
    const all = await Promise.all(Array.from({ length: 6 }, () => spend(t.db, id, '123456')));
    expect(all.filter(Boolean)).toHaveLength(1);
    expect(await spend(t.db, id, '654321')).toBe(true);
    const other = await someone();
    expect(await spend(t.db, other.id, '123456')).toBe(true);
    await sql`update spent_code set at = now() - interval '4 minutes'`.execute(t.db);
    expect(await spend(t.db, id, '123456')).toBe(true);
  });

  test('what is of no use any more is forgotten', async () => {
    await sql`update sign_in_limit set last_at = now() - interval '3 days'`.execute(t.db);
    await knock(t.db, who());
    await forgetTries(t.context);
    const { rows } = await sql<{ n: number }>`select count(*) as n from sign_in_limit`.execute(t.db);
    expect(rows[0]!.n).toBe(2);
  });
});

describe('users', () => {
  test('an invitation is a link that sets a password once', async () => {
    const { userId, token } = await inviteUser(t.context, {
      email: 'New.Person@Example.com',
      name: 'Nora Quill',
      role: 'collector',
    });
    expect(await userRow(userId)).toMatchObject({ email: 'new.person@example.com', role: 'collector' });
    const { digest } = await t.db
      .selectFrom('password_link')
      .select('digest')
      .where('user_id', '=', userId)
      .executeTakeFirstOrThrow();
    expect(digest).toBe(createHash('sha256').update(token).digest('base64url'));
    expect(await linkOf(t.db, token)).toMatchObject({ email: 'new.person@example.com' });
    await expect(usePasswordLink(t.db, { token, password: 'too short' }, undefined)).rejects.toThrow(
      /Too short/,
    );
    const both = await Promise.allSettled([
      usePasswordLink(t.db, { token, password: GOOD }, undefined),
      usePasswordLink(t.db, { token, password: OTHER }, undefined),
    ]);
    expect(both.filter((one) => one.status === 'fulfilled')).toHaveLength(1);
    await expect(usePasswordLink(t.db, { token, password: OTHER }, undefined)).rejects.toThrow(
      /used or too old/,
    );
    expect(await noted('set a password by link', userId)).toHaveLength(1);
  });

  test('a link that is too old, replaced, or of somebody disabled is of no use', async () => {
    const one = await someone();
    const first = await resetUser(t.context, { userId: one.id });
    const second = await resetUser(t.context, { userId: one.id });
    expect(await linkOf(t.db, first.token)).toBeNull();
    expect(await linkOf(t.db, second.token)).not.toBeNull();
    await ableUser(t.context, { userId: one.id, able: false });
    expect(await linkOf(t.db, second.token)).toBeNull();
    await expect(resetUser(t.context, { userId: one.id })).rejects.toThrow(/enable them first/);
    await ableUser(t.context, { userId: one.id, able: true });
    await sql`update password_link set expires_at = now() - interval '1 second'`.execute(t.db);
    expect(await linkOf(t.db, second.token)).toBeNull();
  });

  test('e-mail and name are each one person’s', async () => {
    const one = await someone();
    await expect(
      inviteUser(t.context, { email: one.email.toUpperCase(), name: 'Somebody Else', role: 'biller' }),
    ).rejects.toThrow(/has an account already/);
    await expect(
      inviteUser(t.context, { email: 'fresh@example.com', name: one.name.toUpperCase(), role: 'biller' }),
    ).rejects.toThrow(/has this name already/);
    const twice = await Promise.allSettled(
      [1, 2].map(() =>
        inviteUser(t.context, { email: 'race@example.com', name: 'Race One', role: 'biller' }),
      ),
    );
    expect(twice.filter((item) => item.status === 'fulfilled')).toHaveLength(1);
    for (const item of twice) if (item.status === 'rejected') expect(item.reason).toBeInstanceOf(Refused);
  });

  test('another role ends what is open, is noted with what it was, and the same again does nothing', async () => {
    const one = await someone('biller');
    await session(one.id);
    await changeUser(t.context, { userId: one.id, name: one.name, role: 'collector' });
    expect(await sessions(one.id)).toEqual([]);
    await changeUser(t.context, { userId: one.id, name: one.name, role: 'collector' });
    expect(await noted('changed', one.id)).toEqual([
      { user_id: 'manager', detail: { role: { from: 'biller', to: 'collector' } } },
    ]);
  });

  test('disabling and resetting end what is open; a reset leaves the old password of no use', async () => {
    const one = await someone();
    await session(one.id);
    await ableUser(t.context, { userId: one.id, able: false });
    expect(await sessions(one.id)).toEqual([]);
    await ableUser(t.context, { userId: one.id, able: true });
    await session(one.id);
    await resetUser(t.context, { userId: one.id });
    expect(await sessions(one.id)).toEqual([]);
    const account = await t.db
      .selectFrom('account')
      .select('password')
      .where('userId', '=', one.id)
      .executeTakeFirst();
    expect(account?.password).toBeNull();
  });

  test('nobody changes, disables, resets or strips themselves', async () => {
    const { context, id, name } = await someone('manager');
    for (const act of [
      changeUser(context, { userId: id, name, role: 'biller' }),
      changeUser(context, { userId: id, name: 'Another Name', role: 'manager' }),
      ableUser(context, { userId: id, able: false }),
      resetUser(context, { userId: id }),
      takeFactorOff(context, { userId: id, reason: 'because' }),
    ])
      await expect(act).rejects.toThrow(/another manager does/);
    expect(await userRow(id)).toMatchObject({ name, role: 'manager', disabled_at: null });
  });

  test('the last manager stays, also when two shut each other out at once', async () => {
    await sql`update "user" set role = 'biller' where role = 'manager'`.execute(t.owner);
    const [a, b] = [await someone('manager'), await someone('manager')];
    const out = await Promise.allSettled([
      ableUser(a.context, { userId: b.id, able: false }),
      changeUser(b.context, { userId: a.id, name: a.name, role: 'biller' }),
    ]);
    expect(out.filter((one) => one.status === 'fulfilled')).toHaveLength(1);
    const left = await t.db
      .selectFrom('user')
      .select('id')
      .where('role', '=', 'manager')
      .where('disabled_at', 'is', null)
      .execute();
    expect(left).toHaveLength(1);
  });

  test.each(ROLES.filter((role) => role !== 'manager'))('%s manages nobody', async (role) => {
    const one = await someone();
    for (const act of [
      () => inviteUser(t.as(role), { email: 'x@example.com', name: 'X', role: 'manager' }),
      () => changeUser(t.as(role), { userId: one.id, name: one.name, role: 'manager' }),
      () => ableUser(t.as(role), { userId: one.id, able: false }),
      () => resetUser(t.as(role), { userId: one.id }),
      () => takeFactorOff(t.as(role), { userId: one.id, reason: 'lost' }),
    ])
      await expect(act()).rejects.toThrow(NotAllowed);
  });

  test('a second factor is taken off with a reason that stays, and not where there is none', async () => {
    const one = await someone();
    await expect(takeFactorOff(t.context, { userId: one.id, reason: 'lost' })).rejects.toThrow(
      /no second factor/,
    );
    await sql`insert into "twoFactor" (id, secret, "backupCodes", "userId") values (${one.id}, 's', 'b', ${one.id})`.execute(
      t.db,
    );
    await sql`update "user" set "twoFactorEnabled" = true where id = ${one.id}`.execute(t.db);
    await session(one.id);
    await expect(takeFactorOff(t.context, { userId: one.id, reason: ' ' })).rejects.toThrow(/Say why/);
    await takeFactorOff(t.context, { userId: one.id, reason: 'telephone lost on the ferry' });
    expect(await sessions(one.id)).toEqual([]);
    expect((await userRow(one.id)).twoFactorEnabled).toBe(false);
    expect(await noted('took the second factor off', one.id)).toEqual([
      { user_id: 'manager', detail: { reason: 'telephone lost on the ferry', sessions: 1 } },
    ]);
  });
});

describe('one’s own sign-in', () => {
  test('another password needs the one until now, and ends the other sessions', async () => {
    const { context, id } = await someone();
    const [here, elsewhere] = [await session(id), await session(id)];
    const asked: Context = { ...context, from: { session: here, address: '10.0.0.1' } };
    await expect(changePassword(asked, { current: OTHER, password: OTHER })).rejects.toThrow(
      /not your password/,
    );
    await expect(changePassword(asked, { current: GOOD, password: GOOD })).rejects.toThrow(/that you have/);
    await expect(changePassword(asked, { current: GOOD, password: 'aaaaaaaaaaaaaaaa' })).rejects.toThrow(
      /guess/,
    );
    expect(await sessions(id)).toEqual(expect.arrayContaining([here, elsewhere]));
    expect(await changePassword(asked, { current: GOOD, password: OTHER })).toBe(1);
    expect(await sessions(id)).toEqual([here]);
    await expect(changePassword(asked, { current: GOOD, password: OTHER })).rejects.toThrow(
      /not your password/,
    );
  });

  test('sessions are one’s own: another’s is neither shown nor ended', async () => {
    const [one, two] = [await someone(), await someone()];
    const [mine, also, theirs] = [await session(one.id), await session(one.id), await session(two.id)];
    const context: Context = { ...one.context, from: { session: mine, address: '' } };
    expect((await ownSessions(context)).map(({ id, here }) => [id, here]).sort()).toEqual(
      [
        [mine, true],
        [also, false],
      ].sort(),
    );
    await expect(endSession(context, { sessionId: theirs })).rejects.toThrow(/ended already/);
    expect(await sessions(two.id)).toEqual([theirs]);
    expect(await endSession(context, {})).toBe(1);
    expect(await sessions(one.id)).toEqual([mine]);
    expect(await endSession(context, { sessionId: mine })).toBe(1);
  });

  // The square is read by nothing here; its secret is what an independent library makes codes of (RFC 6238).
  test('what is scanned holds the secret that makes the codes', () => {
    const totp = new TOTP({ issuer: 'Wergeld', label: 'a@example.com', secret: new Secret({ size: 20 }) });
    const made = factorSecret(totp.toString());
    expect(made.secret.replaceAll(' ', '')).toBe(totp.secret.base32);
    expect(made.path).toMatch(/^(M\d+ \d+h1v1h-1z)+$/);
    expect(made.size).toBeGreaterThan(30);
  });
});

describe('the audit trail', () => {
  test('says by whose account, from where, in which session, and about whom', async () => {
    const one = await someone();
    const made = await registerHousehold(
      { ...one.context, from: { session: 'session-x', address: '10.0.0.9' } },
      {
        last: 'Traced',
        first: 'Tara',
        birthDate: '1980-01-01',
        sex: 'F',
        line1: '1 Row',
        city: 'Osprey Landing',
        state: 'WA',
        zip: '98199',
        key: 'traced-household',
      },
    );
    const rows = await t.db
      .selectFrom('audit')
      .selectAll()
      .where('household_id', '=', made.householdId)
      .execute();
    expect(rows).toEqual([
      expect.objectContaining({
        user_id: one.id,
        account: one.email,
        session_id: 'session-x',
        address: '10.0.0.9',
        action: 'registered',
      }),
    ]);
  });

  test('a change of a person and of a policy says what stood there, and what stands there now', async () => {
    const made = await household(t);
    const person = {
      last: 'Tester',
      first: 'Renamed',
      birthDate: '1980-01-01',
      sex: 'F' as const,
      line1: '2 Other Row',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      phone: '555-0199',
    };
    const before = await t.db
      .selectFrom('patient')
      .select('first')
      .where('id', '=', made.patientId)
      .executeTakeFirst();
    await changePatient(t.context, { ...person, patientId: made.patientId });
    const { id } = await t.db
      .selectFrom('coverage as c')
      .innerJoin('care_case as k', 'k.id', 'c.case_id')
      .select('c.id')
      .where('k.patient_id', '=', made.patientId)
      .executeTakeFirstOrThrow();
    await changeCoverage(t.context, {
      coverageId: id,
      memberId: 'CSH-NEW',
      groupNumber: 'CS-350',
      relationship: 'self',
    });
    const rows = await t.db
      .selectFrom('audit')
      .select(['subject_kind', 'detail'])
      .where('household_id', '=', made.householdId)
      .where('action', '=', 'changed')
      .orderBy('id')
      .execute();
    expect(rows).toEqual([
      {
        subject_kind: 'patient',
        detail: {
          first: { from: before!.first, to: 'Renamed' },
          line1: { from: '1 Test Row', to: '2 Other Row' },
        },
      },
      {
        subject_kind: 'coverage',
        detail: { memberId: { from: expect.any(String) as string, to: 'CSH-NEW' } },
      },
    ]);
  });

  test('no error of the database says what stood in a row', async () => {
    const name = 'Unutterable-Surname';
    const wrong = [
      sql`
        insert into household (id, number, last, first) overriding system value
        select id, number, ${name}, 'x'
        from household
        limit 1`,
      sql`
        insert into "user" (id, email, name)
        values ('a', ${`${name}@example.com`}, 'A'), ('b', ${`${name}@example.com`}, 'B')`,
      sql`select ${name}::bigint`,
      sql`select ${name}::date`,
      sql`insert into household (last) values (${name})`,
      sql`insert into patient (household_id, last, first, birth_date, sex) values (-1, ${name}, 'x', '1980-01-01', 'F')`,
      sql`do language plpgsql ${sql.raw(`$x$ begin perform '${name}'::integer; end $x$`)}`,
    ];
    for (const query of wrong) {
      const error: unknown = await query.execute(t.db).then(
        () => null,
        (reason: unknown) => reason,
      );
      expect(error).toBeInstanceOf(Error);
      expect(inspect(error, { depth: 6 })).not.toContain(name);
      expect(JSON.stringify(error)).not.toContain(name);
    }
  });
});
