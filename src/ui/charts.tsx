'use client';
/** Charts, where a picture is read faster than a table. They come after the page: their room is kept for them. */
import dynamic from 'next/dynamic';
import css from './charts.module.css';

const room = (name: 'aging' | 'months' | 'amounts') => {
  const Room = () => <div className={css[name]} />;
  return Room;
};

/** What patients and payers owe, by age. Cents. */
export const AgingChart = dynamic(() => import('./drawn-charts').then((all) => all.AgingChart), {
  ssr: false,
  loading: room('aging'),
});
/** Money by month. Cents. */
export const MonthChart = dynamic(() => import('./drawn-charts').then((all) => all.MonthChart), {
  ssr: false,
  loading: room('months'),
});
/** Amounts of rows side by side, in cents. */
export const AmountChart = dynamic(() => import('./drawn-charts').then((all) => all.AmountChart), {
  ssr: false,
  loading: room('amounts'),
});
