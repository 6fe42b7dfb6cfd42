/** Fields of Setup's tables: how each is entered as text, parsed, and shown as text. */
import { z } from 'zod';
import { isNpi } from '../claims/npi';
import { type CalendarDate, parseDate } from '../calendar';
import { STATES } from '../claims/states';
import { type BasisPoints, basisPoints, cents, formatMoneyPlain, parseMoney, toDecimal } from '../money';

/** How a field is entered. Money is decimal text, a percentage text such as `12.5 %`, a list text with commas. */
export type FieldKind =
  'text' | 'number' | 'money' | 'percent' | 'day' | 'yes-no' | 'choice' | 'list' | 'code';

/** A choice of a form. */
export interface Choice {
  value: string;
  label: string;
}

/** A field as the screen knows it. */
export interface SetupField {
  name: string;
  label: string;
  kind: FieldKind;
  /** Part of the key: fixed once the row exists. */
  fixed?: boolean;
  /** What a new row begins with. */
  begins?: string | boolean;
  hint?: string;
  /** The heading under which it stands with those after it. */
  under?: string;
  choices?: Choice[];
}

/** A field with its parsing: from what the form sends to what the database keeps, and back to what the form shows. */
export interface FieldRule {
  label: string;
  kind: FieldKind;
  fixed?: boolean;
  begins?: string | boolean;
  hint?: string;
  under?: string;
  /** Choices that are always the same; others are read from a table. */
  choices?: Choice[];
  schema: z.ZodType<unknown>;
  show(kept: unknown): string | boolean;
  /** It holds the id of a row of another table. */
  row?: true;
}

type More = Partial<Pick<FieldRule, 'fixed' | 'hint' | 'begins' | 'under'>>;
const asText = (kept: unknown): string => (kept === null || kept === undefined ? '' : String(kept));
const typed = z.string().trim();

/** Words of up to 200 characters; `needed` refuses empty ones. */
export const text = (
  label: string,
  more: More & { needed?: boolean; form?: z.ZodType<string> } = {},
): FieldRule => {
  const { needed, form, ...rest } = more;
  const base = typed.max(200, 'may have 200 characters');
  return {
    label,
    kind: 'text',
    schema: form ?? (needed ? base.min(1, 'is missing') : base),
    show: asText,
    ...rest,
  };
};
/** Five or nine digits, or nothing. */
export const openZip = (label: string): FieldRule =>
  text(label, { form: typed.regex(/^(\d{5}(-?\d{4})?)?$/, 'has five or nine digits') });
/** A code of another table, found by code or words while it is typed. */
export const code = (label: string, more: More = {}): FieldRule => ({
  label,
  kind: 'code',
  schema: typed.toUpperCase().min(1, 'is missing').max(20, 'may have 20 characters'),
  show: asText,
  ...more,
});
/** A national provider identifier with its check digit. */
export const npi = (label: string): FieldRule =>
  text(label, {
    form: typed.refine(isNpi, {
      error: (issue) => `NPI ${String(issue.input) || '(empty)'} does not pass its check digit`,
    }),
  });
/** A national drug code: eleven digits, with or without hyphens; or nothing. */
export const ndc = typed
  .transform((value) => value.replaceAll('-', ''))
  .pipe(z.string().regex(/^(\d{11})?$/, 'has eleven digits'));
/** A number of a laboratory (CLIA), such as 50D0123456; or nothing. */
export const clia = typed.toUpperCase().regex(/^(\d{2}D\d{7})?$/, 'is written like 50D0123456');
/** So much of something with up to three decimals, kept in thousandths; empty means none. */
export const thousandths = (label: string, more: More = {}): FieldRule => ({
  label,
  kind: 'number',
  schema: typed.transform((value, check) => {
    if (value === '') return null;
    const found = /^(\d{1,6})(?:\.(\d{1,3}))?$/.exec(value);
    const all = found ? Number(found[1]) * 1000 + Number((found[2] ?? '').padEnd(3, '0')) : 0;
    if (all === 0) check.addIssue({ code: 'custom', message: 'is a number such as 0.5' });
    return all;
  }),
  show: (kept) => (kept === null || kept === undefined ? '' : String(Number(kept) / 1000)),
  ...more,
});
/** Five or nine digits. */
export const zip = (label: string): FieldRule =>
  text(label, { form: typed.regex(/^\d{5}(-?\d{4})?$/, 'has five or nine digits') });
