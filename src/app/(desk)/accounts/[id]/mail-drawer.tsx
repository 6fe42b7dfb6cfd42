'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { HOUSEHOLD_DELIVERIES } from '../../../../core/mail/pieces';
import type { HouseholdMail } from '../../../../server/statements/household';
import { WithReason, useAct } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { ChoiceField, DateField, DeskForm, Row, TextField, YesNoField } from '../../../../ui/form';
import { Loaded } from '../../../../ui/loaded';
import { Notice } from '../../../../ui/page';
import {
  deliveryAction,
  endNoteAction,
  liftAction,
  mailAction,
  noteAction,
  stopAction,
} from '../../statements/actions';
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
            <Notes mail={mail} again={again} />
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
        }}
        along={{ householdId: mail.householdId }}
        version={mail.version}
        action={deliveryAction}
        done={again}
        words="Save"
        onTyped={(values) => setHow(String(values.delivery))}
      >
        <ChoiceField
          name="delivery"
          label="Statements go"
          focus
          options={Object.entries(HOUSEHOLD_DELIVERIES).map(([value, label]) => ({ value, label }))}
        />
        {how === 'none' && <TextField name="deliveryWhy" label="Why none" needed maxLength={200} />}
        <Row>
          <DateField name="holdUntil" label="Held until" />
          <TextField name="holdWhy" label="Why held" maxLength={200} />
        </Row>
        <Row>
          <ChoiceField
            name="category"
            label="Category"
            empty="None"
            options={mail.choices.categories.map((name) => ({ value: name, label: name }))}
          />
          <ChoiceField
            name="siteId"
            label="Site"
            empty="That of its newest charge"
            options={mail.choices.sites}
          />
        </Row>
        <YesNoField name="lateCharges" label="Late charges may be put on it" />
        {back.length > 0 && <YesNoField name="addressGood" label="The address is good again" />}
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
          <Row>
            <ChoiceField
              name="reasonId"
              label="Another reason"
              needed
              options={mail.choices.reasons.map(({ value, label, stops }) => ({
                value,
                label: `${label}: no ${stops.join(', ') || 'thing'}`,
              }))}
            />
            <DateField name="until" label="Until" />
          </Row>
          <TextField name="note" label="Note for us" maxLength={300} />
        </DeskForm>
      )}
    </section>
  );
}

/** Words for the patient on the next statements. */
function Notes({ mail, again }: Part) {
  const { busy, run } = useAct();
  return (
    <section aria-label="Words for the patient" className={css.part}>
      <h3>Words for the patient</h3>
      <ul className={css.stops}>
        {mail.notes.map((note) => (
          <li key={note.id}>
            {note.words}
            <div className="quiet small">
              {[
                note.times && (note.times === 1 ? 'once' : `${note.times} times`),
                note.until && `until ${formatDate(note.until)}`,
                note.by,
              ]
                .filter(Boolean)
                .join(' · ')}
            </div>
            <Button
              size="small"
              loading={busy}
              onClick={() =>
                void run(() => endNoteAction({ noteId: note.id }), 'It prints no more').then(
                  (done) => done && again(),
                )
              }
            >
              Print no more
            </Button>
          </li>
        ))}
      </ul>
      <DeskForm
        key={mail.notes.length}
        initial={{ times: '1' }}
        along={{ householdId: mail.householdId }}
        once
        action={({ times, ...values }) => noteAction({ ...values, times: times || null })}
        done={again}
        words="Add"
      >
        <TextField name="words" label="What it says" needed maxLength={500} />
        <Row>
          <TextField name="times" label="So many times" />
          <DateField name="until" label="or until" />
        </Row>
      </DeskForm>
    </section>
  );
}
