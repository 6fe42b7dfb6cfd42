import { calendarDate, parseDate } from '../../../../core/calendar';
import { BEGINNING } from '../../../../core/fees/input';
import { readSchedule, readScheduleChanges } from '../../../../server/fees/read';
import { idOf, orNotFound, signedInFor } from '../../../session';
import { ScheduleView } from './schedule-view';

/** What the browser shows as title. */
export const metadata = { title: 'Fees' };

/** The fees of one schedule as they are on a day, or from the beginning. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ on?: string }>;
}) {
  const context = await signedInFor('read setup');
  const { on = '' } = await searchParams;
  const id = await idOf(params);
  const first = on === 'beginning' ? calendarDate(BEGINNING) : parseDate(on);
  const schedule = await orNotFound(readSchedule(context, id, first ?? context.today));
  // What has no fees yet is filled from the beginning.
  const beginning = on === 'beginning' || (first === null && schedule.versions.length === 0);
  return (
    <ScheduleView
      key={`${id}/${on}`}
      schedule={schedule}
      beginning={beginning}
      changes={await readScheduleChanges(context, id)}
    />
  );
}