/** A whole number within bounds; `open` lets it be empty, which means none. */
export const whole = (
  label: string,
  least: number,
  most: number,
  more: More & { open?: boolean } = {},
): FieldRule => {
  const { open, ...rest } = more;
  return {
    label,
    kind: 'number',
    schema: typed.transform((value, check) => {
      if (value === '' && open) return null;
      if (!/^\d{1,6}$/.test(value)) check.addIssue({ code: 'custom', message: 'is not a whole number' });
      else if (Number(value) < least || Number(value) > most)
        check.addIssue({ code: 'custom', message: `is out of its range, ${least} to ${most}` });
      return Number(value);
    }),
    show: asText,
    ...rest,
  };
};
/** No fee and no term is more than this. */
const MOST = cents(1_000_000_00);
/** An amount of zero or more; `open` lets it be empty, which means none. */
export const amount = (label: string, more: More & { open?: boolean } = {}): FieldRule => {
  const { open, ...rest } = more;
  return {
    label,
    kind: 'money',
    schema: typed.transform((value, check) => {
      if (value === '' && open) return null;
      const parsed = parseMoney(value);
      if (parsed === null || parsed < 0)
        check.addIssue({ code: 'custom', message: 'is not an amount such as 12.50' });
      else if (parsed > MOST)
        check.addIssue({ code: 'custom', message: `is at most ${formatMoneyPlain(MOST)}` });
      return parsed;
    }),
    show: (kept) => (kept === null || kept === undefined ? '' : toDecimal(cents(Number(kept)))),
    ...rest,
  };
};
/** A percentage of up to 100 with two decimals as basis points; null when it is none. */
function pointsOf(value: string): BasisPoints | null {
  const found = /^(\d{1,3})(?:\.(\d{1,2}))?\s*%?$/.exec(value);
  const points = found ? Number(found[1]) * 100 + Number((found[2] ?? '').padEnd(2, '0')) : -1;
  return points < 0 || points > 10_000 ? null : basisPoints(points);
}
/** A percentage of up to 100 with two decimals, kept in basis points; `open` lets it be empty, which means none. */
export const percent = (label: string, more: More & { open?: boolean } = {}): FieldRule => {
  const { open, ...rest } = more;
  return {
    label,
    kind: 'percent',
    hint: 'like 80 % or 12.5 %',
    schema: typed.transform((value, check) => {
      if (value === '' && open) return null;
      const points = pointsOf(value);
      if (points === null) check.addIssue({ code: 'custom', message: 'is written like 80 % or 12.5 %' });
      return points;
    }),
    show: (kept) => (kept === null || kept === undefined ? '' : `${Number(kept) / 100} %`),
    ...rest,
  };
};
/** Several percentages with commas, kept in basis points; empty means none. */
export const percents = (label: string, more: More = {}): FieldRule => ({
  label,
  kind: 'text',
  schema: typed.transform((value, check) => {
    if (value === '') return null;
    const points = value.split(',').map((one) => pointsOf(one.trim()));
    if (points.length > 20 || points.includes(null))
      check.addIssue({ code: 'custom', message: 'are written like 100, 50, 25' });
    return points;
  }),
  show: (kept) => (Array.isArray(kept) ? kept.map((one) => Number(one) / 100).join(', ') : ''),
  ...more,
});
/** The code of a row of another table, or nothing. */
export const openCode = (label: string, more: More = {}): FieldRule => ({
  label,
  kind: 'text',
  schema: typed
    .max(20, 'may have 20 characters')
    .transform((value) => (value === '' ? null : value.toUpperCase())),
  show: asText,
  ...more,
});
/** A calendar date, or nothing. */
export const date = (label: string, more: More = {}): FieldRule => ({
  ...more,
  label,
  kind: 'day',
  schema: typed.transform((value, check): CalendarDate | null => {
    if (value === '') return null;
    const parsed = parseDate(value);
    if (!parsed) check.addIssue({ code: 'custom', message: 'is not a date (YYYY-MM-DD)' });
    return parsed;
  }),
  show: asText,
});
/** One of the choices that are read from a table, by its text; `open` lets it be empty, which is nothing. */
export const pick = (label: string, more: More & { open?: boolean } = {}): FieldRule => {
  const { open, ...rest } = more;
  const one = typed.max(200, 'may have 200 characters');
  return {
    label,
    kind: 'choice',
    schema: open ? one.transform((value) => value || null) : one.min(1, 'is missing'),
    show: asText,
    ...rest,
  };
};
/** A postal code of a state or territory. */
export const state = (label: string, more: More & { needed?: boolean } = {}): FieldRule => {
  const { needed, ...rest } = more;
  return text(label, {
    form: typed
      .toUpperCase()
      .refine((value) => (value === '' && !needed) || STATES.has(value), 'is not a state code such as WA'),
    ...rest,
  });
};
/** A tax id: nine digits, as an employer’s or a person’s is written. */
export const taxId = (label: string): FieldRule =>
  text(label, {
    form: typed.regex(/^(\d{9}|\d{2}-\d{7}|\d{3}-\d{2}-\d{4})$/, 'has nine digits, such as 91-1234567'),
  });
/** Yes or no; a new row says no where nothing else is said. */
export const yesNo = (label: string, more: More = {}): FieldRule => ({
  begins: false,
  ...more,
  label,
  kind: 'yes-no',
  schema: z.boolean(),
  show: (kept) => kept === true,
});
/** One of a few words; where they are not what a person reads, each with what it is called. */
export const choice = (
  label: string,
  values: readonly string[] | Readonly<Record<string, string>>,
  more: More = {},
): FieldRule => {
  const words = Array.isArray(values)
    ? Object.fromEntries((values as readonly string[]).map((value) => [value, value]))
    : (values as Readonly<Record<string, string>>);
  return {
    label,
    kind: 'choice',
    // A new row begins with the first.
    begins: Object.keys(words)[0]!,
    choices: Object.entries(words).map(([value, called]) => ({ value, label: called })),
    schema: typed.refine((value) => Object.hasOwn(words, value), 'is not one of the choices'),
    show: asText,
    ...more,
  };
};
/** A row of another table, by its id; `open` lets it be empty. */
export const reference = (label: string, more: More & { open?: boolean } = {}): FieldRule => {
  const { open, ...rest } = more;
  return {
    label,
    kind: 'choice',
    row: true,
    schema: typed.transform((value, check) => {
      if (value === '' && open) return null;
      if (!/^\d{1,15}$/.test(value)) check.addIssue({ code: 'custom', message: 'is missing' });
      return Number(value);
    }),
    show: asText,
    ...rest,
  };
};
/** Several words with commas. */
export const several = (label: string): FieldRule => ({
  label,
  kind: 'list',
  hint: 'with commas',
  schema: typed.transform((value) =>
    value
      .split(/[,;]/)
      .map((item) => item.trim())
      .filter(Boolean),
  ),
  show: (kept) => (Array.isArray(kept) ? kept.join(', ') : ''),
});
