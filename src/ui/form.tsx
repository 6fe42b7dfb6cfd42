'use client';
/**
 * The form kit: a form that shows the server's errors at their fields, throws nothing away that was typed, shows both
 * sides when somebody else saved meanwhile, and asks once before unsaved changes are left.
 */
import { Alert, App, AutoComplete, Button, Form, type FormInstance, Input, Switch } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Answer, Refusal } from '../core/answer';
import { parseMoney, toDecimal } from '../core/money';
import { useOnce, useSure } from './act';
import { DateInput } from './date-input';
import { DeskDrawer } from './drawer';
import css from './form.module.css';
import { Choose, Several } from './choose';

type Values = Record<string, unknown>;
/** The names in an input, of each of its forms where it has several. */
type NameIn<In> = In extends unknown ? Extract<keyof In, string> : never;

/** What a form needs, by what its action takes. */
interface DeskFormProps<In, T> {
  initial?: { readonly [Name in NameIn<In>]?: unknown };
  /** What is sent besides the fields, such as ids. */
  along?: { readonly [Name in NameIn<In>]?: unknown };
  /** Version of what the form was filled from, sent along. */
  version?: string | number;
  /** The form makes something new: its key makes a second press harmless. */
  once?: true;
  action: (input: In) => Promise<Answer<T>>;
  done: (value: T) => void;
  /** What the button says, which is what happens. */
  words: string;
  /** Told what the fields hold, whenever one changes. */
  onTyped?: (values: Values) => void;
  /** Told whether something was typed that is not saved. */
  onUnsaved?: (unsaved: boolean) => void;
  beside?: React.ReactNode;
  /** Draws the fields; the kit of fields knows what the action takes. */
  children: (fields: Fields<NameIn<In>>) => React.ReactNode;
}

/** Takes over what somebody else changed and nobody touched here. @returns what both have changed */
function merge(form: FormInstance, { differences }: NonNullable<Refusal['conflict']>) {
  return differences.filter(({ field, value }) => {
    if (form.isFieldTouched(field)) return true;
    const list = Array.isArray(value) && typeof form.getFieldValue(field) === 'string';
    form.setFieldValue(field, list ? value.join(' ') : value);
    return false;
  });
}

/** The form. Enter saves. */
export function DeskForm<In, T>(props: DeskFormProps<In, T>) {
  const { initial, along, version, once, action, done, words, onTyped, onUnsaved, beside, children } = props;
  const [form] = Form.useForm();
  const [refused, setRefused] = useState<Refusal | null>(null);
  const [busy, setBusy] = useState(false);
  const press = useOnce();
  const ask = useSure();
  const there = useRef(version);
  const save = async (values: Values): Promise<void> => {
    if (busy) return;
    setBusy(true);
    setRefused(null);
    const input = {
      ...along,
      ...values,
      ...(there.current !== undefined ? { version: there.current } : {}),
      ...(once ? { key: press.key() } : {}),
    };
    // Names are the action's by the kit of fields; what is typed into them its schema parses.
    const answer = await ask((sure) => action({ ...input, ...sure } as In));
    setBusy(false);
    if (answer.ok) {
      press.next();
      onUnsaved?.(false);
      done(answer.value);
      return;
    }
    if (answer.message === '') return;
    if (answer.conflict) {
      // Saved once more, it replaces what stands there now, which the person has seen; what was not touched here is theirs.
      there.current = answer.conflict.version;
      setRefused({ ...answer, conflict: { ...answer.conflict, differences: merge(form, answer.conflict) } });
      return;
    }
    const wrong = Object.entries(answer.fields).filter(
      ([name]) => form.getFieldInstance(name) !== undefined || name in values,
    );
    form.setFields(wrong.map(([name, error]) => ({ name, errors: [error] })));
    // What is said at its field is not said twice.
    if (wrong.length === 0) setRefused(answer);
    else form.scrollToField(wrong[0]![0], { block: 'nearest', focus: true });
  };
  return (
    <Form
      form={form}
      layout="vertical"
      requiredMark={false}
      scrollToFirstError
      initialValues={initial}
      onValuesChange={(_changed, values: Values) => {
        onUnsaved?.(true);
        onTyped?.(values);
      }}
      onFinish={(values: Values) => void save(values)}
    >
      {children(FIELDS)}
      {refused?.conflict ? (
        <Alert
          className={css.refused}
          type="warning"
          title="Somebody else saved this meanwhile"
          description={
            <>
              {refused.conflict.differences.map((item) => (
                <div key={item.label}>
                  {item.label}: now <strong>{item.theirs}</strong>, yours <strong>{item.mine}</strong>
                </div>
              ))}
              {refused.conflict.differences.length > 0
                ? 'Save once more to put yours in its place, or close to keep theirs. '
                : 'What they changed is taken over here: look at it, and save once more. '}
            </>
          }
        />
      ) : (
        refused && <Alert className={css.refused} type="error" title={refused.message} />
      )}
      <div className={css.foot}>
        <Button type="primary" htmlType="submit" loading={busy}>
          {words}
        </Button>
        {beside}
      </div>
    </Form>
  );
}

