import { notFound } from 'next/navigation';
import { reportOf } from '../../../../../server/reports';
import { signedInFor } from '../../../../session';
import { ReportView } from './report-view';

/** What the browser shows as title. */
export const metadata = { title: 'Report' };

/** One report, for what the address asks. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ report: string }>;
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const report = reportOf((await params).report);
  if (!report) notFound();
  const context = await signedInFor(report.permission);
  return <ReportView report={await report.read(context, await searchParams)} />;
}
