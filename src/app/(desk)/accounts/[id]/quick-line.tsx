'use client';
import { AutoComplete, Button, Checkbox, Input, type RefSelectProps } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ChargeEstimate } from '../../../../core/estimates/estimate';
import { cents, parseMoney, times, toDecimal } from '../../../../core/money';
import type { Member, MemberCase } from '../../../../server/accounts/members';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { Choose, Several } from '../../../../ui/choose';
import { enterChargeAction, estimateAction } from '../actions';
import css from './account.module.css';
import { leftWords } from './left-words';

/** What is typed in the line; kept when the server refuses it. */
interface Typed {
  code: string;
  units: string;
  fee: string;
  date: string;
  provider: number | string | undefined;
  /** Those of the case while nobody has said others. */
  diagnoses: string[] | null;
  tooth: string;
  surfaces: string;
  planned: boolean;
  keptFromPayers: boolean;
}

type Service = QuickChoices['services'][number];

/** The office fee for so many units, as text; empty when there is none. */
function officeFee(service: Service | undefined, units: string): string {
  if (service?.fee === null || service?.fee === undefined) return '';
  const n = Number(units);
  return toDecimal(times(cents(service.fee), Number.isInteger(n) && n >= 1 && n <= 999 ? n : 1));
}

/** The estimate of what is being typed, asked for when nothing was typed for a moment. */
function useEstimate(
  caseId: number | undefined,
  service: Service | undefined,
  units: string,
  fee: string,
  date: string,
) {
  const [estimate, setEstimate] = useState<ChargeEstimate | null>(null);
  const code = service?.code;
  useEffect(() => {
    setEstimate(null);
    if (caseId === undefined || code === undefined || parseMoney(fee) === null) return;
    let here = true;
    const timer = setTimeout(() => {
      void estimateAction({ caseId, code, units, fee, date }).then(
        (result) => here && result.ok && setEstimate(result.value),
      );
    }, 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [caseId, code, units, fee, date]);
  return estimate;
}

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

/** The quick line: a code, Enter, the next code. The estimate shows while it is typed. */
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
  const [typed, setTyped] = useState<Typed>({
    code: '',
    units: '1',
    fee: '',
    date: today,
    provider: undefined,
    diagnoses: null,
    tooth: '',
    surfaces: '',
    planned: false,
    keptFromPayers: false,
  });
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
  const service = choices.services.find((item) => item.code === typed.code.trim().toUpperCase());
  const usual = found?.services.find(({ code }) => code === service?.code)?.fee;
  const own = usual ? parseMoney(usual) : null;
  const fee =
    typed.fee || officeFee(service && own !== null ? { ...service, fee: own } : service, typed.units);
  const form = service?.form ?? Object.keys(found?.providers ?? {})[0] ?? 'professional';
  const provider = typed.provider ?? fitting(choices, found, form);
  // What is treated, on the day.
  const treated = (found?.diagnoses ?? [])
    .filter(
      ({ since, until }) =>
        (since === null || since <= typed.date) && (until === null || typed.date <= until),
    )
    .map(({ code }) => code)
    .slice(0, 4);
  const diagnosed = typed.diagnoses ?? treated;
  const estimate = useEstimate(found?.id, service, typed.units, fee, typed.date);
  const options = useMemo(
    () => choices.services.map((item) => ({ value: item.code, label: `${item.code} ${item.description}` })),
    [choices],
  );
  const dental = service?.form === 'dental';
  useEffect(() => {
    if (begins()) codeField.current?.focus();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  const enter = async (): Promise<void> => {
    if (!service || busy) return;
    if (!person) return whoField.current?.focus();
    const { date, units, tooth, surfaces, planned, keptFromPayers } = typed;
    const done = await run(
      (sure) =>
        enterChargeAction({
          ...sure,
          patientId: person.id,
          caseId: found?.id,
          providerId: provider,
          serviceDate: date,
          code: service.code,
          units,
          fee,
          diagnoses: dental ? [] : diagnosed,
          tooth,
          surfaces,
          planned,
          keptFromPayers,
          key: press.key(),
        }),
      `${service.code} ${planned ? 'planned' : 'entered'}`,
    );
    if (!done) return;
    press.next();
    set({ code: '', units: '1', fee: '', tooth: '', surfaces: '', planned: false, keptFromPayers: false });
    codeField.current?.focus();
  };
  const onEnter = (event: React.KeyboardEvent): void => {
    event.preventDefault();
    void enter();
  };
  const text = (id: 'units' | 'tooth' | 'surfaces', disabled = false) => (
    <Input
      id={`quick-${id}`}
      value={typed[id]}
      disabled={disabled}
      onChange={(event) => set({ [id]: event.target.value })}
      onPressEnter={onEnter}
    />
  );
  return (
    <section className={css.quickline} aria-label="New charge">
      <div className={members.length > 1 ? `${css.fields} ${css.who}` : css.fields}>
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
            onChange={(code: string) => set({ code })}
            showSearch={{
              filterOption: (wanted, option) => option!.label.toLowerCase().includes(wanted.toLowerCase()),
            }}
            onKeyDown={(event) => event.key === 'Enter' && service && onEnter(event)}
          />
        </Field>
        <Field id="units" label="Units">
          {text('units')}
        </Field>
        <Field id="tooth" label="Tooth">
          {text('tooth', !dental)}
        </Field>
        <Field id="surfaces" label="Surfaces">
          {text('surfaces', !dental)}
        </Field>
        <Field id="diagnoses" label="Diagnoses">
          <Several
            id="quick-diagnoses"
            maxCount={4}
            value={diagnosed}
            disabled={dental}
            onChange={(diagnoses: string[]) => set({ diagnoses })}
            maxTagCount="responsive"
            popupMatchSelectWidth={300}
            showSearch={{ optionFilterProp: 'label' }}
            options={choices.diagnoses.map((item) => ({
              value: item.code,
              label: `${item.code} ${item.description}`,
            }))}
          />
        </Field>
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
      {service && !person && (
        <div className={`small warn ${css.estimate}`}>Who was it? Choose the patient.</div>
      )}
      {service && person && (
        <div className={`small ${css.estimate}`} aria-label="Estimate" role="status">
          <strong>{service.description}</strong>
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
          {typed.keptFromPayers ? null : estimate ? (
            estimate.steps.slice(1).map((step, index) => {
              const last = index === estimate.steps.length - 2;
              return (
                <span key={index} className={last ? undefined : 'quiet'}>
                  {step.words} <Money cents={step.amount} strong={last} />
                </span>
              );
            })
          ) : (
            <span className="quiet">estimating …</span>
          )}
          {!typed.keptFromPayers && found && found.counts.length > 0 && (
            <span className="quiet">left: {found.counts.map(leftWords).join(', ')}</span>
          )}
        </div>
      )}
    </section>
  );
}

const Field = ({ id, label, children }: { id: string; label: string; children: React.ReactNode }) => (
  <div>
    <label htmlFor={`quick-${id}`}>{label}</label>
    {children}
  </div>
);
