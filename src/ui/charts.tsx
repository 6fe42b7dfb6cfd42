'use client';
/** Charts, where a picture is read faster than a table. */
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { type Cents, formatMoneyPlain } from '../core/money';

const units = (value: number): string =>
  Math.abs(value) >= 100_000 ? `${Math.round(value / 10_000) / 10}k` : String(Math.round(value / 100));
const words = (value: unknown): string => formatMoneyPlain(Number(value) as Cents);
const axis = { tick: { fill: 'var(--quiet)', fontSize: 12 }, stroke: 'var(--line)' };
const tip = { contentStyle: { background: 'var(--raised)', border: '1px solid var(--line)', fontSize: 13 } };

/** What patients and payers owe, by age. Cents. */
export function AgingChart({
  patients,
  payers,
}: {
  patients: { bucket: string; amount: number }[];
  payers: { bucket: string; amount: number }[];
}) {
  const data = patients.map((item, index) => ({
    bucket: item.bucket,
    Patients: item.amount,
    Payers: payers[index]!.amount,
  }));
  return (
    <ResponsiveContainer width="100%" height={320}>
      <BarChart data={data} margin={{ top: 8, right: 4, left: -8, bottom: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="bucket" {...axis} />
        <YAxis tickFormatter={units} {...axis} />
        <Tooltip formatter={words} {...tip} />
        <Legend wrapperStyle={{ fontSize: 13 }} />
        <Bar dataKey="Payers" fill="var(--with-payer)" isAnimationActive={false} />
        <Bar dataKey="Patients" fill="var(--with-patient)" isAnimationActive={false} />
      </BarChart>
    </ResponsiveContainer>
  );
}

/** Money by month. Cents. */
export function MonthChart({
  months,
}: {
  months: { month: string; charged: number; payers: number; patients: number; written: number }[];
}) {
  const data = months.map((item) => ({
    month: item.month,
    Charged: item.charged,
    'From payers': item.payers,
    'From patients': item.patients,
    'Written off': item.written,
  }));
  return (
    <ResponsiveContainer width="100%" height={210}>
      <BarChart data={data} margin={{ top: 8, right: 4, left: -8, bottom: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="month" {...axis} />
        <YAxis tickFormatter={units} {...axis} />
        <Tooltip formatter={words} {...tip} />
        <Legend wrapperStyle={{ fontSize: 13 }} />
        <Bar dataKey="Charged" fill="var(--quiet)" isAnimationActive={false} />
        <Bar dataKey="From payers" stackId="in" fill="var(--payer-paid)" isAnimationActive={false} />
        <Bar dataKey="From patients" stackId="in" fill="var(--patient-paid)" isAnimationActive={false} />
        <Bar dataKey="Written off" stackId="in" fill="var(--reduced)" isAnimationActive={false} />
      </BarChart>
    </ResponsiveContainer>
  );
}
