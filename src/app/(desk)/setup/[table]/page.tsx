import { notFound } from 'next/navigation';
import { may } from '../../../../server/access';
import { SETUP_TABLES, readSetup } from '../../../../server/setup/tables';
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
  searchParams: Promise<{ search?: string }>;
}) {
  const context = await signedInFor('read setup');
  const key = (await params).table;
  if (!SETUP_TABLES[key]) notFound();
  const { search = '' } = await searchParams;
  const { table, rows } = await readSetup(context, key, search);
  return (
    <SetupView
      key={key}
      name={key}
      table={table}
      rows={rows}
      search={search}
      pages={Object.entries(SETUP_TABLES).map(([name, page]) => ({ name, title: page.title }))}
      mayChange={may(context.user.role, 'change setup')}
    />
  );
}
