'use client';
import { Button, Input, Segmented } from 'antd';
import { useState } from 'react';
import { NOTICE_MODIFIERS } from '../../../../core/accounts/treatment-input';
import { addDays, formatDate } from '../../../../core/calendar';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { MemberCase } from '../../../../server/accounts/members';
import type { CaseTreatment, GivenEstimate, Treatment } from '../../../../server/accounts/treatment';
import { WithReason, useAct } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { DeskDrawer } from '../../../../ui/drawer';
import { DeskForm, Row } from '../../../../ui/form';
import { LineTable } from '../../../../ui/line-table';
import { Loaded } from '../../../../ui/loaded';
import {
  addOptionAction,
  chooseOptionAction,
  completeChargeAction,
  giveEstimateAction,
  keepNoticeAction,
  placePlannedAction,
  seeAboveAction,
  signEstimateAction,
  treatmentAction,
} from '../actions';
import css from './account.module.css';
import type { AccountDesk } from './section';

type Part = 'planned' | 'given' | 'notices';

/** What is planned for a case: ways of treating with what they would cost, estimates that were given, notices that were signed. */
export function TreatmentDrawer({ desk, found }: { desk: AccountDesk; found: MemberCase }) {
  const [turn, setTurn] = useState(0);
  const [part, setPart] = useState<Part>(desk.params.get('part') === 'given' ? 'given' : 'planned');
  const again = (): void => setTurn((now) => now + 1);
  const person = desk.account.members.find(({ id }) => id === found.patientId);
  return (
    <DeskDrawer
      size={920}
      title={`Planned for ${person?.first ?? ''}, ${found.standing ? 'standing case' : found.name}`}
      onClose={desk.close}
    >
      <Loaded of={`${found.id}/${turn}`} read={() => treatmentAction({ caseId: found.id })}>
        {(treatment) => (
          <>
            <div className={css.parts}>
              <Segmented
                aria-label="Part"
                value={part}
                onChange={setPart}
                options={[
                  { value: 'planned' as const, label: 'What is planned' },
                  { value: 'given' as const, label: `Estimates given (${treatment.given.length})` },
                  { value: 'notices' as const, label: `Advance notices (${treatment.notices.length})` },
                ]}
              />
            </div>
            {part === 'planned' && (
              <Planned desk={desk} caseId={found.id} treatments={treatment.treatments} again={again} />
            )}
            {part === 'given' && <Given desk={desk} given={treatment.given} again={again} />}
            {part === 'notices' && (
              <Notices desk={desk} caseId={found.id} notices={treatment.notices} again={again} />
            )}
          </>
        )}
      </Loaded>
    </DeskDrawer>
  );
}

