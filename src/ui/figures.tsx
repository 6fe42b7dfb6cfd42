/** Money, dates and the fee strip, the same everywhere. */
import { type ChargeTotals, STRIP_PARTS, stripParts } from '../core/books/strip';
import { formatDate } from '../core/calendar';
import { type Cents, formatMoney, formatMoneyPlain } from '../core/money';

/** An amount in cents; zero as a dash. */
export function Money({ cents, strong }: { cents: number; strong?: boolean }) {
  const words = formatMoney(cents as Cents);
  return (
    <span className={`money${cents === 0 ? ' zero' : ''}`}>{strong ? <strong>{words}</strong> : words}</span>
  );
}

/** One of the amounts at the head of a page. `less`: it is taken off, so that a minus stands before it. */
export function Figure({
  words,
  cents,
  owed,
  less,
  id,
}: {
  words: string;
  cents: number;
  owed?: boolean;
  less?: boolean;
  id?: string;
}) {
  return (
    <div className={owed ? 'figure owed' : 'figure'}>
      <small>{words}</small>
      <b data-testid={id}>
        {less && cents > 0 && <span className="sign">−</span>}
        <Money cents={cents} />
      </b>
    </div>
  );
}

/** A calendar date. */
export function Day({ date }: { date: string | null }) {
  return <span style={{ whiteSpace: 'nowrap' }}>{date ? formatDate(date) : '–'}</span>;
}

/** Where the cents are now: one bar, with the parts in words for those who cannot see it. */
export function FeeStrip({ totals }: { totals: ChargeTotals }) {
  const parts = stripParts(totals);
  const words = parts.map((part) => `${part.words} ${formatMoneyPlain(part.amount)}`).join(', ') || 'nothing';
  return (
    <span className="strip" role="img" aria-label={words} title={words}>
      {parts.map((part) => (
        <span key={part.part} className={part.part} style={{ width: `${part.permille / 10}%` }} />
      ))}
    </span>
  );
}

/** What the parts of the strip mean. */
export function StripKey() {
  return (
    <div className="key" aria-hidden>
      {STRIP_PARTS.slice(0, 5).map(({ part, words }) => (
        <span key={part}>
          <i className={part} />
          {words}
        </span>
      ))}
    </div>
  );
}