/** A form in a drawer; leaving it with unsaved changes asks once. */
export function FormDrawer<In, T>({
  title,
  onClose,
  size = 480,
  clear,
  below,
  ...form
}: Omit<DeskFormProps<In, T>, 'onUnsaved'> & {
  title: React.ReactNode;
  onClose: () => void;
  size?: number | undefined;
  /** What lies beside it stays in sight and can be used. */
  clear?: true | undefined;
  below?: React.ReactNode;
}) {
  const { modal } = App.useApp();
  const [unsaved, setUnsaved] = useState(false);
  useUnsaved(unsaved);
  const close = (): void => {
    if (!unsaved) onClose();
    else
      modal.confirm({
        title: 'Leave without saving?',
        content: 'What you typed here is not saved.',
        okText: 'Leave',
        cancelText: 'Go on typing',
        onOk: onClose,
      });
  };
  return (
    <DeskDrawer
      size={size}
      title={title}
      onClose={close}
      {...(clear ? { placement: 'left' as const, mask: false } : {})}
    >
      <DeskForm {...form} onUnsaved={setUnsaved} />
      {below}
    </DeskDrawer>
  );
}

/** Asks, as the browser does, before the page is left with something unsaved. */
export function useUnsaved(unsaved: boolean): void {
  const ask = useCallback((event: BeforeUnloadEvent) => event.preventDefault(), []);
  useEffect(() => {
    if (!unsaved) return;
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [unsaved, ask]);
}

interface FieldProps {
  name: string;
  label: string;
  needed?: boolean;
  hint?: string;
  focus?: boolean;
  disabled?: boolean;
  placeholder?: string;
}

const item = ({ name, label, needed, hint }: FieldProps) => ({
  name,
  label,
  extra: hint,
  rules: needed ? [{ required: true, message: `${label} is missing` }] : [],
});

/** Words. */
const TextField = (props: FieldProps & { maxLength?: number }) => (
  <Form.Item {...item(props)}>
    <Input
      autoFocus={props.focus}
      data-focus={props.focus ? '' : undefined}
      disabled={props.disabled}
      placeholder={props.placeholder}
      maxLength={props.maxLength}
    />
  </Form.Item>
);

/** A password, which nobody sees. */
const PasswordField = (props: FieldProps & { fresh?: boolean }) => (
  <Form.Item {...item(props)}>
    <Input
      type="password"
      autoComplete={props.fresh ? 'new-password' : 'current-password'}
      autoFocus={props.focus}
      data-focus={props.focus ? '' : undefined}
    />
  </Form.Item>
);

/** An amount; written out when the field is left. */
const MoneyField = (props: FieldProps) => (
  <Form.Item {...item(props)} validateTrigger="onBlur">
    <MoneyInput label={props.label} focus={props.focus} disabled={props.disabled} />
  </Form.Item>
);

/** A field for an amount: what is typed is written out with two decimals when it is one. */
export function MoneyInput({
  value = '',
  onChange,
  label,
  onEnter,
  focus,
  disabled,
  small,
  id,
  className,
}: {
  value?: string;
  onChange?: (text: string) => void;
  label: string;
  onEnter?: () => void;
  focus?: boolean;
  disabled?: boolean;
  small?: boolean;
  id?: string;
  className?: string;
}) {
  return (
    <Input
      id={id}
      className={className ? `${css.money} ${className}` : css.money}
      size={small ? 'small' : undefined}
      autoFocus={focus}
      data-focus={focus ? '' : undefined}
      disabled={disabled}
      inputMode="decimal"
      aria-label={label}
      value={value}
      onFocus={(event) => event.target.select()}
      onChange={(event) => onChange?.(event.target.value)}
      onBlur={() => {
        const amount = parseMoney(value);
        if (amount !== null) onChange?.(toDecimal(amount));
      }}
      onPressEnter={onEnter}
    />
  );
}

/** A calendar date, typed or picked. */
const DateField = (props: FieldProps) => (
  <Form.Item {...item(props)}>
    <DateInput label={props.label} focus={props.focus} />
  </Form.Item>
);

/** A code out of a list, found by code or words; any other can be typed. */
function CodeField({
  options,
  ...props
}: FieldProps & { options: readonly { value: string; label: string }[] }) {
  return (
    <Form.Item {...item(props)}>
      <AutoComplete
        autoFocus={props.focus}
        data-focus={props.focus ? '' : undefined}
        disabled={props.disabled}
        options={[...options]}
        showSearch={{
          filterOption: (text, option) => (option?.label ?? '').toLowerCase().includes(text.toLowerCase()),
        }}
      />
    </Form.Item>
  );
}

/** One, or several, of a list. */
function ChoiceField({
  options,
  several,
  empty,
  most,
  ...props
}: FieldProps & {
  options: readonly { value: number | string; label: string }[];
  several?: boolean;
  most?: number;
  /** May be left empty, and then says this. */
  empty?: string;
}) {
  const field = {
    autoFocus: props.focus,
    'data-focus': props.focus ? '' : undefined,
    disabled: props.disabled,
    placeholder: empty,
    showSearch: { optionFilterProp: 'label' },
    // Nothing is one of the choices: a button that empties the field would stand in the way of the Tab key.
    options: empty === undefined ? [...options] : [{ value: '', label: empty }, ...options],
  };
  return (
    <Form.Item {...item(props)} getValueFromEvent={(chosen: unknown) => (chosen === '' ? null : chosen)}>
      {several ? <Several {...field} maxCount={most} /> : <Choose {...field} />}
    </Form.Item>
  );
}

/** Yes or no. */
const YesNoField = (props: FieldProps) => (
  <Form.Item {...item(props)} valuePropName="checked">
    <Switch disabled={props.disabled} />
  </Form.Item>
);

/** Several rows of the same fields, each added and taken away by itself, in their order. */
function RowsField({
  name,
  label,
  adds,
  columns,
}: {
  name: string;
  label: string;
  /** What the button says that adds a row. */
  adds: string;
  columns: readonly {
    name: string;
    label: string;
    /** Its part of the width. */
    width?: string;
    kind: 'text' | 'money' | 'date' | readonly { value: string; label: string }[];
  }[];
}) {
  const field = (column: (typeof columns)[number], row: number): React.JSX.Element => {
    const words = `${column.label}, ${label} ${row + 1}`;
    if (column.kind === 'date') return <DateInput label={words} />;
    if (column.kind === 'money') return <MoneyInput label={words} />;
    if (column.kind === 'text') return <Input aria-label={words} />;
    return (
      <Choose aria-label={words} showSearch={{ optionFilterProp: 'label' }} options={[...column.kind]} />
    );
  };
  const grid = { gridTemplateColumns: [...columns.map(({ width = '1fr' }) => width), '28px'].join(' ') };
  return (
    <Form.List name={name}>
      {(rows, { add, remove }, { errors }) => (
        <fieldset className={css.rows}>
          <legend>{label}</legend>
          {rows.length > 0 && (
            <div className={css.columns} style={grid} aria-hidden>
              {columns.map((column) => (
                <span key={column.name}>{column.label}</span>
              ))}
            </div>
          )}
          {rows.map((row, index) => (
            <div key={row.key} className={css.columns} style={grid}>
              {columns.map((column) => (
                <Form.Item key={column.name} name={[row.name, column.name]} noStyle>
                  {field(column, index)}
                </Form.Item>
              ))}
              <Button
                type="text"
                size="small"
                aria-label={`Take away ${label} ${index + 1}`}
                onClick={() => remove(row.name)}
              >
                ×
              </Button>
            </div>
          ))}
          <Button size="small" onClick={() => add({})}>
            {adds}
          </Button>
          <Form.ErrorList errors={errors} />
        </fieldset>
      )}
    </Form.List>
  );
}

const FIELDS = {
  Rows: RowsField,
  Text: TextField,
  Password: PasswordField,
  Money: MoneyField,
  Date: DateField,
  Code: CodeField,
  Choice: ChoiceField,
  YesNo: YesNoField,
};

/** The kinds of fields, each for one of the names that a form has. */
export type Fields<Name extends string> = {
  readonly [Kind in keyof typeof FIELDS]: (
    props: Omit<Parameters<(typeof FIELDS)[Kind]>[0], 'name'> & { name: Name },
  ) => React.JSX.Element;
};

/** Fields side by side. */
export const Row = ({ children }: { children: React.ReactNode }) => <div className={css.row}>{children}</div>;
