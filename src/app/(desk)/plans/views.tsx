'use client';
import { Segmented } from 'antd';
import { useRouter } from 'next/navigation';

/** The parts of the station: the board of what runs, and the list of all. */
export function PlanViews({ value }: { value: 'board' | 'all' }) {
  const router = useRouter();
  return (
    <Segmented
      aria-label="Part of the station"
      value={value}
      onChange={(view) => router.push(view === 'board' ? '/plans' : '/plans?view=all')}
      options={[
        { value: 'board', label: 'What is due' },
        { value: 'all', label: 'All plans' },
      ]}
    />
  );
}
