'use client';
import { counted } from '../../../../../core/words';
import { LinkIfSeen } from '../../../../../ui/desk';
import { Day } from '../../../../../ui/figures';
import { Notice } from '../../../../../ui/page';
import { Tag } from '../../../../../ui/tag';
import { type AccountSection, useAccount } from '../section';

/** What of the household is followed up: the most pressing one, the others unfolded. */
export const followUps: AccountSection = { Panel: FollowUpNotice };

function FollowUpNotice() {
  const { followUps: all } = useAccount().account;
  const [first] = all;
  if (!first) return null;
  return (
    <Notice>
      <details className="small">
        <summary>
          {counted(all.length, 'follow-up')}: {first.words}, due <Day date={first.dueDate} />
        </summary>
        {all.map((item) => (
          <div key={item.id}>
            <Tag>{item.kind.replace('-', ' ')}</Tag> {item.words} · due <Day date={item.dueDate} />{' '}
            {item.claimId && (
              <LinkIfSeen way to="claims" id={item.claimId}>
                claim
              </LinkIfSeen>
            )}
          </div>
        ))}
      </details>
    </Notice>
  );
}
