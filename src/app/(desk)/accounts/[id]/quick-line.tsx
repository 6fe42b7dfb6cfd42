'use client';
import { AutoComplete, Button, Checkbox, Input, type RefSelectProps } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import { ORAL_AREAS } from '../../../../core/accounts/oral-areas';
import { parseDate } from '../../../../core/calendar';
import { cents, parseMoney, times, toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { Member, MemberCase } from '../../../../server/accounts/members';
import type { PreviewLine } from '../../../../server/accounts/visits';
import type { ProposedLine } from '../../../../server/setup/charge-sets';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { Choose, Several } from '../../../../ui/choose';
import { enterChargeAction, lastVisitAction, previewVisitAction } from '../actions';
import css from './account.module.css';
import { AddCode } from './add-code';
import { leftWords } from './left-words';
import { LETTERS, amountOf, modifiersOf, pointedOf } from './typed-line';
import { VisitGrid } from './visit-grid';

/** What is typed in the line; kept when the server refuses it. */
interface Typed {
  code: string;
  /** How many, or minutes of what is billed by time. */
  units: string;
  fee: string;
  feeWhy: string;
  /** Other words for this line. */
  description: string;
  date: string;
  provider: number | string | undefined;
  /** Those of the case while nobody has said others. */
  diagnoses: string[] | null;
  /** Letters of the diagnoses that the line points to; empty for the first four. */
  points: string;
  modifiers: string | null;
  tooth: string;
  surfaces: string;
  area: string;
  planned: boolean;
  keptFromPayers: boolean;
}

const EMPTY = {
  code: '',
  units: '1',
  fee: '',
  feeWhy: '',
  description: '',
  points: '',
  modifiers: null,
  tooth: '',
  surfaces: '',
  area: '',
  planned: false,
  keptFromPayers: false,
} satisfies Partial<Typed>;

type Service = QuickChoices['services'][number];
type Asked = Parameters<typeof previewVisitAction>[0];

/** What proposes several services at once, by how it begins in the field of the code. */
const SEVERAL = /^(set|last|usual):/;

/** The office fee for so many units, as text; empty when there is none. */
function officeFee(service: Service | undefined, units: string): string {
  if (service?.fee === null || service?.fee === undefined) return '';
  const n = Number(units);
  return toDecimal(times(cents(service.fee), Number.isInteger(n) && n >= 1 && n <= 999 ? n : 1));
}

/** What the server says of what is being typed, asked when nothing was typed for a moment: the line, or why it cannot be added. */
function usePreview(asked: Asked | null): { line: PreviewLine | null; refused: string; field: string } {
  const [found, setFound] = useState<{ line: PreviewLine | null; refused: string; field: string }>(NOTHING);
  const text = asked && JSON.stringify(asked);
  useEffect(() => {
    setFound(NOTHING);
    if (text === null) return;
    let here = true;
    const timer = setTimeout(() => {
      void previewVisitAction(JSON.parse(text) as Asked).then((result) => {
        if (!here) return;
        if (result.ok) setFound({ line: result.value[0] ?? null, refused: '', field: '' });
        else
          setFound({
            line: null,
            refused: result.message,
            field: (Object.keys(result.fields)[0] ?? '').replace(/^lines\.\d+\./, ''),
          });
      });
    }, 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [text]);
  return found;
}
const NOTHING = { line: null, refused: '', field: '' };

/** The provider that fits: who saw the person last for such services, else the first of that kind. */
const fitting = (
  { providers }: QuickChoices,
  found: MemberCase | undefined,
  form: string,
): number | string | undefined =>
  found?.providerId ??
  found?.providers[form as 'professional'] ??
  providers.find((item) => item.form === form)?.value ??
  providers[0]?.value;

/** Another field of the line, when the cursor stands at the end of this one. */
function alongside(event: React.KeyboardEvent<HTMLElement>): void {
  const { target, key } = event;
  if (!(target instanceof HTMLInputElement) || (key !== 'ArrowRight' && key !== 'ArrowLeft')) return;
  const at = key === 'ArrowRight' ? target.value.length : 0;
  if (target.selectionStart !== at || target.selectionEnd !== at) return;
  const fields = [...event.currentTarget.querySelectorAll<HTMLInputElement>('input:not([disabled])')].filter(
    ({ type }) => type !== 'checkbox',
  );
  const next = fields[fields.indexOf(target) + (key === 'ArrowRight' ? 1 : -1)];
  if (!next) return;
  event.preventDefault();
  next.focus();
}

/** The quick line: a code, Enter, the next code; a set, and its services stand there to be entered together. */
export function QuickLine({
  members,
  member,
  shownCase,
  choices,
  today,
  begins,
}: {
  members: readonly Member[];
  /** The member that the page shows; of a whole household nobody is guessed. */
  member: number;
  /** The case that the page shows. */
  shownCase: MemberCase | null;
  choices: QuickChoices;
  today: string;
  /** Whether somebody waits for it, to begin at once. */
  begins: () => boolean;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [typed, setTyped] = useState<Typed>({ ...EMPTY, date: today, provider: undefined, diagnoses: null });
  const [several, setSeveral] = useState<{ title: string; lines: ProposedLine[] } | null>(null);
  const [missing, setMissing] = useState<'code' | 'diagnosis' | null>(null);
  const only = members.length === 1 ? members[0]!.id : 0;
  const [chosen, setChosen] = useState(0);
  const who = member || chosen || only;
  const person = members.find((item) => item.id === who);
  const [chosenCase, setChosenCase] = useState(shownCase?.id ?? 0);
  const open = person?.cases.filter(({ dischargedOn }) => dischargedOn === null) ?? [];
  const found = person?.cases.find(({ id }) => id === chosenCase) ?? person?.cases[0];
  const set = (part: Partial<Typed>): void => setTyped((now) => ({ ...now, ...part }));
  const whoField = useRef<RefSelectProps>(null);
  const codeField = useRef<React.ComponentRef<typeof AutoComplete>>(null);
  const code = typed.code.trim().toUpperCase();
  const service = choices.services.find((item) => item.code === code);
  const timed = service !== undefined && service.unitMinutes !== null;
  const usual = found?.services.find((item) => item.code === service?.code);
  const own = usual?.fee ? parseMoney(usual.fee) : null;
  const usualFee = timed
    ? ''
    : officeFee(service && own !== null ? { ...service, fee: own } : service, typed.units);
  const form = service?.form ?? Object.keys(found?.providers ?? {})[0] ?? 'professional';
  const dental = form === 'dental';
  const provider = typed.provider ?? fitting(choices, found, form);
  // What is treated, on the day.
  const treated = (found?.diagnoses ?? [])
    .filter(
      ({ since, until }) =>
        (since === null || since <= typed.date) && (until === null || typed.date <= until),
    )
    .map((item) => item.code);
  const diagnosed = typed.diagnoses ?? treated;
  const modifiers = typed.modifiers ?? service?.modifiers.join(' ') ?? '';
  const line = {
    code,
    ...amountOf(typed.units, timed),
    // What is not typed the server knows: by the day, the site, the case and the category of the account.
    fee: typed.fee,
    feeWhy: typed.feeWhy,
    description: typed.description,
    diagnoses: dental ? [] : pointedOf(typed.points, diagnosed),
    modifiers: modifiersOf(modifiers),
    tooth: typed.tooth,
    surfaces: typed.surfaces,
    area: typed.area,
  };
  const head = {
    patientId: person?.id ?? 0,
    caseId: found?.id ?? null,
    providerId: Number(provider),
    serviceDate: typed.date,
    planned: typed.planned,
    keptFromPayers: typed.keptFromPayers,
  };
  const askable =
    service && typed.units !== '' && person && provider !== undefined && parseDate(typed.date) !== null;
  const preview = usePreview(askable ? { ...head, lines: [line] } : null);
  const fee = typed.fee || (preview.line ? toDecimal(preview.line.fee) : usualFee);
  const options = useMemo(
    () => [
      ...choices.services.map((item) => ({ value: item.code, label: `${item.code} ${item.description}` })),
      ...choices.sets.map(({ id, name, lines }) => ({
        value: `set:${id}`,
        label: `Set: ${name} (${counted(lines.length, 'service')})`,
      })),
      ...(person ? [{ value: 'last:', label: 'The last visit again' }] : []),
      ...(found && found.services.length > 0
        ? [{ value: 'usual:', label: `Usual services of ${found.name} (${found.services.length})` }]
        : []),
    ],
    [choices, person, found],
  );
  useEffect(() => {
    if (begins()) codeField.current?.focus();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  /** One unit; of what is billed by time nothing, since how long it took is asked. */
  const unitsAtFirst = (of: string): string =>
    choices.services.some((item) => item.code === of.trim().toUpperCase() && item.unitMinutes !== null)
      ? ''
      : '1';
  const propose = async (value: string): Promise<void> => {
    set({ code: '' });
    if (!found) return whoField.current?.focus();
    if (value.startsWith('set:')) {
      const one = choices.sets.find(({ id }) => `set:${id}` === value)!;
      setSeveral({ title: one.name, lines: one.lines });
    } else if (value === 'usual:')
      setSeveral({
        title: `Usual services of ${found.name}`,
        lines: found.services.map(({ code: of, fee: price, minutes }) => ({
          code: of,
          units: minutes === null ? 1 : null,
          minutes,
          modifiers: null,
          fee: price,
        })),
      });
    else {
      const last = await run(() => lastVisitAction({ caseId: found.id }));
      if (last && last.value.length > 0) setSeveral({ title: 'The last visit again', lines: last.value });
    }
  };
  const enter = async (): Promise<void> => {
    if (busy) return;
    if (!service) {
      if (code !== '' && !SEVERAL.test(typed.code)) setMissing('code');
      return;
    }
    if (!person) return whoField.current?.focus();
    const done = await run(
      (sure) => enterChargeAction({ ...sure, ...head, ...line, key: press.key() }),
      `${service.code} ${typed.planned ? 'planned' : 'entered'}`,
    );
    if (!done) return;
    press.next();
    set(EMPTY);
    codeField.current?.focus();
  };
  const onEnter = (event: React.KeyboardEvent): void => {
    event.preventDefault();
    void enter();
  };
  const text = (
    id: 'units' | 'tooth' | 'surfaces' | 'points' | 'modifiers',
    value: string,
    more: { placeholder?: string } = {},
  ) => (
    <Input
      id={`quick-${id}`}
      value={value}
      {...more}
      {...(preview.field === id || (id === 'units' && preview.field === 'minutes')
        ? { status: 'warning' as const, 'aria-describedby': 'quick-refused' }
        : {})}
      onChange={(event) => set({ [id]: event.target.value })}
      onPressEnter={onEnter}
    />
  );
  if (several && person && found)
    return (
      <VisitGrid
        title={several.title}
        proposed={several.lines}
        head={{ ...head, who: `${person.first} ${person.last}` }}
        choices={choices}
        diagnosed={diagnosed}
        close={() => {
          setSeveral(null);
          setTimeout(() => codeField.current?.focus());
        }}
      />
    );
  return (
    <section className={css.quickline} aria-label="New charge">
      {/* The cursor goes on to the next field where one ends. */}
      <div
        className={`${css.fields} ${members.length > 1 ? css.who : ''} ${dental ? '' : css.medical}`}
        onKeyDown={alongside}
        role="presentation"
      >
        <Field id="date" label="Date">
          <DateInput
            id="quick-date"
            label="Date of the service"
            value={typed.date}
            onChange={(date) => set({ date })}
            onEnter={() => void enter()}
          />
        </Field>
        {members.length > 1 && (
          <Field id="who" label="Who">
            <Choose
              ref={whoField}
              id="quick-who"
              value={who || undefined}
              placeholder="choose"
              disabled={member !== 0}
              options={members.map((item) => ({ value: item.id, label: item.first }))}
              onChange={(next) => {
                setChosen(next);
                setChosenCase(0);
                set({ provider: undefined });
              }}
            />
          </Field>
        )}
        <Field id="provider" label="Provider">
          <Choose
            id="quick-provider"
            value={provider}
            options={choices.providers}
            onChange={(next) => set({ provider: next })}
          />
        </Field>
        <Field id="code" label="Code (N)">
          <AutoComplete
            ref={codeField}
            id="quick-code"
            value={typed.code}
            options={options}
            popupMatchSelectWidth={360}
            open={service ? false : undefined}
            defaultActiveFirstOption={false}
            onChange={(next: string) =>
              SEVERAL.test(next)
                ? void propose(next)
                : set({ code: next, modifiers: null, units: unitsAtFirst(next) })
            }
            showSearch={{
              filterOption: (wanted, option) => option!.label.toLowerCase().includes(wanted.toLowerCase()),
            }}
            onKeyDown={(event) =>
              event.key === 'Enter' &&
              (service || event.currentTarget.querySelector('[aria-activedescendant*="_list_-1"]')) &&
              onEnter(event)
            }
          />
        </Field>
        <Field id="units" label={timed ? 'Minutes' : 'Units'}>
          {text('units', typed.units, timed ? { placeholder: 'or 2u' } : {})}
        </Field>
        {dental ? (
          <>
            <Field id="tooth" label="Tooth">
              {text('tooth', typed.tooth)}
            </Field>
            <Field id="surfaces" label="Surfaces">
              {text('surfaces', typed.surfaces)}
            </Field>
            <Field id="area" label="Area">
              <Choose
                id="quick-area"
                value={typed.area}
                popupMatchSelectWidth={200}
                onChange={(area) => set({ area })}
                options={[
                  { value: '', label: '–' },
                  ...Object.entries(ORAL_AREAS).map(([value, label]) => ({ value, label })),
                ]}
              />
            </Field>
          </>
        ) : (
          <>
            <Field id="modifiers" label="Modifiers">
              {text('modifiers', modifiers)}
            </Field>
            <Field id="diagnoses" label="Diagnoses">
              <Several
                id="quick-diagnoses"
                maxCount={LETTERS.length}
                value={diagnosed}
                onChange={(diagnoses: string[]) => set({ diagnoses })}
                maxTagCount="responsive"
                popupMatchSelectWidth={300}
                showSearch={{ optionFilterProp: 'label' }}
                notFoundContent={
                  <Button type="link" className={css.link} onClick={() => setMissing('diagnosis')}>
                    Add a diagnosis that is missing
                  </Button>
                }
                options={choices.diagnoses.map((item) => ({
                  value: item.code,
                  label: `${item.code} ${item.description}`,
                }))}
              />
            </Field>
            <Field id="points" label="Points to">
              {text('points', typed.points, { placeholder: LETTERS.slice(0, Math.min(4, diagnosed.length)) })}
            </Field>
          </>
        )}
        <Field id="fee" label="Fee">
          <MoneyInput
            id="quick-fee"
            label="Fee"
            value={fee}
            onChange={(value) => set({ fee: value })}
            onEnter={() => void enter()}
          />
        </Field>
        <Button type="primary" loading={busy} disabled={!service} onClick={() => void enter()}>
          Add
        </Button>
      </div>
      {!service && code !== '' && !options.some(({ label }) => label.toUpperCase().includes(code)) && (
        <div className={`small ${css.estimate}`} role="status">
          <span className="warn">{code} is not in the list of services.</span>
          <Button type="link" className={css.link} onClick={() => setMissing('code')}>
            Add it
          </Button>
        </div>
      )}
      {service && !person && (
        <div className={`small warn ${css.estimate}`}>Who was it? Choose the patient.</div>
      )}
      {service && person && (
        <div className={`small ${css.estimate}`} aria-label="Estimate" role="status">
          <Input
            size="small"
            variant="underlined"
            className={css.said!}
            aria-label="Words for this line"
            placeholder={service.description}
            value={typed.description}
            onChange={(event) => set({ description: event.target.value })}
            onPressEnter={onEnter}
          />
          {typed.fee !== '' && typed.fee !== usualFee && (
            <Input
              size="small"
              variant="underlined"
              className={css.said!}
              aria-label="Why another fee"
              placeholder="why another fee"
              value={typed.feeWhy}
              onChange={(event) => set({ feeWhy: event.target.value })}
              onPressEnter={onEnter}
            />
          )}
          {open.length > 1 && (
            <span className={css.for}>
              for
              <Choose
                aria-label="For which case"
                size="small"
                value={found?.id}
                options={open.map(({ id, name }) => ({ value: id, label: name }))}
                onChange={setChosenCase}
              />
            </span>
          )}
          <Checkbox
            checked={typed.planned}
            onChange={(event) => set({ planned: event.target.checked })}
            onKeyDown={(event) => event.key === 'Enter' && onEnter(event)}
          >
            planned, not done yet
          </Checkbox>
          <Checkbox
            checked={typed.keptFromPayers}
            onChange={(event) => set({ keptFromPayers: event.target.checked })}
            onKeyDown={(event) => event.key === 'Enter' && onEnter(event)}
          >
            keep from insurers: the patient pays
          </Checkbox>
          {preview.refused ? (
            <span id="quick-refused" className="warn">
              {preview.refused}
            </span>
          ) : (
            <Steps line={preview.line} timed={timed} />
          )}
          {!typed.keptFromPayers && found && found.counts.length > 0 && (
            <span className="quiet">left: {found.counts.map(leftWords).join(', ')}</span>
          )}
        </div>
      )}
      {missing && (
        <AddCode
          kind={missing}
          code={missing === 'code' ? code : ''}
          form={form}
          categories={choices.categories}
          close={() => setMissing(null)}
          done={(added) => {
            setMissing(null);
            if (missing === 'code') set({ code: added });
            else set({ diagnoses: [...diagnosed, added] });
          }}
        />
      )}
    </section>
  );
}

/** What is expected of a line, step by step; what is expected of the patient last. */
const Steps = ({ line, timed }: { line: PreviewLine | null; timed: boolean }) => {
  if (!line) return <span className="quiet">estimating …</span>;
  return (
    <>
      {timed && (
        <span>
          {counted(line.units, 'unit')}, <Money cents={line.fee} />
        </span>
      )}
      {line.notice && <span>with {line.notice}, as its notice says</span>}
      {line.tax > 0 && (
        <span className="quiet">
          tax <Money cents={line.tax} />
        </span>
      )}
      {line.steps.map((step, index) => {
        const last = index === line.steps.length - 1;
        return (
          <span key={index} className={last ? undefined : 'quiet'}>
            {step.words} <Money cents={step.amount} strong={last} />
          </span>
        );
      })}
    </>
  );
};

const Field = ({ id, label, children }: { id: string; label: string; children: React.ReactNode }) => (
  <div>
    <label htmlFor={`quick-${id}`}>{label}</label>
    {children}
  </div>
);
