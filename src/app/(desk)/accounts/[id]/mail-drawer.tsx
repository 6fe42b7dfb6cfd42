'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { HOUSEHOLD_DELIVERIES } from '../../../../core/mail/pieces';
import type { HouseholdMail } from '../../../../server/statements/household';
import { WithReason, useAct } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { DeskForm, Row } from '../../../../ui/form';
import { Loaded } from '../../../../ui/loaded';
import { Notice } from '../../../../ui/page';
import {
  confidentialAction,
  deliveryAction,
  endConfidentialAction,
  liftAction,
  mailAction,
  stopAction,
} from '../../statements/actions';
import { HandOver } from '../../statements/hand-over';
import css from './account.module.css';

/** How a household is written to: delivery and hold, what is stopped, and words for the patient. */
export function MailDrawer({
  householdId,
  mayStop,
  onClose,
}: {
  householdId: number;
  mayStop: boolean;
  onClose: () => void;
}) {
  const router = useRouter();
  const [turn, setTurn] = useState(0);
  const again = (): void => {
    setTurn((now) => now + 1);
    router.refresh();
  };
  return (
    <DeskDrawer size={480} title="Mail and stops" onClose={onClose}>
      <Loaded of={`${householdId}-${turn}`} read={() => mailAction(householdId)}>
        {(mail) => (
          <>
            <Stops mail={mail} mayStop={mayStop} again={again} />
            <Delivery key={mail.version} mail={mail} again={again} />
            <Confidential mail={mail} again={again} />
          </>
        )}
      </Loaded>
    </DeskDrawer>
  );
}

interface Part {
  mail: HouseholdMail;
  again: () => void;
}

/** How it is written to. */
function Delivery({ mail, again }: Part) {
  const [how, setHow] = useState<string>(mail.delivery);
  const back = [
    mail.addressReturned && `Mail came back on ${formatDate(mail.addressReturned)}.`,
    mail.emailReturned && `E-mail came back on ${formatDate(mail.emailReturned)}.`,
  ].filter(Boolean);
  return (
    <section aria-label="Delivery" className={css.part}>
      <h3>Delivery</h3>
      {back.length > 0 && <Notice>{back.join(' ')}</Notice>}
      <DeskForm
        initial={{
          delivery: mail.delivery,
          deliveryWhy: mail.deliveryWhy,
          holdUntil: mail.holdUntil ?? '',
          holdWhy: mail.holdWhy,
          category: mail.category,
          siteId: mail.siteId,
          lateCharges: mail.lateCharges,
          receiptsByEmail: mail.receiptsByEmail,
          spared: mail.spared,
          mailedWith: mail.mailedWith,
        }}
        along={{ householdId: mail.householdId }}
        version={mail.version}
        action={deliveryAction}
        done={again}
        words="Save"
        onTyped={(values) => setHow(String(values.delivery))}
      >
        {(f) => (
          <>
            <f.Choice
              name="delivery"
              label="Statements go"
              focus
              options={Object.entries(HOUSEHOLD_DELIVERIES).map(([value, label]) => ({ value, label }))}
            />
            {how === 'none' && <f.Text name="deliveryWhy" label="Why none" needed maxLength={200} />}
            <Row>
              <f.Date name="holdUntil" label="Held until" />
              <f.Text name="holdWhy" label="Why held" maxLength={200} />
            </Row>
            <Row>
              <f.Choice
                name="category"
                label="Category"
                empty="None"
                options={mail.choices.categories.map((name) => ({ value: name, label: name }))}
              />
              <f.Choice
                name="siteId"
                label="Site"
                empty="That of its newest charge"
                options={mail.choices.sites}
              />
            </Row>
            <f.Text
              name="mailedWith"
              label="In the envelope of account"
              placeholder="its own"
              hint={mail.withIt.length > 0 ? `With it go ${mail.withIt.join(', ')}.` : undefined}
            />
            <Row>
              <f.YesNo name="lateCharges" label="Late charges may be put on it" />
              <f.Choice name="spared" label="No late charges for" several options={mail.choices.cases} />
            </Row>
            <f.YesNo name="receiptsByEmail" label="Every receipt goes by e-mail" />
            {back.length > 0 && <f.YesNo name="addressGood" label="The address is good again" />}
          </>
        )}
      </DeskForm>
    </section>
  );
}