function Planned({
  desk,
  caseId,
  treatments,
  again,
}: {
  desk: AccountDesk;
  caseId: number;
  treatments: readonly Treatment[];
  again: () => void;
}) {
  const { busy, run } = useAct();
  const [name, setName] = useState('');
  const may = desk.may('enter charges');
  const places = treatments.map(({ optionId, name: label }) => ({ value: optionId ?? 0, label }));
  const complete = async (chargeId: number): Promise<void> => {
    const done = await run(
      (sure) => completeChargeAction({ ...sure, chargeId, serviceDate: desk.today }),
      'Done today',
    );
    if (done) again();
  };
  const add = async (): Promise<void> => {
    if (name.trim() === '') return;
    if (await run(() => addOptionAction({ caseId, name }))) {
      setName('');
      again();
    }
  };
  return (
    <>
      {treatments.length === 0 && (
        <p className="quiet">Nothing is planned: enter services in the line below, as planned.</p>
      )}
      {treatments.map((one) => (
        <section key={one.optionId ?? 0} className={css.part} aria-label={one.name}>
          <div className={css.visit}>
            <strong>{one.name}</strong>
            {one.optionId !== null && may && (
              <Segmented
                aria-label={`Is ${one.name} chosen?`}
                value={one.chosen}
                onChange={(chosen) =>
                  void run(() => chooseOptionAction({ optionId: one.optionId!, chosen })).then(again)
                }
                options={[
                  { value: true, label: 'chosen' },
                  { value: false, label: 'not chosen' },
                ]}
              />
            )}
          </div>
          {one.lines.length === 0 && <p className="quiet">Nothing is in it yet.</p>}
          {one.lines.length > 0 && (
            <LineTable
              label={`Services of ${one.name}`}
              rows={one.lines}
              rowKey={({ chargeId }) => String(chargeId)}
              columns={[
                {
                  key: 'what',
                  title: 'Service',
                  render: (line) => (
                    <>
                      {line.code} {line.description}
                      {line.tooth && ` · tooth ${line.tooth}`}
                      <span className="quiet"> · {formatDate(line.date)}</span>
                      {line.reached.map((limit) => (
                        <div key={limit} className="small warn">
                          {limit}
                        </div>
                      ))}
                    </>
                  ),
                },
                {
                  key: 'phase',
                  title: 'Phase',
                  width: 80,
                  render: (line) => (may ? <Phase line={line} again={again} /> : line.phase),
                },
                { key: 'fee', title: 'Fee', money: (line) => line.fee, sum: true },
                { key: 'off', title: 'Off by contract', money: (line) => line.writeOff, sum: true },
                { key: 'payers', title: 'Payers', money: (line) => line.payers, sum: true },
                { key: 'patient', title: 'Patient', money: (line) => line.patient, sum: true },
                ...(may
                  ? [
                      {
                        key: 'acts',
                        title: 'What can be done',
                        width: places.some(({ value }) => value !== 0) ? 190 : 136,
                        render: (line: Treatment['lines'][number]) => (
                          <span className={css.stack}>
                            <Button size="small" disabled={busy} onClick={() => void complete(line.chargeId)}>
                              Done today (D)
                            </Button>
                            <Place line={line} places={places} again={again} />
                          </span>
                        ),
                      },
                    ]
                  : []),
              ]}
              words={counted(one.lines.length, 'service')}
              empty=""
              onRowKey={
                may
                  ? (line, key) => {
                      if (key === 'd') void complete(line.chargeId);
                    }
                  : undefined
              }
            />
          )}
          {one.plan && (
            <p className="small quiet">
              At once, or in {one.plan.installments} monthly installments of about{' '}
              {formatMoneyPlain(one.plan.level)}.
            </p>
          )}
        </section>
      ))}
      {may && (
        <div className={css.visit}>
          <Input
            aria-label="Another way of treating"
            placeholder="another way of treating"
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
            onPressEnter={() => void add()}
          />
          <Button disabled={busy || name.trim() === ''} onClick={() => void add()}>
            Add it
          </Button>
        </div>
      )}
      {may && treatments.some(({ lines }) => lines.length > 0) && (
        <DeskForm
          initial={{ optionId: 0, validUntil: addDays(desk.today, 90), asked: false }}
          along={{ caseId }}
          once
          action={({ optionId, ...sent }: Parameters<typeof giveEstimateAction>[0]) =>
            giveEstimateAction({ ...sent, optionId: Number(optionId) || null })
          }
          done={again}
          words="Make the estimate to hand over"
        >
          {(f) => (
            <Row>
              <f.Choice
                name="optionId"
                label="Of"
                options={[
                  { value: 0, label: 'what is chosen' },
                  ...places.filter(({ value }) => value !== 0),
                ]}
              />
              <f.Date name="validUntil" label="Valid until" needed />
              <f.Date name="bookedFor" label="Booked for" />
              <f.YesNo name="asked" label="Asked for" />
            </Row>
          )}
        </DeskForm>
      )}
    </>
  );
}

/** The phase in which a planned service is to be done. */
function Phase({ line, again }: { line: Treatment['lines'][number]; again: () => void }) {
  const { run } = useAct();
  return (
    <Choose
      size="small"
      aria-label={`Phase of ${line.code}`}
      value={line.phase}
      options={[1, 2, 3, 4, 5].map((value) => ({ value, label: String(value) }))}
      onChange={(phase) =>
        void run(() =>
          placePlannedAction({ chargeIds: [line.chargeId], optionId: line.optionId, phase }),
        ).then(again)
      }
    />
  );
}

/** The way of treating a planned service belongs to. */
function Place({
  line,
  places,
  again,
}: {
  line: Treatment['lines'][number];
  places: { value: number; label: string }[];
  again: () => void;
}) {
  const { run } = useAct();
  const options = places.some(({ value }) => value === 0)
    ? places
    : [{ value: 0, label: 'In any case' }, ...places];
  if (options.length < 2) return null;
  return (
    <Choose
      size="small"
      aria-label={`Way of treating of ${line.code}`}
      value={line.optionId ?? 0}
      options={options}
      onChange={(optionId) =>
        void run(() =>
          placePlannedAction({
            chargeIds: [line.chargeId],
            optionId: optionId || null,
            phase: line.phase,
          }),
        ).then(again)
      }
    />
  );
}

