'use client';
import { Segmented } from 'antd';
import { useRouter } from 'next/navigation';

const VIEWS = {
  '/overdue': 'Accounts',
  '/overdue/promises': 'Promises',
  '/overdue/hardship': 'Hardship',
  '/overdue/letters': 'Letters',
  '/overdue/small': 'Small balances',
  '/overdue/placements': 'Agencies',
} as const;

/** The parts of the station. */
export function OverdueViews({ value }: { value: keyof typeof VIEWS }) {
  const router = useRouter();
  return (
    <Segmented
      aria-label="Part of the station"
      value={value}
      onChange={(path) => router.push(path)}
      options={(Object.keys(VIEWS) as (keyof typeof VIEWS)[]).map((path) => ({
        value: path,
        label: VIEWS[path],
      }))}
    />
  );
}
