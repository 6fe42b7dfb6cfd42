'use client';
import { Alert, Button, Input, Segmented, Select } from 'antd';
import { useEffect, useState } from 'react';
import {
  type Cents,
  ZERO,
  add,
  cents,
  formatMoneyPlain,
  minus,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import {
  SPREADS,
  SPREAD_WAYS,
  type Spread,
  type SpreadWay,
  dealTaking,
  oldestFirst,
  spreadAs,
} from '../../../../core/payments/spread';
import { type Surcharge, basisOf, surchargeOf } from '../../../../core/payments/surcharge';
import { formatDate } from '../../../../core/calendar';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/account-page/read';
import type { TakingForm } from '../../../../server/payments/form';
import type { AttemptOutcome } from '../../../../server/payments/terminal';
import { useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { useDesk } from '../../../../ui/desk';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { LineTable } from '../../../../ui/line-table';
import { askAgainAction, envelopeAction, takePaymentAction, takingFormAction } from '../../payments/actions';
import css from './account.module.css';
import own from './payment.module.css';
import { type Means, MeansRow, centsOf, faultOfMeans } from './payment-means';

const given = (parts: Record<string, string>): [string, string][] =>
  Object.entries(parts).filter(([, part]) => part.trim() !== '');
type Line = AccountPage['open'][number];

/** Takes a payment: once what it needs is read. */
export function PaymentDrawer({
  account,
  pays,
  onClose,
}: {
  account: AccountPage;
  /** The charges that it is opened for, by id: those of them that are open are paid, and no others. */
  pays: readonly number[];
  onClose: () => void;
}) {
  const [form, setForm] = useState<TakingForm | string | null>(null);
  const { id } = account.household;
  useEffect(() => {
    let here = true;
    void takingFormAction(id).then(
      (answer) => here && setForm(answer.ok ? answer.value : answer.message),
      () => here && setForm('The server could not be reached. Nothing was taken: try again.'),
    );
    return () => {
      here = false;
    };
  }, [id]);
  // Until then nothing is drawn, so that the focus goes back to where the form was asked for.
  if (form === null) return null;
  if (typeof form !== 'string') return <Taking account={account} form={form} pays={pays} onClose={onClose} />;
  return (
    <DeskDrawer
      size={860}
      title={`Payment from ${account.household.first} ${account.household.last}`}
      onClose={onClose}
    >
      <Alert type="error" title={form} />
    </DeskDrawer>
  );
}

/** The form: its means, how they are spread, and the effect on each open charge before anything is saved. */
function Taking({
  account,
  form,
  pays,
  onClose,
}: {
  account: AccountPage;
  form: TakingForm;
  pays: readonly number[];
  onClose: () => void;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const { today } = useDesk();
  const [owner, setOwner] = useState<number | null>(null);
  const linesOf = (patientId: number | null): Line[] =>
    account.open
      .filter(({ apart }) => patientId === null || apart === patientId)
      .map((charge) => ({ ...charge, account: '' }));
  const [others, setOthers] = useState<Line[] | null>(null);
  const together = others !== null;
  const open = oldestFirst([...linesOf(owner), ...(others ?? [])]);
  const owed = sum(open.map((charge) => charge.owed));
  // What credit stands against is not asked for again.
  const asked = (lines: Line[]): Cents => sum(lines.map((charge) => charge.left));
  const credit = minus(owed, asked(open));
  const plans = account.plans.filter(({ status }) => status === 'accepted');
  const meant = oldestFirst(linesOf(null)).filter(({ id }) => pays.includes(id));
  // Opened for some charges, it is for nothing else.
  const forSome = meant.length > 0;
  const [forPlans, setForPlans] = useState<Readonly<Record<number, string>>>(
    Object.fromEntries(
      plans.filter(({ due }) => due > 0 && !forSome).map(({ id, due }) => [id, toDecimal(due)]),
    ),
  );
  const moneyOn = (texts: Readonly<Record<number, string>>): Cents =>
    sum(plans.map(({ id }) => parseMoney(texts[id] ?? '') ?? ZERO));
  const placement = account.placement?.proposed === false ? account.placement : null;
  const [forAgency, setForAgency] = useState(
    placement && !forSome && asked(linesOf(null)) === 0 ? toDecimal(placement.open) : '',
  );
  const toAgency = placement ? (parseMoney(forAgency) ?? ZERO) : ZERO;
  const aside = add(moneyOn(forPlans), toAgency);
  const proposal = (lines: Line[], apart: Cents): string => {
    const all = add(asked(lines), apart);
    return all > 0 ? toDecimal(all) : '';
  };
  const empty = (amount: string): Means => ({
    tender: form.noChecksSince === null ? 'check' : 'cash',
    amount,
    reference: '',
    given: '',
    read: null,
  });
  const [means, setMeans] = useState<Means[]>([
    empty(forSome ? proposal(meant, ZERO) : proposal(linesOf(null), aside)),
  ]);
  /** The amount follows what is asked for and what goes aside, until it is typed. */
  const [typed, setTyped] = useState(false);
  const propose = (lines: Line[], apart: Cents): void => {
    if (!typed && means.length === 1)
      setMeans([{ ...means[0]!, amount: proposal(lines, apart), read: null }]);
  };
  const [siteId, setSiteId] = useState(form.siteId);
  const site = form.sites.find(({ id }) => id === siteId) ?? form.sites[0];
  const [receivedOn, setReceivedOn] = useState<string>(today);
  const [paidBy, setPaidBy] = useState('');
  const [way, setWay] = useState<SpreadWay>(forSome ? 'chosen' : 'oldest');
  const [order, setOrder] = useState<number[]>(meant.map(({ id }) => id));
  const [first, setFirst] = useState<number | null>(null);
  const [parts, setParts] = useState<Record<string, string>>({});
  const [cards, setCards] = useState<AttemptOutcome[]>([]);
  const amount = sum(means.map(centsOf));
  // A part that is no amount is below zero, which the spread refuses.
  const wanted = new Map(given(parts).map(([id, part]) => [Number(id), parseMoney(part) ?? cents(-1)]));
  // What goes to plans and to what is with an agency is not spread over the charges.
  const rest = minus(amount, aside);
  const spread: Spread | string | null =
    amount <= 0
      ? null
      : rest < 0
        ? toAgency > 0
          ? 'More goes to what is with the agency than is paid'
          : 'More goes to plans than is paid'
        : spreadAs(rest, open, { way, order, first, parts: wanted });
  const dealt = spread && typeof spread !== 'string' ? spread : null;
  const part = (id: number): Cents => dealt?.parts.find((item) => item.id === id)?.amount ?? ZERO;
  const surcharges = surchargesOf(means, dealt, { forPlans, toAgency, form, site });
  const extra = sum(surcharges.map((one) => one?.amount ?? ZERO));
  const fault =
    means.map(faultOfMeans).find((words) => words !== '') ||
    (typeof spread === 'string' ? spread : '') ||
    (site ? '' : 'Setup has no site');
  const people = [
    ...new Map(
      open.flatMap(({ patientId, patient }) => (patientId === null ? [] : [[patientId, patient] as const])),
    ),
  ];

  const setAside = (plan: Readonly<Record<number, string>>, agency: string): void => {
    setForPlans(plan);
    setForAgency(agency);
    propose(open, add(moneyOn(plan), placement ? (parseMoney(agency) ?? ZERO) : ZERO));
  };
  const startOver = (lines: Line[]): void => {
    propose(lines, aside);
    setParts({});
    setOrder([]);
    setWay('oldest');
  };
  const payTogether = async (yes: boolean): Promise<void> => {
    const read = yes ? await run(() => envelopeAction(account.household.id)) : null;
    if (yes && !read) return;
    setOthers(read?.value ?? null);
    startOver([...linesOf(owner), ...(read?.value ?? [])]);
  };
  const setRow = (at: number, change: Partial<Means>): void => {
    if (change.amount !== undefined && change.amount !== means[at]!.amount) setTyped(true);
    // A card was read for an amount that was said: another amount is read anew.
    const over = change.amount !== undefined && change.amount !== means[at]!.amount ? { read: null } : {};
    setMeans(means.map((row, index) => (index === at ? { ...row, ...over, ...change } : row)));
  };
  const addRow = (): void => {
    const missing = minus(add(asked(open), aside), amount);
    setMeans([...means, { ...empty(missing > 0 ? toDecimal(missing) : ''), tender: 'card' }]);
    setTyped(true);
  };
  const toggle = (id: number): void =>
    setOrder(order.includes(id) ? order.filter((one) => one !== id) : [...order, id]);
  const chooseWay = (next: SpreadWay): void => {
    // By hand begins with what was proposed.
    if (next === 'hand' && dealt)
      setParts(Object.fromEntries(dealt.parts.map((item) => [item.id, toDecimal(item.amount)])));
    if (next === 'person' && first === null) setFirst(people[0]?.[0] ?? null);
    setWay(next);
  };
  const save = async (): Promise<void> => {
    if (fault || busy || !site) return;
    const done = await run(
      (sure) =>
        takePaymentAction({
          ...sure,
          owed,
          patientId: owner,
          together,
          locationId: site.id,
          plans: Object.fromEntries(
            Object.entries(forPlans).filter(([, one]) => (parseMoney(one) ?? ZERO) !== 0),
          ),
          householdId: account.household.id,
          agency: toAgency > 0 ? forAgency : null,
          tenders: means.map((row, at) => ({
            tender: row.tender,
            amount: row.amount,
            reference: row.read ? '' : row.reference,
            given: row.tender === 'cash' && row.given.trim() !== '' ? row.given : null,
            reading: row.read?.key ?? '',
            ...(row.read ? { surcharge: surcharges[at]?.amount ?? ZERO } : {}),
          })),
          receivedOn,
          paidBy,
          key: press.key(),
          spread: way,
          order: way === 'chosen' ? order : [],
          first,
          ...(way === 'hand' ? { parts: Object.fromEntries(given(parts)) } : {}),
        }),
      ({ cards: answers }) =>
        answers.some(({ state }) => state !== 'approved')
          ? ''
          : `${formatMoneyPlain(add(amount, extra))} taken`,
    );
    if (!done) return;
    press.next();
    if (done.value.cards.every(({ state }) => state === 'approved')) return onClose();
    setCards(done.value.cards);
  };
  if (cards.length > 0)
    return (
      <Outcome
        account={account}
        cards={cards}
        beside={means.length > cards.length}
        set={setCards}
        onClose={onClose}
      />
    );
  return (
    <DeskDrawer
      size={860}
      title={`Payment from ${account.household.first} ${account.household.last}`}
      onClose={onClose}
      footer={
        <div className={css.foot}>
          <Button type="primary" loading={busy} disabled={fault !== ''} onClick={() => void save()}>
            Take {amount > 0 ? formatMoneyPlain(add(amount, extra)) : 'payment'}
          </Button>
          <span className="quiet">
            {fault ||
              (extra > 0 ? `${formatMoneyPlain(extra)} of it is the surcharge, which pays nothing` : '')}
          </span>
        </div>
      }
    >
      {form.noChecksSince !== null && (
        <Alert
          type="warning"
          className={css.together}
          title={`No checks are taken from this account since ${formatDate(form.noChecksSince)}`}
        />
      )}
      {form.waiting.map((words) => (
        <Alert key={words} type="warning" className={css.together} title={words} />
      ))}
      {means.map((row, at) => (
        <MeansRow
          key={at}
          means={row}
          number={means.length === 1 ? 0 : at + 1}
          siteId={siteId}
          terminal={site?.terminal ?? false}
          surcharge={surcharges[at] ?? null}
          focus={at === 0}
          set={(change) => setRow(at, change)}
          remove={means.length === 1 ? null : () => setMeans(means.filter((_, index) => index !== at))}
          onEnter={() => void save()}
        />
      ))}
      <div className={own.over}>
        <Button size="small" onClick={addRow} disabled={means.length >= 8}>
          Another tender
        </Button>
        <label>
          <span>Received</span>
          <DateInput label="Received" value={receivedOn} onChange={setReceivedOn} />
        </label>
        <label>
          <span>Paid by</span>
          <Input
            aria-label="Paid by"
            className={own.payer}
            maxLength={80}
            placeholder={`${account.household.first} ${account.household.last}`}
            value={paidBy}
            onChange={(event) => setPaidBy(event.target.value)}
          />
        </label>
        {form.sites.length > 1 && (
          <label>
            <span>Taken at</span>
            <Select
              aria-label="Taken at"
              value={siteId}
              onChange={(id) => {
                setSiteId(id);
                setMeans(means.map((row) => ({ ...row, read: null })));
              }}
              options={form.sites.map(({ id, name, drawer }) => ({
                value: id,
                label: drawer ? `${name}, your drawer` : name,
              }))}
            />
          </label>
        )}
        <Segmented
          aria-label="Spread"
          value={way}
          onChange={chooseWay}
          options={SPREAD_WAYS.filter((one) => one !== 'person' || people.length > 1).map((value) => ({
            value,
            label: SPREADS[value],
          }))}
        />
        {way === 'person' && (
          <Select
            aria-label="Whose charges first"
            value={first}
            onChange={setFirst}
            options={people.map(([value, label]) => ({ value, label }))}
          />
        )}
      </div>
      {account.confidential.length > 0 && (
        <Segmented
          aria-label="Whose money"
          className={css.together}
          value={owner ?? 0}
          onChange={(value) => {
            setOwner(value === 0 ? null : value);
            setOthers(null);
            startOver(linesOf(value === 0 ? null : value));
          }}
          options={[
            { value: 0, label: 'The household’s money' },
            ...account.confidential.map(({ patientId, patient }) => ({
              value: patientId,
              label: `${patient}’s own, kept apart`,
            })),
          ]}
        />
      )}
      {account.mailedWith.length > 0 && owner === null && (
        <Segmented
          aria-label="Accounts"
          className={css.together}
          value={together}
          onChange={(value) => void payTogether(value)}
          options={[
            { value: false, label: 'This account' },
            {
              value: true,
              label: `All of one envelope: ${[account.household, ...account.mailedWith].map(({ number }) => number).join(', ')}`,
            },
          ]}
        />
      )}
      {account.givenUp > 0 && (
        <p className="small">
          {formatMoneyPlain(account.givenUp)} was given up as bad debt. Money beyond what is owed becomes
          credit, and is applied to it on the account.
        </p>
      )}
      {plans.map((plan) => (
        <label key={plan.id} className={css.plan}>
          <span>
            To plan {plan.number}: {formatMoneyPlain(plan.due)} due, {formatMoneyPlain(plan.left)} left
          </span>
          <MoneyInput
            small
            label={`To plan ${plan.number}`}
            value={forPlans[plan.id] ?? ''}
            onChange={(value) => setAside({ ...forPlans, [plan.id]: value }, forAgency)}
            onEnter={() => void save()}
          />
        </label>
      ))}
      {placement && (
        <label className={css.plan}>
          <span>
            To what is with {placement.agency}: {formatMoneyPlain(placement.open)} open. It is told, and its
            fee is owed.
          </span>
          <MoneyInput
            small
            label="To what is with the agency"
            value={forAgency}
            onChange={(value) => setAside(forPlans, value)}
            onEnter={() => void save()}
          />
        </label>
      )}
      <LineTable
        label="What is paid"
        rows={open}
        rowKey={(row) => String(row.id)}
        empty="Nothing is owed now: the payment is held as credit"
        words={counted(open.length, 'open charge')}
        {...(way === 'chosen'
          ? {
              onRow: (row: Line) => toggle(row.id),
              onRowKey: (row: Line, key: string) => void (key === ' ' && toggle(row.id)),
            }
          : {})}
        columns={[
          ...(way === 'chosen'
            ? [
                {
                  key: 'order',
                  title: 'Order',
                  width: 62,
                  render: (row: Line) => (
                    <Button
                      size="small"
                      className={own.order}
                      aria-label={`${row.description} of ${row.date}: ${order.includes(row.id) ? `paid as number ${order.indexOf(row.id) + 1}` : 'not paid'}`}
                      onClick={(event) => {
                        event.stopPropagation();
                        toggle(row.id);
                      }}
                    >
                      {order.includes(row.id) ? order.indexOf(row.id) + 1 : '–'}
                    </Button>
                  ),
                },
              ]
            : []),
          { key: 'date', title: 'Visit', width: 96, render: (row: Line) => <Day date={row.date} /> },
          { key: 'who', title: 'Who', width: 90, render: (row: Line) => row.patient },
          {
            key: 'service',
            title: 'Service',
            render: (row: Line) => (row.account ? `${row.description} · ${row.account}` : row.description),
          },
          { key: 'owed', title: 'Owed', width: 90, money: (row: Line) => row.owed, sum: true as const },
          {
            key: 'pays',
            title: 'Pays',
            width: 100,
            money: (row: Line) => part(row.id),
            sum: true as const,
            ...(way === 'hand'
              ? {
                  render: (row: Line) => (
                    <MoneyInput
                      small
                      label={`Part of ${row.description}`}
                      value={parts[row.id] ?? ''}
                      onChange={(value) => setParts({ ...parts, [row.id]: value })}
                      onEnter={() => void save()}
                    />
                  ),
                }
              : {}),
          },
          {
            key: 'left',
            title: 'Left',
            width: 90,
            money: (row: Line) => minus(row.owed, part(row.id)),
            sum: true as const,
          },
        ]}
      />
      {credit > 0 && (
        <Alert
          type="info"
          className={css.left}
          title={
            <>
              {formatMoneyPlain(credit)} is held as credit and stands against this:{' '}
              {credit < owed ? formatMoneyPlain(minus(owed, credit)) : 'nothing'} is asked for.
            </>
          }
        />
      )}
      {dealt && dealt.left > 0 && (
        <Alert
          type="info"
          className={css.left}
          title={
            <>
              What is left, {formatMoneyPlain(dealt.left)}, is held as credit
              {owner === null ? ' of this household' : ', kept apart'}.
            </>
          }
        />
      )}
    </DeskDrawer>
  );
}

/** The surcharge of each means of payment; null where no terminal has read a card. */
function surchargesOf(
  means: readonly Means[],
  spread: Spread | null,
  {
    forPlans,
    toAgency,
    form,
    site,
  }: {
    forPlans: Readonly<Record<number, string>>;
    toAgency: Cents;
    form: TakingForm;
    site: TakingForm['sites'][number] | undefined;
  },
): (Surcharge | null)[] {
  if (!spread || !site) return means.map(() => null);
  const deals = dealTaking(means.map(centsOf), {
    parts: spread.parts,
    plans: Object.entries(forPlans).flatMap(([id, text]) => {
      const amount = parseMoney(text) ?? ZERO;
      return amount > 0 ? [{ id: Number(id), amount }] : [];
    }),
    agency: toAgency,
  });
  const rule = { ...site.rule, brands: new Map(site.rule.brands) };
  return means.map(({ read }, at) =>
    read ? surchargeOf(basisOf(deals[at]!, new Set(form.bearNone), form.allBearNone), read.card, rule) : null,
  );
}

/** What the terminal said of cards, where not all were charged. */
function Outcome({
  account,
  cards,
  beside,
  set,
  onClose,
}: {
  account: AccountPage;
  cards: AttemptOutcome[];
  /** Something else was handed over at once. */
  beside: boolean;
  set: (cards: AttemptOutcome[]) => void;
  onClose: () => void;
}) {
  const { busy, run } = useAct();
  const again = async (attemptId: number): Promise<void> => {
    const done = await run(() => askAgainAction({ attemptId }));
    if (done) set(cards.map((card) => (card.attemptId === attemptId ? done.value : card)));
  };
  return (
    <DeskDrawer
      size={560}
      title={`Payment from ${account.household.first} ${account.household.last}`}
      onClose={onClose}
      footer={
        <Button type="primary" onClick={onClose}>
          Back to the account
        </Button>
      }
    >
      {cards.map((card) => (
        <Alert
          key={card.attemptId}
          className={own.outcome}
          type={card.state === 'approved' ? 'success' : card.state === 'declined' ? 'error' : 'warning'}
          title={card.words}
          action={
            card.state === 'unclear' ? (
              <Button size="small" loading={busy} onClick={() => void again(card.attemptId)}>
                Ask the terminal again
              </Button>
            ) : null
          }
        />
      ))}
      <p className="quiet">
        {beside && 'What was handed over beside the cards is taken and posted. '}
        {cards.some(({ state }) => state === 'declined') &&
          'A declined card paid nothing: take another tender on the account. '}
        {cards.some(({ state }) => state === 'unclear') &&
          'Nothing is paid by a card that waits, until the terminal has answered.'}
      </p>
    </DeskDrawer>
  );
}
