'use client';
import { useEffect, useState } from 'react';
import type { ChargeStory } from '../../../../../core/statements/story';
import { DeskDrawer } from '../../../../../ui/drawer';
import { Story } from '../../../../../ui/story';
import { storyAction } from '../../actions';
import { type AccountSection, useAccount } from '../section';

/** How the balance came about, beside the ledger. */
export const story: AccountSection = {
  acts: ({ open }) => [
    { words: 'Balance story', key: 'b', kind: 'record', rank: 'often', does: () => open('story') },
  ],
  dialogs: { story: { draw: () => <StoryDrawer /> } },
};

/** As wide as the page makes room for what stands beside it. */
const STORY_WIDTH = 420;

function StoryDrawer() {
  const { account, params, close } = useAccount();
  const householdId = account.household.id;
  const chargeId = Number(params.get('of')) || undefined;
  const [told, setTold] = useState<{ charges: ChargeStory[]; closing: string } | null>(null);
  useEffect(() => {
    let here = true;
    void storyAction({ householdId, chargeId }).then((result) => here && result.ok && setTold(result.value));
    return () => {
      here = false;
    };
  }, [householdId, chargeId]);
  return (
    <DeskDrawer size={STORY_WIDTH} title="How this balance came about" beside onClose={close}>
      {told ? (
        <Story
          charges={told.charges}
          closing={chargeId ? undefined : told.closing}
          householdId={householdId}
          lit={Number(params.get('charge')) || 0}
          here={{ ...Object.fromEntries(params), show: 'story' }}
        />
      ) : (
        <p className="quiet">Reading …</p>
      )}
    </DeskDrawer>
  );
}
