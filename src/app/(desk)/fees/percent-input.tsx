'use client';
import { Input } from 'antd';

/** A percentage as typed in hundredths of a percent; null where it is none. */
export const percentOf = (text: string): number | null =>
  /^-?\d{1,3}([.,]\d{1,2})?$/.test(text.trim())
    ? Math.round(Number(text.trim().replace(',', '.')) * 100)
    : null;

/** A percentage that is typed. */
export function PercentInput({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (text: string) => void;
}) {
  return (
    <Input
      aria-label={label}
      suffix="%"
      style={{ width: 110 }}
      status={percentOf(value) === null ? 'error' : undefined}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
