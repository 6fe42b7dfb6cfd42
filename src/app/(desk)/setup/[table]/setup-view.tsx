'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import type { SetupField } from '../../../../core/setup/fields';
import type { SetupPage } from '../../../../server/setup/read';
import type { SetupListRow } from '../../../../server/setup/table';
import { type Fields, FormDrawer } from '../../../../ui/form';
import { useKeys } from '../../../../ui/keys';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { saveSetupAction } from '../actions';
import { Several } from './several';
import { SetupNav } from '../nav';
import { History } from './history';
import css from '../setup.module.css';
import { WordsPreview } from './words-preview';

interface Props {
  page: SetupPage;
  tables: { key: string; title: string }[];
}

/** One of Setup's tables with its form, beside the names of all of them. */
export function SetupView({ page, tables }: Props) {
  const mayChange = useMay()('change setup');
  const { list, fields } = page;
  const [open, setOpen] = useState<SetupListRow | 'new' | null>(null);
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
          onOpen={mayChange ? setOpen : undefined}
          cells={Object.fromEntries(
            fields.map(({ name, kind }) => [
              name,
              kind === 'yes-no' || kind === 'number' ? { width: 92 } : { ellipsis: true },
            ]),
          )}
          act={
            mayChange || page.children.length > 0
              ? {
                  width: 90 + page.children.length * 52,
                  render: (row) => (
                    <>
                      {page.children.map(({ table, words }) => (
                        <span key={table}>
                          <Link href={`/setup/${table}?of=${encodeURIComponent(row.key)}`}>{words}</Link>{' '}
                        </span>
                      ))}
                      {mayChange && (
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
        <FormDrawer
          title={open === 'new' ? `New ${list.noun[0]}` : `Change this ${list.noun[0]}`}
          initial={open === 'new' ? { ...beginnings(fields), ...parent } : open.values}
          version={open === 'new' ? undefined : open.version}
          action={({ version, ...values }: Record<string, unknown> & { version?: number }) =>
            saveSetupAction({
              table: page.key,
              values: entered(fields, values),
              ...(open === 'new' ? {} : { row: open.key, version }),
            })
          }
          done={close}
          onClose={close}
          words={open === 'new' ? `Add ${list.noun[0]}` : 'Save'}
          onTyped={hasWords ? (values) => setWords(String(values.words ?? '')) : undefined}
          below={
            <>
              {hasWords && (
                <WordsPreview words={words ?? (open === 'new' ? '' : String(open.values.words ?? ''))} />
              )}
              {open !== 'new' && <History table={page.key} row={open.key} />}
            </>
          }
        >
          {(f) => (
            <>
              {fields.map((field, index) => (
                <Field key={field.name} f={f} field={field} isNew={open === 'new'} focus={index === 0} />
              ))}
            </>
          )}
        </FormDrawer>
      )}
    </div>
  );
}

/** What a new row begins with. */
const beginnings = (fields: readonly SetupField[]): Record<string, string | boolean> =>
  Object.fromEntries(
    fields.flatMap(({ name, begins }) => (begins === undefined ? [] : [[name, begins] as const])),
  );

/** What the fields hold, as the server takes it. */
const entered = (fields: readonly SetupField[], values: Record<string, unknown>) =>
  Object.fromEntries(
    fields.map(({ name, kind }) => [
      name,
      kind === 'yes-no' ? values[name] === true : String(values[name] ?? ''),
    ]),
  );

function Field({
  f,
  field,
  isNew,
  focus,
}: {
  f: Fields<string>;
  field: SetupField;
  isNew: boolean;
  focus: boolean;
}) {
  const { name, label, kind, hint, choices } = field;
  const all = { name, label, hint, focus, disabled: !isNew && field.fixed === true };
  if (kind === 'yes-no') return <f.YesNo {...all} />;
  if (kind === 'choice') return <f.Choice {...all} options={choices ?? []} empty="–" />;
  if (kind === 'code') return <f.Code {...all} options={choices ?? []} />;
  if (kind === 'money') return <f.Money {...all} />;
  if (kind === 'day') return <f.Date {...all} />;
  return <f.Text {...all} />;
}
