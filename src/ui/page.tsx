/** The pieces that pages are put together from. */
import css from './page.module.css';

/** The head of a page: its name, what there is of it, and what can be done. */
export function Head({
  title,
  note,
  below,
  children,
}: {
  title: React.ReactNode;
  note?: React.ReactNode;
  /** The note stands under the name, so that there is room for a bar of acts. */
  below?: true;
  children?: React.ReactNode;
}) {
  return (
    <div className={css.head}>
      <div className={below ? undefined : css.name}>
        <h1>{title}</h1>
        {note !== undefined && (
          <span className="quiet note" data-testid="note">
            {note}
          </span>
        )}
      </div>
      {children && <span className={css.push}>{children}</span>}
    </div>
  );
}

/** A framed part of a page, named by its heading. */
export function Panel({
  title,
  below,
  children,
}: {
  title?: string;
  /** Stands under another part. */
  below?: boolean;
  children: React.ReactNode;
}) {
  return (
    <section className={below ? `${css.panel} ${css.below}` : css.panel} aria-label={title}>
      {title && <h2>{title}</h2>}
      {children}
    </section>
  );
}

/** Two parts beside each other. */
export const Columns = ({ wide, children }: { wide?: boolean; children: React.ReactNode }) => (
  <div className={wide ? `${css.columns} ${css.wide}` : css.columns}>{children}</div>
);

/** A row of filters and tools; `right` stands at its end. */
export const Toolbar = ({ children, right }: { children?: React.ReactNode; right?: React.ReactNode }) => (
  <div className={css.toolbar}>
    {children}
    {right && <span className={css.push}>{right}</span>}
  </div>
);

/** Words that must be seen. */
export const Notice = ({ children }: { children: React.ReactNode }) => (
  <div className={css.notice}>{children}</div>
);

/** Things beside each other with a little room between. */
export const Line = ({ children }: { children: React.ReactNode }) => (
  <span className={css.line}>{children}</span>
);

/** What a thing is, fact by fact; an empty fact is left out. */
export const Facts = ({ facts }: { facts: readonly (readonly [name: string, value: React.ReactNode])[] }) => (
  <dl className={css.facts}>
    {facts
      .filter(([, value]) => value !== null && value !== undefined && value !== '')
      .map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
  </dl>
);
