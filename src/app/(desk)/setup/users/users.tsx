'use client';
import { App, Button } from 'antd';
import { useState } from 'react';
import type { Answer } from '../../../../core/answer';
import { ROLES } from '../../../../core/users/roles';
import type { StateOf } from '../../../../server/lists/read';
import { DeskDrawer } from '../../../../ui/drawer';
import { FormDrawer } from '../../../../ui/form';
import { useKeys } from '../../../../ui/keys';
import { List } from '../../../../ui/list';
import { Head, Line } from '../../../../ui/page';
import { SetupNav } from '../nav';
import css from '../setup.module.css';
import { ableAction, changeUserAction, factorOffAction, inviteAction, resetAction } from './actions';

type Row = StateOf<'users'>['rows'][number];
type Open =
  | { show: 'new' }
  | { show: 'change' | 'factor'; row: Row }
  | { show: 'link'; name: string; link: string; days: number };

const roles = ROLES.map((role) => ({ value: role, label: role }));

/** Who may sign in, and what is done about it. */
export function Users({
  list,
  tables,
  me,
}: {
  list: StateOf<'users'>;
  tables: { key: string; title: string }[];
  me: string;
}) {
  const { message } = App.useApp();
  const [open, setOpen] = useState<Open | null>(null);
  const add = (): void => setOpen({ show: 'new' });
  useKeys([{ key: 'n', words: 'invite somebody', run: add }]);
  const tell = async <T,>(answer: Promise<Answer<T>>, words: string): Promise<void> => {
    const got = await answer;
    if (got.ok) void message.success(words);
    else void message.error(got.message);
  };
  const reset = async (row: Row): Promise<void> => {
    const answer = await resetAction({ userId: row.userId });
    if (answer.ok) setOpen({ show: 'link', name: row.name, ...answer.value });
    else void message.error(answer.message);
  };
  return (
    <div className={css.setup}>
      <SetupNav tables={tables} at="users" />
      <div className={css.table}>
        <Head title="Users" note="Who may sign in. Nobody changes their own name or role.">
          <Button type="primary" onClick={add}>
            Invite somebody
          </Button>
        </Head>
        <List
          list={list}
          label="Users"
          hint="Name or e-mail"
          empty={list.search ? `Nobody found for “${list.search}”` : 'Nobody'}
          onOpen={(row) => row.userId !== me && setOpen({ show: 'change', row })}
          cells={{
            name: { ellipsis: true },
            email: { ellipsis: true },
            role: { width: 96 },
            state: { width: 96 },
            factor: { width: 110 },
            seen: { width: 136 },
          }}
          act={{
            width: 150,
            render: (row) =>
              row.userId === me ? (
                <span className="quiet">you</span>
              ) : (
                <Line>
                  <Button size="small" onClick={() => setOpen({ show: 'change', row })}>
                    Change
                  </Button>
                  <Button
                    size="small"
                    onClick={() =>
                      void tell(
                        ableAction({ userId: row.userId, able: row.disabled }),
                        row.disabled ? `${row.name} may sign in` : `${row.name} may no longer sign in`,
                      )
                    }
                  >
                    {row.disabled ? 'Enable' : 'Disable'}
                  </Button>
                </Line>
              ),
          }}
        />
      </div>
      {open?.show === 'new' && (
        <FormDrawer
          title="Invite somebody"
          action={inviteAction}
          done={({ link, days }) => setOpen({ show: 'link', name: 'They', link, days })}
          onClose={() => setOpen(null)}
          words="Make the link"
        >
          {(f) => (
            <>
              <f.Text name="name" label="Name" needed focus />
              <f.Text name="email" label="E-mail" hint="They sign in with it" needed />
              <f.Choice name="role" label="Role" options={roles} needed />
            </>
          )}
        </FormDrawer>
      )}
      {open?.show === 'change' && (
        <FormDrawer
          title={open.row.email}
          initial={{ name: open.row.name, role: open.row.role }}
          along={{ userId: open.row.userId }}
          action={changeUserAction}
          done={() => setOpen(null)}
          onClose={() => setOpen(null)}
          words="Save"
          below={
            <section className={css.history} aria-label="Sign-in">
              <p>A link for another password takes the one until now away and ends what they have open.</p>
              <Line>
                <Button onClick={() => void reset(open.row)}>Make a link for another password</Button>
                {open.row.hasFactor && (
                  <Button onClick={() => setOpen({ show: 'factor', row: open.row })}>
                    Take the second factor off
                  </Button>
                )}
              </Line>
            </section>
          }
        >
          {(f) => (
            <>
              <f.Text name="name" label="Name" needed focus />
              <f.Choice
                name="role"
                label="Role"
                hint="Another role ends what they have open"
                options={roles}
              />
            </>
          )}
        </FormDrawer>
      )}
      {open?.show === 'factor' && (
        <FormDrawer
          title={`Second factor of ${open.row.name}`}
          along={{ userId: open.row.userId }}
          action={factorOffAction}
          done={() => {
            void message.success(
              `${open.row.name} signs in with the password alone, until a new one is set up`,
            );
            setOpen(null);
          }}
          onClose={() => setOpen(null)}
          words="Take it off"
        >
          {(f) => <f.Text name="reason" label="Reason" hint="It stands on the audit trail" needed focus />}
        </FormDrawer>
      )}
      {open?.show === 'link' && (
        <DeskDrawer title="A link, shown only now" onClose={() => setOpen(null)}>
          <p>
            {open.name} can set a password with it once, within {open.days} days. Hand it over yourself.
          </p>
          <p>
            <code className={css.link}>{open.link}</code>
          </p>
          <Button type="primary" onClick={() => void navigator.clipboard.writeText(open.link)}>
            Copy it
          </Button>
        </DeskDrawer>
      )}
    </div>
  );
}
