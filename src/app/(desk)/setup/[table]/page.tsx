import { notFound } from 'next/navigation';
import type { ListAddress } from '../../../../server/lists/read';
import { readSetup } from '../../../../server/setup/read';
import { setupTable } from '../../../../server/setup/tables';
import { setupPages } from '../pages';
import { signedInFor } from '../../../session';
import { SetupView } from './setup-view';

/** What the browser shows as title. */
export const metadata = { title: 'Setup' };

/** One table of the setup; only a manager changes it. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ table: string }>;
  searchParams: Promise<ListAddress>;
}) {
  const context = await signedInFor('read setup');
  const { table } = await params;
  if (!setupTable(table)) notFound();
  return (
    <SetupView
      key={table}
      page={await readSetup(context, table, await searchParams)}
      tables={setupPages(context.user.role)}
    />
  );
}
