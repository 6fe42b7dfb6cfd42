/** The head of a page: its name, what there is of it, and what can be done. */
export function Head({
  title,
  note,
  children,
}: {
  title: React.ReactNode;
  note?: React.ReactNode;
  children?: React.ReactNode;
}) {
  return (
    <div className="head">
      <h1>{title}</h1>
      {note !== undefined && <span className="quiet">{note}</span>}
      {children && <span className="push">{children}</span>}
    </div>
  );
}
