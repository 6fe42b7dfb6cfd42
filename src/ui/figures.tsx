/** Money, dates and the fee strip, the same everywhere. */
import { STRIP_PARTS, stripParts } from '../core/books/strip';
import { formatDate } from '../core/calendar';
import { cents as asCents, formatMoney, formatMoneyPlain } from '../core/money';
import css from './figures.module.css';
import { Link } from './link';

/** An amount in cents; zero as a dash. */
export function Money({ cents, strong }: { cents: number; strong?: boolean }) {
  const words = formatMoney(asCents(cents));
  return (
    <span className={cents === 0 ? `${css.money} ${css.zero}` : css.money}>
      {strong ? <strong>{words}</strong> : words}
    </span>
  );
}

/** Amounts at the head of a page, in one frame. */
export const Figures = ({ label, children }: { label?: string; children: React.ReactNode }) => (
  <div className={css.figures} role={label ? 'group' : undefined} aria-label={label}>
    {children}
  </div>
);

/** One of the amounts at the head of a page. `less`: it is taken off, so that a minus stands before it. */
export function Figure({
  words,
  cents,
  owed,
  less,
  slim,
  id,
  href,
}: {
  words: string;
  cents: number;
  owed?: boolean;
  less?: boolean;
  slim?: boolean;
  id?: string;
  /** The list of which it is the sum. */
  href?: string;
}) {
  const look = [css.figure, owed && css.owed, slim && css.slim].filter(Boolean).join(' ');
  return (
    <div className={look} role="group" aria-label={words}>
      <small>{href ? <Link href={href}>{words}</Link> : words}</small>
      <b data-testid={id ?? 'figure'}>
        {less && cents > 0 && <span className={css.sign}>−</span>}
        <Money cents={cents} />
      </b>
    </div>
  );
}

/** A calendar date. */
export const Day = ({ date }: { date: string | null }) => (
  <span className={css.day}>{date ? formatDate(date) : '–'}</span>
);

/** Where the cents are now: one bar, with the parts in words for those who cannot see it. */
export function FeeStrip({ totals }: { totals: Parameters<typeof stripParts>[0] }) {
  const parts = stripParts(totals);
  const words = parts.map((part) => `${part.words} ${formatMoneyPlain(part.amount)}`).join(', ') || 'nothing';
  return (
    <span className={css.strip} role="img" aria-label={words} title={words}>
      {parts.map((part) => (
        <span key={part.part} className={css[part.part]} style={{ width: `${part.permille / 10}%` }} />
      ))}
    </span>
  );
}

/** Parts that stand in the key of every strip; the others say themselves what they are. */
const EVERYWHERE = new Set(['payerPaid', 'patientPaid', 'reduced', 'withPayer', 'withPatient']);

/** What the parts of the strip mean. @param expected something is expected to come off */
export function StripKey({ expected }: { expected: boolean }) {
  const shown = STRIP_PARTS.filter(({ part }) => EVERYWHERE.has(part) || (part === 'expected' && expected));
  return (
    <div className={css.key} aria-hidden>
      {shown.map(({ part, words }) => (
        <span key={part}>
          <i className={css[part]} />
          {words}
        </span>
      ))}
    </div>
  );
}
