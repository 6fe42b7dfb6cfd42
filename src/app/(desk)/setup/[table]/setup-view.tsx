'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useRef, useState } from 'react';
import { counted } from '../../../../core/words';
import { useAct } from '../../../../ui/act';
import { bringCombinationsAction, bringDormancyAction, bringLimitsAction } from '../actions';
import type { SetupPage } from '../../../../server/setup/read';
import type { SetupListRow } from '../../../../server/setup/table';
import { useKeys } from '../../../../ui/keys';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { Several } from './several';
import { SetupNav } from '../nav';
import { type OpenRow, RowDrawer } from './row-drawer';
import css from '../setup.module.css';
import { WordsPreview } from './words-preview';

/** Tables that come as a file, by their pages, with what brings them in. */
const FROM_FILE = {
  'unit-limits': (text: string) => bringLimitsAction({ which: 'units', text }),
  'not-together': (text: string) => bringLimitsAction({ which: 'pairs', text }),
  combinations: (text: string) => bringCombinationsAction({ text }),
  dormancy: (text: string) => bringDormancyAction({ text }),
} as const;

/** A table out of a file, in the place of the one before. */
function BringIn({ bring }: { bring: (typeof FROM_FILE)[keyof typeof FROM_FILE] }) {
  const { run } = useAct();
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button onClick={() => file.current?.click()}>Bring in a CSV</Button>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv,text/plain"
        hidden
        aria-label="File with the table"
        onChange={({ target }) => {
          const [chosen] = target.files ?? [];
          target.value = '';
          if (chosen)
            void chosen.text().then((text) =>
              run(
                () => bring(text),
                (lines) => `${counted(lines, 'line')} in force`,
              ),
            );
        }}
      />
    </>
  );
}

interface Props {
  page: SetupPage;
  tables: { key: string; title: string }[];
}

/** One of Setup's tables with its form, beside the names of all of them. */
export function SetupView({ page, tables }: Props) {
  const mayChange = useMay()('change setup');
  const { list, fields } = page;
  const [open, setOpen] = useState<OpenRow | null>(null);
  // What is typed into words with variables is shown as it would stand.
  const hasWords = page.key === 'statement-messages';
  const [words, setWords] = useState<string | null>(null);
  const [several, setSeveral] = useState(false);
  const close = (): void => {
    setOpen(null);
    setWords(null);
  };
  const mayAdd = mayChange && !(page.single && list.count > 0);
  useKeys(mayAdd ? [{ key: 'n', words: `new ${list.noun[0]}`, run: () => setOpen('new') }] : []);
  const parent = page.parent && list.of ? { [page.parent.field]: list.of } : {};
  return (
    <div className={css.setup}>
      <SetupNav tables={tables} at={page.key} />
      <div className={css.table}>
        <Head title={page.title} note={page.about}>
          {mayAdd && (
            <>
              <Button type="primary" onClick={() => setOpen('new')}>
                Add {list.noun[0]}
              </Button>
              {!page.single && <Button onClick={() => setSeveral(true)}>Add several</Button>}
              {page.key in FROM_FILE && <BringIn bring={FROM_FILE[page.key as keyof typeof FROM_FILE]} />}
            </>
          )}
        </Head>
        {page.parent && list.of && (
          <p className="small">
            Of one {fields.find((field) => field.name === page.parent?.field)?.label.toLowerCase()} only.{' '}
            <Link href={`/setup/${page.key}`}>Show all</Link>
          </p>
        )}
        <List
          list={list}
          label={page.title}
          hint="Find in this table"
          empty={list.search ? `Nothing found for “${list.search}”` : 'Nothing is entered yet'}
          {...(page.page
            ? { hrefOf: ({ key }: SetupListRow) => `${page.page}${key}` }
            : { onOpen: mayChange ? setOpen : undefined })}
          cells={Object.fromEntries(
            fields.map(({ name, kind }) => [
              name,
              kind === 'yes-no' || kind === 'number' ? { width: 92 } : { ellipsis: true },
            ]),
          )}
          act={
            (mayChange && !page.page) || page.ways.length > 0
              ? {
                  width: 90 + page.ways.reduce((all, { words }) => all + 12 + words.length * 7, 0),
                  render: (row) => (
                    <>
                      {page.ways.map(({ path, words }) => (
                        <span key={path}>
                          <Link href={`${path}${encodeURIComponent(row.key)}`}>{words}</Link>{' '}
                        </span>
                      ))}
                      {mayChange && !page.page && (
                        <Button size="small" onClick={() => setOpen(row)}>
                          Change
                        </Button>
                      )}
                    </>
                  ),
                }
              : undefined
          }
        />
      </div>
      {several && (
        <Several
          table={page.key}
          noun={list.noun}
          fields={fields}
          along={parent}
          onClose={() => setSeveral(false)}
        />
      )}
      {open && (
        <RowDrawer
          table={page.key}
          noun={list.noun[0]}
          fields={fields}
          row={open}
          along={open === 'new' ? parent : {}}
          onTyped={hasWords ? (values) => setWords(String(values.words ?? '')) : undefined}
          below={
            hasWords && (
              <WordsPreview words={words ?? (open === 'new' ? '' : String(open.values.words ?? ''))} />
            )
          }
          onClose={close}
        />
      )}
    </div>
  );
}
