'use client';
import { AutoComplete, Button, Input, Select } from 'antd';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ChargeEstimate } from '../../../../core/estimates/estimate';
import { type Cents, parseMoney, toDecimal } from '../../../../core/money';
import type { AccountPage } from '../../../../server/accounts/read';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct } from '../../../../ui/act';
import { Money } from '../../../../ui/figures';
import { enterChargeAction, estimateAction } from '../../../actions';

const newKey = (): string => `quick-${crypto.randomUUID()}`;

/** The quick line: a code, Enter, the next code. The estimate shows while it is typed. */
export function QuickLine({
  person,
  choices,
  today,
}: {
  person: AccountPage['members'][number];
  choices: QuickChoices;
  today: string;
}) {
  const { busy, run } = useAct();
  const [code, setCode] = useState('');
  const [units, setUnits] = useState('1');
  const [fee, setFee] = useState('');
  const [date, setDate] = useState(today);
  const [provider, setProvider] = useState<number | string | undefined>(choices.providers[0]?.value);
  const [diagnoses, setDiagnoses] = useState<string[]>([]);
  const [tooth, setTooth] = useState('');
  const [surfaces, setSurfaces] = useState('');
  const [estimate, setEstimate] = useState<ChargeEstimate | null>(null);
  const key = useRef(newKey());
  const codeField = useRef<React.ComponentRef<typeof AutoComplete>>(null);
  const service = choices.services.find((item) => item.code === code.trim().toUpperCase());
  const officeFee =
    service?.fee !== null && service?.fee !== undefined
      ? ((service.fee * (Number(units) || 1)) as Cents)
      : null;
  const shownFee = fee || (officeFee === null ? '' : toDecimal(officeFee));
  const options = useMemo(
    () => choices.services.map((item) => ({ value: item.code, label: `${item.code} ${item.description}` })),
    [choices],
  );

  useEffect(() => {
    setEstimate(null);
    if (!service || parseMoney(shownFee) === null) return;
    let here = true;
    const timer = setTimeout(() => {
      void estimateAction({ caseId: person.caseId, code: service.code, units, fee: shownFee, date }).then(
        (result) => here && result.ok && setEstimate(result.value),
      );
    }, 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [service, units, shownFee, date, person.caseId]);

  const enter = async (): Promise<void> => {
    if (!service) return;
    const done = await run(
      () =>
        enterChargeAction({
          patientId: person.id,
          providerId: provider,
          serviceDate: date,
          code: service.code,
          units,
          fee: shownFee,
          diagnoses: service.form === 'dental' ? [] : diagnoses,
          tooth,
          surfaces,
          key: key.current,
        }),
      `${service.code} entered`,
    );
    if (!done) return;
    key.current = newKey();
    setCode('');
    setUnits('1');
    setFee('');
    setTooth('');
    setSurfaces('');
    codeField.current?.focus();
  };
  const onEnter = (event: React.KeyboardEvent): void => {
    if (event.key === 'Enter' && !busy) {
      event.preventDefault();
      void enter();
    }
  };
  const dental = service?.form === 'dental';
  const field = (id: string, label: string, element: React.ReactNode) => (
    <div>
      <label htmlFor={id}>{label}</label>
      {element}
    </div>
  );
  return (
    <section className="quickline" aria-label="New charge">
      <div
        style={{
          display: 'grid',
          gridTemplateColumns: '104px 132px minmax(150px, 1fr) 52px 64px 64px minmax(130px, 1fr) 84px 70px',
          gap: 6,
          alignItems: 'end',
        }}
      >
        {field(
          'quick-date',
          'Date',
          <Input
            id="quick-date"
            value={date}
            onChange={(event) => setDate(event.target.value)}
            onKeyDown={onEnter}
          />,
        )}
        {field(
          'quick-provider',
          'Provider',
          <Select
            id="quick-provider"
            value={provider}
            options={choices.providers}
            onChange={setProvider}
            style={{ width: '100%' }}
          />,
        )}
        {field(
          'quick-code',
          'Code (N)',
          <AutoComplete
            ref={codeField}
            id="quick-code"
            value={code}
            options={options}
            style={{ width: '100%' }}
            popupMatchSelectWidth={360}
            open={service ? false : undefined}
            defaultActiveFirstOption={false}
            onChange={(value: string) => setCode(value)}
            showSearch={{
              filterOption: (text, option) => option!.label.toLowerCase().includes(text.toLowerCase()),
            }}
            onKeyDown={(event) => event.key === 'Enter' && service && onEnter(event)}
          />,
        )}
        {field(
          'quick-units',
          'Units',
          <Input
            id="quick-units"
            value={units}
            onChange={(event) => setUnits(event.target.value)}
            onKeyDown={onEnter}
          />,
        )}
        {field(
          'quick-tooth',
          'Tooth',
          <Input
            id="quick-tooth"
            value={tooth}
            disabled={!dental}
            onChange={(event) => setTooth(event.target.value)}
            onKeyDown={onEnter}
          />,
        )}
        {field(
          'quick-surfaces',
          'Surfaces',
          <Input
            id="quick-surfaces"
            value={surfaces}
            disabled={!dental}
            onChange={(event) => setSurfaces(event.target.value)}
            onKeyDown={onEnter}
          />,
        )}
        {field(
          'quick-diagnoses',
          'Diagnoses',
          <Select
            id="quick-diagnoses"
            mode="multiple"
            maxCount={4}
            value={diagnoses}
            disabled={dental}
            onChange={setDiagnoses}
            style={{ width: '100%' }}
            maxTagCount="responsive"
            popupMatchSelectWidth={300}
            showSearch={{ optionFilterProp: 'label' }}
            options={choices.diagnoses.map((item) => ({
              value: item.code,
              label: `${item.code} ${item.description}`,
            }))}
          />,
        )}
        {field(
          'quick-fee',
          'Fee',
          <Input
            id="quick-fee"
            value={shownFee}
            onChange={(event) => setFee(event.target.value)}
            onKeyDown={onEnter}
            style={{ textAlign: 'right' }}
          />,
        )}
        <Button type="primary" loading={busy} disabled={!service} onClick={() => void enter()}>
          Add
        </Button>
      </div>
      {service && (
        <div className="small" aria-label="Estimate" style={{ display: 'flex', gap: 14, flexWrap: 'wrap' }}>
          <strong>{service.description}</strong>
          {estimate ? (
            estimate.steps.slice(1).map((step, index) => (
              <span key={index} className={index === estimate.steps.length - 2 ? '' : 'quiet'}>
                {step.words} <Money cents={step.amount} strong={index === estimate.steps.length - 2} />
              </span>
            ))
          ) : (
            <span className="quiet">estimating …</span>
          )}
        </div>
      )}
    </section>
  );
}
