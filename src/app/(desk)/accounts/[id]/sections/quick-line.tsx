'use client';
import dynamic from 'next/dynamic';
import { Settled } from '../../../../../ui/settled';
import css from '../account.module.css';
import { type AccountSection, useAccount } from '../section';

const room = () => <div className={css.room} />;
// It is drawn, and its code comes, once the rest of the page is on the screen.
const QuickLine = dynamic(() => import('../quick-line').then((all) => all.QuickLine), { loading: room });

/** The key was pressed while the line was still on its way. */
let awaited = false;
const isAwaited = (): boolean => {
  const was = awaited;
  awaited = false;
  return was;
};

/** Services, taken one after another without a dialog. It stands at the foot of the window. */
export const quickLine: AccountSection = {
  Panel: QuickPanel,
  acts: ({ account, may, dialog }) => [
    may('enter charges') &&
      account.members.length > 0 &&
      dialog !== 'story' && {
        words: 'New charge',
        key: 'n',
        kind: 'claims',
        rank: 'beside',
        does: () => {
          const field = document.getElementById('quick-code');
          // Whoever presses before the line is there means it all the same.
          if (field) field.focus();
          else awaited = true;
        },
      },
  ],
};

function QuickPanel() {
  const { account, member, shownCase, forms, today, may, dialog } = useAccount();
  if (!may('enter charges') || account.members.length === 0 || dialog === 'story') return null;
  return (
    <Settled room={room()}>
      <QuickLine
        key={`${member}/${shownCase?.id ?? 0}`}
        members={account.members}
        member={member}
        shownCase={shownCase}
        choices={forms.choices}
        today={today}
        begins={isAwaited}
      />
    </Settled>
  );
}
