import { readDay } from '../../../../server/payments/day';
import { orNotFound, signedInFor } from '../../../session';
import { DayView } from './day-view';

/** What the browser shows as title. */
export const metadata = { title: 'Day’s end' };

/** The end of a day: drawers, what was taken, what goes to the bank, cards. */
export default async function Page({ searchParams }: { searchParams: Promise<{ day?: string }> }) {
  const { day } = await searchParams;
  return <DayView page={await orNotFound(readDay(await signedInFor('take payments'), day))} />;
}
