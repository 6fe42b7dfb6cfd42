'use client';
/** The charts themselves; loaded after the page that they stand on. */
import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';
import { cents, formatMoneyPlain } from '../core/money';

const units = (value: number): string =>
  Math.abs(value) >= 100_000 ? `${Math.round(value / 10_000) / 10}k` : String(Math.round(value / 100));
const words = (value: unknown): string => formatMoneyPlain(cents(Number(value)));
const short = (name: unknown): string => {
  const text = String(name ?? '');
  return text.length > 13 ? `${text.slice(0, 12)}…` : text;
};
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

const FILLS = ['var(--spruce)', 'var(--with-payer)', 'var(--with-patient)', 'var(--reduced)'] as const;

/** Amounts of rows side by side, in cents. @param along the field that names a row */
export function AmountChart({
  along,
  draws,
  rows,
}: {
  along: string;
  draws: readonly { key: string; title: string }[];
  rows: readonly Readonly<Record<string, string | number | null>>[];
}) {
  return (
    <ResponsiveContainer width="100%" height={200}>
      <BarChart data={[...rows]} margin={{ top: 8, right: 4, left: -8, bottom: 0 }}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        {/* Every bar has its name; a long one is whole in the tip. */}
        <XAxis dataKey={along} interval={0} tickFormatter={short} {...axis} />
        <YAxis tickFormatter={units} {...axis} />
        <Tooltip formatter={words} {...tip} />
        {draws.length > 1 && <Legend wrapperStyle={{ fontSize: 13 }} />}
        {draws.map(({ key, title }, index) => (
          <Bar
            key={key}
            dataKey={key}
            name={title}
            fill={FILLS[index % FILLS.length]!}
            isAnimationActive={false}
            maxBarSize={40}
          />
        ))}
      </BarChart>
    </ResponsiveContainer>
  );
}
