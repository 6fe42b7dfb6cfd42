import { readTerms } from '../../../../server/estimates/terms';
import { quickChoices } from '../../../../server/setup/choices';
import { idOf, orNotFound, signedIn } from '../../../session';
import { TermsView } from './terms-view';

/** What the browser shows as title. */
export const metadata = { title: 'What it covers' };

/** What a plan covers, or one person's policy of it, beside a visit that it would pay. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ coverage?: string }>;
}) {
  const context = await signedIn();
  const coverageId = Number((await searchParams).coverage) || null;
  const terms = await orNotFound(idOf(params).then((id) => readTerms(context, id, coverageId)));
  const { services } = await quickChoices(context);
  return <TermsView terms={terms} services={services} />;
}
