import { Link } from '../../../ui/link';
import css from './setup.module.css';

/** The names of Setup's pages, beside each of them. */
export const SetupNav = ({ tables, at }: { tables: { key: string; title: string }[]; at: string }) => (
  <nav className={css.tables} aria-label="Tables of Setup">
    {tables.map(({ key, title }) => (
      <Link key={key} href={`/setup/${key}`} aria-current={key === at ? 'page' : undefined}>
        {title}
      </Link>
    ))}
  </nav>
);
