'use client';
import { App, Button } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../core/calendar';
import { counted } from '../../../core/words';
import type { OwnSession } from '../../../server/users/sessions';
import { FormDrawer } from '../../../ui/form';
import { Facts, Head, Panel, Toolbar } from '../../../ui/page';
import { DeskTable } from '../../../ui/table';
import { changePasswordAction, endSessionAction } from './actions';

type Session = Omit<OwnSession, 'since' | 'seen'> & { since: string; seen: string };

const time = (iso: string): string => {
  const at = new Date(iso);
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${formatDate(`${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`)}, ${two(at.getHours())}:${two(at.getMinutes())}`;
};

/** What one signs in with, and where one is signed in. */
export function You({
  who,
  factor,
  sessions,
}: {
  who: { name: string; email: string; role: string };
  factor: { has: boolean; asked: boolean };
  sessions: Session[];
}) {
  const { message } = App.useApp();
  const router = useRouter();
  const [changing, setChanging] = useState(false);
  const end = async (sessionId?: string): Promise<void> => {
    const answer = await endSessionAction(sessionId === undefined ? {} : { sessionId });
    if (!answer.ok) void message.error(answer.message);
    else void message.success(`${counted(answer.value, 'session')} ended`);
    router.refresh();
  };
  return (
    <>
      <Head title="Your sign-in" note={who.email}>
        <Button onClick={() => setChanging(true)}>Change the password</Button>
      </Head>
      <Panel>
        <Facts
          facts={[
            ['Name', who.name],
            ['E-mail', who.email],
            ['Role', who.role],
            [
              'Second factor',
              <>
                {factor.has ? 'set up' : 'none'} ·{' '}
                <Link href="/second-factor">{factor.has ? 'Recovery codes' : 'Set it up'}</Link>
              </>,
            ],
          ]}
        />
        <p className="small quiet">A manager changes name and role.</p>
      </Panel>
      <Panel title="Where you are signed in" below>
        <DeskTable
          label="Sessions"
          rows={sessions}
          rowKey={(row) => row.id}
          empty="Nowhere"
          columns={[
            { key: 'browser', title: 'Browser', render: (row) => row.browser },
            { key: 'address', title: 'Address', render: (row) => row.address },
            { key: 'since', title: 'Since', render: (row) => time(row.since) },
            { key: 'seen', title: 'Used last', render: (row) => (row.here ? 'now, here' : time(row.seen)) },
            {
              key: 'act',
              title: '',
              render: (row) =>
                row.here ? null : (
                  <Button size="small" onClick={() => void end(row.id)}>
                    Sign out
                  </Button>
                ),
            },
          ]}
        />
        {sessions.length > 1 && (
          <Toolbar right={<Button onClick={() => void end()}>Sign out everywhere else</Button>} />
        )}
      </Panel>
      {changing && (
        <FormDrawer
          title="Change the password"
          action={changePasswordAction}
          done={(ended) => {
            setChanging(false);
            void message.success(`The password is changed; ${counted(ended, 'other session')} ended`);
            router.refresh();
          }}
          onClose={() => setChanging(false)}
          words="Change it"
        >
          {(f) => (
            <>
              <f.Password name="current" label="Password until now" needed focus />
              <f.Password
                name="password"
                label="New password"
                hint="15 characters or more; a few words that do not belong together are easy to remember"
                needed
                fresh
              />
            </>
          )}
        </FormDrawer>
      )}
    </>
  );
}
