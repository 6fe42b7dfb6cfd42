import { claimText, readClaim } from '../../../../server/claims/read';
import { titleOf } from '../../../../server/search/titles';
import { idOf, orNotFound, signedInFor } from '../../../session';
import { ClaimView } from './claim-view';

/** What the browser shows as title. */
export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read claims');
  return { title: (await titleOf(context, 'claim', (await params).id)) ?? 'Claim' };
}

/** One claim as a person reads it, its findings, its X12 and what became of it. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read claims');
  const claim = await orNotFound(idOf(params).then((id) => readClaim(context, id)));
  return (
    <ClaimView
      claim={{ ...claim, events: claim.events.map((event) => ({ ...event, at: event.at.toISOString() })) }}
      text={await claimText(context, claim)}
    />
  );
}
