'use client';
import { Alert, Button } from 'antd';
import { useEffect, useState } from 'react';
import {
  type Cents,
  ZERO,
  add,
  formatMoneyPlain,
  minus,
  most,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import { spreadAs } from '../../../../core/payments/spread';
import { type Surcharge, basisOf, surchargeOf } from '../../../../core/payments/surcharge';
import type { TakingForm } from '../../../../server/payments/form';
import type { AttemptOutcome } from '../../../../server/payments/terminal';
import type { VisitRow } from '../../../../server/payments/visits';
import { useAct, useOnce } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { type Means, MeansRow, centsOf, faultOfMeans } from '../../accounts/[id]/payment-means';
import { takePaymentAction, takingFormAction, toCollectAction } from '../actions';
import css from './visits.module.css';

interface Known {
  form: TakingForm;
  parts: { words: string; amount: Cents }[];
  total: Cents;
  why: string;
}

/** Takes what is to be paid before a visit: it is reserved for that visit until it is charged. */
export function CheckIn({ visit, onClose }: { visit: VisitRow; onClose: () => void }) {
  const [known, setKnown] = useState<Known | string | null>(null);
  const { householdId, patientId } = visit;
  useEffect(() => {
    let here = true;
    const ids = { householdId: householdId!, patientId: patientId! };
    void Promise.all([takingFormAction(ids.householdId), toCollectAction(ids)]).then(
      ([form, collect]) => {
        if (!here) return;
        if (!form.ok) setKnown(form.message);
        else if (!collect.ok) setKnown(collect.message);
        else setKnown({ form: form.value, ...collect.value });
      },
      () => here && setKnown('The server could not be reached. Nothing was taken: try again.'),
    );
    return () => {
      here = false;
    };
  }, [householdId, patientId]);
  if (known === null) return null;
  if (typeof known !== 'string') return <Taking visit={visit} known={known} onClose={onClose} />;
  return (
    <DeskDrawer size={620} title={`Check in ${visit.name}`} onClose={onClose}>
      <Alert type="error" title={known} />
    </DeskDrawer>
  );
}

function Taking({ visit, known, onClose }: { visit: VisitRow; known: Known; onClose: () => void }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const old = known.parts.find(({ words }) => words === 'owed')?.amount ?? ZERO;
  const today = most(ZERO, minus(known.total, old));
  const [means, setMeans] = useState<Means>({
    tender: 'cash',
    amount: known.total > 0 ? toDecimal(known.total) : '',
    reference: '',
    given: '',
    read: null,
  });
  const [forVisit, setForVisit] = useState(toDecimal(today));
  const [card, setCard] = useState<AttemptOutcome | null>(null);
  const amount = centsOf(means);
  const kept = parseMoney(forVisit) ?? ZERO;
  const site =
    known.form.sites.find(({ id }) => id === (visit.siteId ?? known.form.siteId)) ?? known.form.sites[0];
  // What is not for the visit pays what is open, as the server spreads it.
  const spread = spreadAs(
    kept >= 0 && kept <= amount ? minus(amount, kept) : ZERO,
    known.form.open.filter(({ apart }) => !visit.apart || apart === visit.patientId),
    { way: 'oldest' },
  );
  const parts = typeof spread === 'string' ? [] : spread.parts;
  const left = minus(amount, sum(parts.map((part) => part.amount)));
  const surcharge: Surcharge | null =
    means.read && site
      ? surchargeOf(
          basisOf(
            { parts, plans: [], agency: ZERO, left },
            new Set(known.form.bearNone),
            known.form.allBearNone,
          ),
          means.read.card,
          { ...site.rule, brands: new Map(site.rule.brands) },
        )
      : null;
  const fault =
    faultOfMeans(means) ||
    (kept < 0 || kept > amount ? `${formatMoneyPlain(kept)} for the visit is more than is paid` : '');
  const save = async (): Promise<void> => {
    if (fault || busy || visit.householdId === null) return;
    const done = await run(
      (sure) =>
        takePaymentAction({
          ...sure,
          householdId: visit.householdId!,
          patientId: visit.apart ? visit.patientId : null,
          expectedVisitId: visit.id,
          reserve: toDecimal(kept),
          locationId: site?.id ?? null,
          tenders: [
            {
              tender: means.tender,
              amount: means.amount,
              reference: means.read ? '' : means.reference,
              given: means.tender === 'cash' && means.given.trim() !== '' ? means.given : null,
              reading: means.read?.key ?? '',
              ...(means.read ? { surcharge: surcharge?.amount ?? ZERO } : {}),
            },
          ],
          key: press.key(),
        }),
      ({ cards }) =>
        cards.some(({ state }) => state !== 'approved')
          ? ''
          : `${formatMoneyPlain(add(amount, surcharge?.amount ?? ZERO))} taken; ${formatMoneyPlain(kept)} reserved for the visit`,
    );
    if (!done) return;
    press.next();
    const unclear = done.value.cards.find(({ state }) => state !== 'approved');
    if (unclear) setCard(unclear);
    else onClose();
  };
  return (
    <DeskDrawer
      size={620}
      title={`Check in ${visit.name}`}
      onClose={onClose}
      footer={
        card ? (
          <Button type="primary" onClick={onClose}>
            Back to the visits
          </Button>
        ) : (
          <div className={css.foot}>
            <Button type="primary" loading={busy} disabled={fault !== ''} onClick={() => void save()}>
              Take {amount > 0 ? formatMoneyPlain(add(amount, surcharge?.amount ?? ZERO)) : 'payment'}
            </Button>
            <span className="quiet">{fault}</span>
          </div>
        )
      }
    >
      {card && (
        <Alert
          type={card.state === 'declined' ? 'error' : 'warning'}
          title={card.words}
          className={css.brought}
        />
      )}
      {visit.notices.map((words) => (
        <Alert key={words} type="warning" title={words} className={css.brought} />
      ))}
      <dl className={css.collect} aria-label="To collect">
        {known.parts.map(({ words, amount: part }) => [
          <dt key={`w${words}`}>{words}</dt>,
          <dd key={`a${words}`}>
            <Money cents={part} />
          </dd>,
        ])}
        <dt>
          <strong>To collect</strong>
        </dt>
        <dd>
          <Money cents={known.total} strong />
        </dd>
      </dl>
      {known.why !== '' && <p className="quiet">{known.why}</p>}
      {!card && (
        <>
          <MeansRow
            means={means}
            number={0}
            siteId={site?.id ?? 0}
            terminal={site?.terminal ?? false}
            surcharge={surcharge}
            focus
            set={(change) => {
              const other = change.amount !== undefined && change.amount !== means.amount;
              const next = { ...means, ...(other ? { read: null } : {}), ...change };
              setMeans(next);
              // What is more than the old balance is for the visit.
              if (other) setForVisit(toDecimal(most(ZERO, minus(centsOf(next), old))));
            }}
            remove={null}
            onEnter={() => void save()}
          />
          <label className={css.kept}>
            <span>Of it for this visit, reserved until it is charged</span>
            <MoneyInput
              small
              label="For this visit"
              value={forVisit}
              onChange={setForVisit}
              onEnter={() => void save()}
            />
          </label>
        </>
      )}
    </DeskDrawer>
  );
}
