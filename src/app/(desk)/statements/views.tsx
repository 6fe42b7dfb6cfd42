'use client';
import { Segmented } from 'antd';
import { useRouter } from 'next/navigation';

const VIEWS = {
  choose: 'Choose',
  due: 'Due',
  open: 'Batches',
  sent: 'Sent',
  late: 'Late charges',
} as const;

/** The parts of the station. */
export function StationViews({ value, mayPrepare }: { value: keyof typeof VIEWS; mayPrepare: boolean }) {
  const router = useRouter();
  return (
    <Segmented
      aria-label="Part of the station"
      value={value}
      onChange={(view) => router.push(`/statements?view=${view}`)}
      options={Object.entries(VIEWS)
        .filter(([view]) => (view !== 'choose' && view !== 'late') || mayPrepare)
        .map(([view, label]) => ({ value: view as keyof typeof VIEWS, label }))}
    />
  );
}