/** What is stopped. */
function Stops({ mail, mayStop, again }: Part & { mayStop: boolean }) {
  const { run } = useAct();
  return (
    <section aria-label="Stops" className={css.part}>
      <h3>Stops</h3>
      {mail.stops.length === 0 && <p className="quiet">Nothing is stopped.</p>}
      <ul className={css.stops}>
        {mail.stops.map((stop) => (
          <li key={stop.id}>
            <strong>{stop.reason}</strong>: no {stop.stops.join(', ')}
            {stop.until && ` until ${formatDate(stop.until)}`}
            <div className="quiet small">
              {[`since ${formatDate(stop.since)}`, stop.by, stop.note].filter(Boolean).join(' · ')}
            </div>
            {mayStop && (
              <WithReason
                words="Lift"
                ask="Why it is lifted"
                act={(why) =>
                  run(() => liftAction({ stopId: stop.id, why }), 'Lifted').then((done) => {
                    if (done) again();
                    return done;
                  })
                }
              />
            )}
          </li>
        ))}
      </ul>
      {mayStop && (
        <DeskForm
          key={mail.stops.length}
          along={{ householdId: mail.householdId }}
          action={stopAction}
          done={again}
          words="Stop"
        >
          {(f) => (
            <>
              <Row>
                <f.Choice
                  name="reasonId"
                  label="Another reason"
                  needed
                  options={mail.choices.reasons.map(({ value, label, stops }) => ({
                    value,
                    label: `${label}: no ${stops.join(', ') || 'thing'}`,
                  }))}
                />
                <f.Date name="until" label="Until" />
              </Row>
              <f.Text name="note" label="Note for us" maxLength={300} />
            </>
          )}
        </DeskForm>
      )}
    </section>
  );
}

/** Where what concerns one patient goes, and nothing of it to the household's address. */
function Confidential({ mail, again }: Part) {
  const { busy, run } = useAct();
  const [who, setWho] = useState<number | null>(null);
  const [how, setHow] = useState('mail');
  const there = mail.confidential.find(({ patientId }) => patientId === who);
  const [handing, setHanding] = useState<number | null>(null);
  const open = (patientId: number): void => {
    setHow(mail.confidential.find((one) => one.patientId === patientId)?.delivery ?? 'mail');
    setWho(patientId);
  };
  return (
    <section aria-label="Confidential addresses" className={css.part}>
      <h3>Confidential addresses</h3>
      <ul className={css.stops}>
        {mail.confidential.map((one) => (
          <li key={one.patientId}>
            <strong>{one.patient}</strong>: {one.name},{' '}
            {one.delivery === 'email' ? one.email : `${one.line1}, ${one.city} ${one.state} ${one.zip}`}
            {one.addressReturned && ` · mail came back on ${formatDate(one.addressReturned)}`}
            {one.emailReturned && ` · e-mail came back on ${formatDate(one.emailReturned)}`}
            <div className={css.acts}>
              <Button size="small" onClick={() => open(one.patientId)}>
                Change
              </Button>
              <Button size="small" onClick={() => setHanding(one.patientId)}>
                Statement
              </Button>
              {handing === one.patientId && (
                <HandOver
                  householdId={mail.householdId}
                  patientId={one.patientId}
                  name={one.name}
                  onClose={() => setHanding(null)}
                  done={again}
                />
              )}
              <Button
                size="small"
                loading={busy}
                onClick={() =>
                  void run(
                    () => endConfidentialAction({ patientId: one.patientId }),
                    'It goes home again',
                  ).then((done) => done && again())
                }
              >
                End
              </Button>
            </div>
          </li>
        ))}
      </ul>
      {who === null ? (
        <div className={css.acts}>
          {mail.choices.patients
            .filter(({ value }) => !mail.confidential.some(({ patientId }) => patientId === value))
            .map(({ value, label }) => (
              <Button key={value} size="small" onClick={() => open(value)}>
                Another address for {label}
              </Button>
            ))}
        </div>
      ) : (
        <DeskForm
          key={who}
          initial={{
            delivery: 'mail',
            name: mail.choices.patients.find(({ value }) => value === who)?.label,
            ...there,
          }}
          along={{ patientId: who }}
          version={there?.version}
          action={confidentialAction}
          done={() => {
            setWho(null);
            again();
          }}
          words="Save the address"
          onTyped={(values) => setHow(String(values.delivery))}
          beside={<Button onClick={() => setWho(null)}>Leave it</Button>}
        >
          {(f) => (
            <>
              <Row>
                <f.Text name="name" label="To" needed focus maxLength={80} />
                <f.Choice
                  name="delivery"
                  label="Goes"
                  options={Object.entries(HOUSEHOLD_DELIVERIES)
                    .filter(([value]) => value !== 'none')
                    .map(([value, label]) => ({ value, label }))}
                />
              </Row>
              {how === 'email' ? (
                <f.Text name="email" label="E-mail" needed />
              ) : (
                <>
                  <Row>
                    <f.Text name="line1" label="Street" needed />
                    <f.Text name="line2" label="Street, second line" />
                  </Row>
                  <Row>
                    <f.Text name="city" label="City" needed />
                    <f.Text name="state" label="State" needed maxLength={2} />
                    <f.Text name="zip" label="ZIP" needed />
                  </Row>
                </>
              )}
              <f.Text name="why" label="Note for us" maxLength={200} />
            </>
          )}
        </DeskForm>
      )}
    </section>
  );
}
