import { readAccount } from '../../../../server/account-page/read';
import { plansForForms, quickChoices, sitesForForms } from '../../../../server/setup/choices';
import { readPlanPolicy } from '../../../../server/plans/policy';
import { titleOf } from '../../../../server/search/titles';
import { idOf, orNotFound, signedIn } from '../../../session';
import { AccountView } from './account-view';

/** What the browser shows as title. */
export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  return { title: (await titleOf(context, 'account', (await params).id)) ?? 'Account' };
}

/** One household’s account; the read is put on the audit trail. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ all?: string }>;
}) {
  const context = await signedIn();
  const all = (await searchParams).all === '1';
  const [account, choices, plans, sites, { rate }] = await Promise.all([
    orNotFound(idOf(params).then((id) => readAccount(context, id, all))),
    quickChoices(context),
    plansForForms(context),
    sitesForForms(context),
    readPlanPolicy(context.db),
  ]);
  return <AccountView account={account} forms={{ choices, plans, sites, planRate: rate }} />;
}
