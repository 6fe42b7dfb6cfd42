'use client';
import { formatDate } from '../../../../../core/calendar';
import { Notice } from '../../../../../ui/page';
import { type AccountSection, useAccount } from '../section';

/** What must be known before anything is done: what is stopped, whose address is apart. */
export const notices: AccountSection = { Panel: Notices };

function Notices() {
  const { stops, confidential } = useAccount().account;
  return (
    <>
      {stops.length > 0 && (
        <Notice>
          {stops
            .map(
              ({ reason, stops: what, until }) =>
                `${reason}: no ${what.join(', ')}${until ? ` until ${formatDate(until)}` : ''}`,
            )
            .join(' · ')}
        </Notice>
      )}
      {confidential.length > 0 && (
        <Notice>
          Confidential: what concerns {confidential.map(({ patient }) => patient).join(', ')} goes to an
          address apart, and is told to nobody else.
        </Notice>
      )}
    </>
  );
}
