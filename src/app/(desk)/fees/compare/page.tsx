import { parseDate } from '../../../../core/calendar';
import { MOST_COMPARED } from '../../../../core/fees/compare';
import { compareSchedules, readSchedules } from '../../../../server/fees/read';
import { orNotFound, signedInFor } from '../../../session';
import { CompareView } from './compare-view';

/** What the browser shows as title. */
export const metadata = { title: 'Schedules compared' };

/** Schedules side by side: which, as of which day and what of them come from the address. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ with?: string; on?: string; only?: string }>;
}) {
  const context = await signedInFor('read setup');
  const { with: asked = '', on = '', only = '' } = await searchParams;
  const schedules = await readSchedules(context);
  const ids = [...new Set(asked.split('.').map(Number))]
    .filter((id) => schedules.some((one) => one.id === id))
    .slice(0, MOST_COMPARED);
  const parts = only.split('.');
  const chosen = {
    on: parseDate(on) ?? context.today,
    differing: parts.includes('differing'),
    billed: parts.includes('billed'),
  };
  return (
    <CompareView
      schedules={schedules}
      ids={ids}
      {...chosen}
      found={
        ids.length < 2 ? null : await orNotFound(compareSchedules(context, { scheduleIds: ids, ...chosen }))
      }
    />
  );
}
