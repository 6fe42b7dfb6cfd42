import { parseDate } from '../../../../core/calendar';
import { readReview } from '../../../../server/fees/review';
import { signedInFor } from '../../../session';
import { ReviewView } from './review-view';

/** What the browser shows as title. */
export const metadata = { title: 'Contracts' };

/** The yearly look at contracts; the time and what is asked come from the address, and what is none of it is left out. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const context = await signedInFor('read books');
  const { from, to, raise = '', schedule, payer } = await searchParams;
  const [begins, ends] = [parseDate(from ?? ''), parseDate(to ?? '')];
  const review = await readReview(context, {
    ...(begins && (!ends || begins <= ends) && begins <= (ends ?? context.today) ? { from: begins } : {}),
    ...(ends ? { to: ends } : {}),
    ...(/^\d{1,2}([.,]\d{1,2})?$/.test(raise) ? { raise } : {}),
    ...(Number(schedule) > 0 ? { scheduleId: Number(schedule) } : {}),
  });
  return <ReviewView review={review} payerId={Number(payer) || null} />;
}
