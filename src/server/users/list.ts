/** The list of users. */
import { sql } from 'kysely';
import { list, textLike, words } from '../lists/list';
import { type Role, zone } from '../access';

/** Users by name, searched by name or e-mail. */
export const usersList = list({
  name: 'users',
  noun: ['user', 'users'],
  permission: 'manage users',
  station: 'Setup',
  path: '/setup/users',
  from: sql`(select u.*, row_number() over (order by u."createdAt", u.id) as number from "user" u) u`,
  household: null,
  id: sql`u.number`,
  columns: {
    name: words('Name', sql`u.name`),
    email: words('E-mail', sql`u.email`),
    role: words('Role', sql<Role>`u.role`),
    state: words(
      'State',
      sql`case when u.disabled_at is not null then 'disabled'
        when exists (select 1 from account a where a."userId" = u.id and a.password is not null) then ''
        when exists (
          select 1 from password_link l where l.user_id = u.id and l.used_at is null and l.expires_at > now()
        ) then
          'has a link'
        else 'needs a link' end`,
    ),
    factor: words('Second factor', sql`case when u."twoFactorEnabled" then 'yes' else '' end`),
    seen: words(
      'Signed in last',
      sql`
        coalesce(
          (
            select to_char(max(a.at) at time zone ${zone()}, 'YYYY-MM-DD HH24:MI')
            from audit a
            where a.user_id = u.id and a.action = 'signed in'
          ),
          ''
        )`,
    ),
  },
  hidden: {
    userId: sql<string>`u.id`,
    disabled: sql<boolean>`u.disabled_at is not null`,
    hasFactor: sql<boolean>`u."twoFactorEnabled"`,
  },
  views: {
    may: { label: 'May sign in', where: () => sql`u.disabled_at is null` },
    disabled: { label: 'Disabled', where: () => sql`u.disabled_at is not null` },
    all: { label: 'All' },
  },
  search: (like) => sql`${textLike(sql`u.name`, like)} or ${textLike(sql`u.email`, like)}`,
  order: sql`u.name`,
});
