import { readVisits } from '../../../../server/payments/visits';
import { orNotFound, signedInFor } from '../../../session';
import { VisitsView } from './visits-view';

/** What the browser shows as title. */
export const metadata = { title: 'Expected visits' };

/** The visits of a day: what each owes, what to collect, and the money that was taken before. */
export default async function Page({ searchParams }: { searchParams: Promise<{ day?: string }> }) {
  const { day } = await searchParams;
  return <VisitsView {...await orNotFound(readVisits(await signedInFor('take payments'), day))} />;
}
