import { readWork } from '../../../../server/jobs/read';
import { idOf, orNotFound, signedIn } from '../../../session';
import { WorkView } from './work-view';

/** What the browser shows as title. */
export const metadata = { title: 'Background work' };

/** One piece of background work with its items. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const work = await orNotFound(idOf(params).then((id) => readWork(context, id)));
  return <WorkView work={work} />;
}
