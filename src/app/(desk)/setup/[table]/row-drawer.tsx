'use client';
import { Fragment } from 'react';
import type { Answer } from '../../../../core/answer';
import type { SetupField } from '../../../../core/setup/fields';
import type { SetupListRow } from '../../../../server/setup/table';
import { type Fields, FormDrawer } from '../../../../ui/form';
import css from '../setup.module.css';
import { saveSetupAction } from '../actions';
import { History } from './history';

/** A row of a table that is put right, or a new one. */
export type OpenRow = Pick<SetupListRow, 'key' | 'version' | 'values'> | 'new';

/** The form of one row of a table of Setup, with what happened to it. */
export function RowDrawer({
  table,
  noun,
  fields,
  row,
  along = {},
  focus,
  begins,
  size,
  clear,
  save = (values, version) =>
    saveSetupAction({ table, values, ...(row === 'new' ? {} : { row: row.key, version }) }),
  onTyped,
  below,
  onClose,
}: {
  table: string;
  noun: string;
  fields: readonly SetupField[];
  row: OpenRow;
  /** What the row has in common with others, which nobody chooses. */
  along?: Readonly<Record<string, string>>;
  /** The field that has the cursor; the first where none is said. */
  focus?: string | undefined;
  /** What a new row begins with, in the place of what its fields begin with. */
  begins?: SetupListRow['values'] | undefined;
  size?: number;
  /** What lies beside stays in sight. */
  clear?: true;
  /** How it is written, where that is not as a row of Setup. */
  save?:
    ((values: Record<string, string | boolean>, version?: number) => Promise<Answer<unknown>>) | undefined;
  onTyped?: ((values: Record<string, unknown>) => void) | undefined;
  below?: React.ReactNode;
  onClose: () => void;
}) {
  const shown = fields.filter(({ name }) => along[name] === undefined);
  const first = shown.some(({ name }) => name === focus) ? focus : shown[0]?.name;
  return (
    <FormDrawer
      title={row === 'new' ? `New ${noun}` : `Change this ${noun}`}
      size={size}
      clear={clear}
      initial={row === 'new' ? (begins ?? beginnings(fields)) : row.values}
      version={row === 'new' ? undefined : row.version}
      action={({ version, ...values }: Record<string, unknown> & { version?: number }) =>
        save({ ...entered(shown, values), ...along }, version)
      }
      done={onClose}
      onClose={onClose}
      words={row === 'new' ? `Add ${noun}` : 'Save'}
      onTyped={onTyped}
      below={
        <>
          {below}
          {row !== 'new' && <History table={table} row={row.key} />}
        </>
      }
    >
      {(f) => (
        <>
          {shown.map((field) => (
            <Fragment key={field.name}>
              {field.under && <h2 className={css.under}>{field.under}</h2>}
              <Field f={f} field={field} isNew={row === 'new'} focus={field.name === first} />
            </Fragment>
          ))}
        </>
      )}
    </FormDrawer>
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
