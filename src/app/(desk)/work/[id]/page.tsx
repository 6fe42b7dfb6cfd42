import { notFound } from 'next/navigation';
import { Refused } from '../../../../server/access';
import { readWork } from '../../../../server/jobs/read';
import { idOf, signedIn } from '../../../session';
import { WorkView } from './work-view';

/** What the browser shows as title. */
export const metadata = { title: 'Background work' };

/** One piece of background work with its items. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const work = await idOf(params)
    .then((id) => readWork(context, id))
    .catch((error: unknown) => {
      if (error instanceof Refused) notFound();
      throw error;
    });
  return <WorkView work={work} />;
}
