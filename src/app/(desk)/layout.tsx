import { may, permissionsOf } from '../../server/access';
import { workGoing } from '../../server/jobs/read';
import { IDLE_SECONDS } from '../../server/users/sessions';
import { readWaiting } from '../../server/today/read';
import { DeskProvider } from '../../ui/desk';
import { Shell } from '../../ui/shell';
import { Theme } from '../../ui/theme';
import { chosenTheme, pageNonce, signedIn } from '../session';
import { leaveAction } from '../sign-in/actions';
import { stationsFor, verbsFor } from './stations';
import {
  columnsAction,
  forgetViewAction,
  keepViewAction,
  resumeWorkAction,
  stopWorkAction,
} from './work/actions';

/** The shell around every page of a signed-in person. */
export default async function Desk({ children }: { children: React.ReactNode }) {
  const context = await signedIn();
  const { name, role } = context.user;
  const [waiting, mode, nonce, work] = await Promise.all([
    readWaiting(context, 'rail'),
    chosenTheme(),
    pageNonce(),
    may(role, 'watch work') ? workGoing(context) : null,
  ]);
  return (
    <Theme mode={mode} nonce={nonce}>
      <DeskProvider
        value={{
          today: context.today,
          permissions: permissionsOf(role),
          waiting: Object.fromEntries(
            waiting.filter(({ rail }) => rail).map(({ list, view, count }) => [`${list} ${view}`, count]),
          ),
          chooseColumns: columnsAction,
          keepView: keepViewAction,
          forgetView: forgetViewAction,
          stopWork: stopWorkAction,
          resumeWork: resumeWorkAction,
        }}
      >
        <Shell
          stations={stationsFor(role, waiting)}
          verbs={verbsFor(role)}
          work={work}
          today={context.today}
          user={{ name, role }}
          mode={mode}
          idleSeconds={IDLE_SECONDS}
          leave={leaveAction}
        >
          {children}
        </Shell>
      </DeskProvider>
    </Theme>
  );
}