function Given({
  desk,
  given,
  again,
}: {
  desk: AccountDesk;
  given: readonly GivenEstimate[];
  again: () => void;
}) {
  if (given.length === 0) return <p className="quiet">No estimate was given yet.</p>;
  return (
    <>
      {given.map((one) => (
        <section key={one.id} className={css.part} aria-label={one.number}>
          <div>
            <a href={`/api/estimates/${one.id}`} target="_blank" rel="noreferrer">
              {one.number}
            </a>{' '}
            of {formatDate(one.madeOn)}
            {one.option && `, ${one.option}`}, {one.kind === 'good-faith' ? 'good faith estimate, ' : ''}
            {formatMoneyPlain(one.amount)} for the patient, valid until {formatDate(one.validUntil)}
            {one.validUntil < desk.today && <span className="warn"> (over)</span>}
            {one.dueOn && `, to be given by ${formatDate(one.dueOn)}`}
          </div>
          <div className="small quiet">
            {one.done} of {counted(one.services, 'service')} done
            {one.done > 0 &&
              `: of these ${formatMoneyPlain(one.said.patient)} was said for the patient, ${formatMoneyPlain(one.came.patient)} it is${one.kind === 'good-faith' ? '' : `; payers ${formatMoneyPlain(one.said.payers)} said, ${formatMoneyPlain(one.came.payers)} paid`}`}
          </div>
          {one.anewBy && (
            <div className="warn">
              What is planned is not what it says any more: give a new one by {formatDate(one.anewBy)}.
            </div>
          )}
          {one.above.map((words) => (
            <div key={words} className="warn">
              {words}: the patient may dispute the bill.
            </div>
          ))}
          {one.above.length > 0 && !one.unseen && <div className="small">Looked at: {one.seenWhy}</div>}
          {one.unseen && (
            <div className={css.visit}>
              <span className="small">Statements are kept back until somebody has looked at it.</span>
              {desk.may('enter charges') && <SeeAbove estimateId={one.id} again={again} />}
            </div>
          )}
          {one.signedOn ? (
            <div className="small">
              Signed on {formatDate(one.signedOn)} by {one.signedBy}
            </div>
          ) : (
            desk.may('enter charges') && <Sign estimate={one} today={desk.today} again={again} />
          )}
        </section>
      ))}
    </>
  );
}

/** Looks at what is charged above an estimate. */
function SeeAbove({ estimateId, again }: { estimateId: number; again: () => void }) {
  const { run } = useAct();
  return (
    <WithReason
      words="It is right to ask for it"
      ask="Why is so much more asked for?"
      act={(why) =>
        run(() => seeAboveAction({ estimateId, why }), 'Looked at; statements go out').then((done) => {
          if (done) again();
          return done;
        })
      }
    />
  );
}

function Sign({ estimate, today, again }: { estimate: GivenEstimate; today: string; again: () => void }) {
  const { busy, run } = useAct();
  const [by, setBy] = useState('');
  const [on, setOn] = useState(today);
  return (
    <div className={css.visit}>
      <Input
        aria-label={`Who signed ${estimate.number}`}
        placeholder="who signed it"
        value={by}
        onChange={(event) => setBy(event.target.value)}
      />
      <DateInput label={`Signed on, ${estimate.number}`} value={on} onChange={setOn} />
      <Button
        disabled={busy || by.trim() === ''}
        onClick={() =>
          void run(() => signEstimateAction({ estimateId: estimate.id, by, on }), 'Signed').then(
            (done) => done && again(),
          )
        }
      >
        It is signed
      </Button>
    </div>
  );
}

function Notices({
  desk,
  caseId,
  notices,
  again,
}: {
  desk: AccountDesk;
  caseId: number;
  notices: CaseTreatment['notices'];
  again: () => void;
}) {
  return (
    <>
      <LineTable
        label="Advance notices"
        rows={notices}
        rowKey={({ id }) => String(id)}
        columns={[
          { key: 'code', title: 'Service', width: 100, render: ({ code }) => code },
          { key: 'why', title: 'Why it will not be covered', render: ({ why }) => why },
          { key: 'modifier', title: 'Modifier', width: 90, render: ({ modifier }) => modifier },
          {
            key: 'signed',
            title: 'Signed',
            width: 110,
            render: ({ signedOn }) => (signedOn ? formatDate(signedOn) : '–'),
          },
          { key: 'price', title: 'Price', money: ({ price }) => price },
        ]}
        words={counted(notices.length, 'notice')}
        empty="No notice is kept"
      />
      {desk.may('enter charges') && (
        <DeskForm
          initial={{ modifier: 'GA', signedOn: desk.today }}
          along={{ caseId }}
          once
          action={keepNoticeAction}
          done={again}
          words="Keep the notice"
        >
          {(f) => (
            <>
              <Row>
                <f.Choice
                  name="code"
                  label="Service"
                  needed
                  options={desk.forms.choices.services.map(({ code, description }) => ({
                    value: code,
                    label: `${code} ${description}`,
                  }))}
                />
                <f.Money name="price" label="Price" needed />
              </Row>
              <f.Text name="why" label="Why it will not be covered" needed maxLength={200} />
              <Row>
                <f.Choice
                  name="modifier"
                  label="Modifier"
                  needed
                  options={Object.entries(NOTICE_MODIFIERS).map(([value, words]) => ({
                    value,
                    label: `${value}, ${words}`,
                  }))}
                />
                <f.Date name="signedOn" label="Signed on" />
              </Row>
            </>
          )}
        </DeskForm>
      )}
    </>
  );
}
