import { notFound } from 'next/navigation';
import { parseDate } from '../../../../../core/calendar';
import { Refused } from '../../../../../server/access';
import { readReason } from '../../../../../server/remittances/reason-page';
import { signedInFor } from '../../../../session';
import { ReasonView } from './reason-view';

/** What the browser shows as title. */
export const metadata = { title: 'Reason code' };

/** A reason code, by its group and number or by its number alone; the days of its uses come from the address. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ reason: string[] }>;
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const context = await signedInFor('read remittances');
  const { reason } = await params;
  const { from, to } = await searchParams;
  const [begins, ends] = [parseDate(from ?? ''), parseDate(to ?? '')];
  // A row of Setup leads here by its key, whose slash is a part of it.
  const parts = decodeURIComponent(reason.join('/')).split('/');
  const code = parts.at(-1)!;
  if (parts.length > 2 || !/^[A-Za-z0-9]{1,5}$/.test(code)) notFound();
  const page = await readReason(context, {
    code,
    ...(begins && begins <= (ends ?? context.today) ? { from: begins } : {}),
    ...(ends ? { to: ends } : {}),
  }).catch((error: unknown) => {
    if (error instanceof Refused && error.code === 'unknown') notFound();
    throw error;
  });
  return <ReasonView page={page} />;
}
