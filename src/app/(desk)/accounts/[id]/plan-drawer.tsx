'use client';
import { Button, Checkbox, Input } from 'antd';
import { useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { type CalendarDate, addMonths, formatDate } from '../../../../core/calendar';
import { formatMoneyPlain, sum } from '../../../../core/money';
import { oldestFirst } from '../../../../core/payments/spread';
import {
  EVERY,
  EXTRA,
  type Every,
  type Extra,
  INTEREST_BY,
  type InterestBy,
} from '../../../../core/plans/terms';
import { counted } from '../../../../core/words';
import type { AccountPage } from '../../../../server/account-page/read';
import type { PlanQuote } from '../../../../server/plans/agree';
import { useAct, useOnce } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day, Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { DeskTable } from '../../../../ui/table';
import { AcceptPlan } from '../../plans/accept-plan';
import { proposeAction, quoteAction } from '../../plans/actions';
import plansCss from '../../plans/plans.module.css';
import css from './account.module.css';

/** The terms as they are typed. */
interface Typed {
  amount: string;
  down: string;
  rate: string;
  installments: string;
  installment: string;
  first: string;
  every: Every;
  interestBy: InterestBy;
  extra: Extra;
  lateCharges: boolean;
}

/** What a plan would be, asked for when nothing was typed for a moment. */
function useQuote(input: Record<string, unknown>) {
  const [found, setFound] = useState<{
    quote: PlanQuote | null;
    words: string;
    fields: Readonly<Record<string, string>>;
  }>({ quote: null, words: '', fields: {} });
  const asked = JSON.stringify(input);
  useEffect(() => {
    let here = true;
    const timer = setTimeout(() => {
      void quoteAction(JSON.parse(asked)).then((answer) => {
        if (!here) return;
        setFound(
          answer.ok
            ? { quote: answer.value, words: '', fields: {} }
            : { quote: null, words: answer.message, fields: answer.fields },
        );
      });
    }, 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [asked]);
  return found;
}

/** Agrees a payment plan: terms, what they mean at once, other terms beside them, the proposal and its signature. */
export function PlanDrawer({
  account,
  today,
  rate,
  onClose,
}: {
  account: AccountPage;
  today: string;
  /** The yearly rate that a plan begins with, in basis points. */
  rate: number;
  onClose: () => void;
}) {
  const params = useSearchParams();
  const replaces = Number(params.get('replaces')) || null;
  const { busy, run } = useAct();
  const press = useOnce();
  const open = oldestFirst(
    // What credit stands against needs no plan.
    account.open
      .map(({ id, date, left, description, patient, apart }) => ({
        id,
        date,
        apart,
        owed: left,
        words: patient ? `${description} · ${patient}` : description,
      }))
      .filter(({ owed }) => owed > 0),
  );
  const [not, setNot] = useState<readonly number[]>(
    // What goes to a confidential address is taken where it is asked for.
    open.flatMap(({ id, apart }) => (replaces !== null || apart !== null ? [id] : [])),
  );
  const [typed, setTyped] = useState<Typed>({
    amount: '',
    down: '',
    rate: String(rate / 100),
    installments: '6',
    installment: '',
    first: addMonths(today as CalendarDate, 1),
    every: 'month',
    interestBy: 'period',
    extra: 'shortens',
    lateCharges: false,
  });
  const [kept, setKept] = useState<readonly { words: string; quote: PlanQuote }[]>([]);
  const [planId, setPlanId] = useState<number | null>(null);
  const set = (part: Partial<Typed>): void => {
    // What was proposed has other terms: it is proposed anew.
    setPlanId(null);
    setTyped((now) => ({ ...now, ...part }));
  };
  const chosen = open.filter(({ id }) => !not.includes(id));
  const before = account.plans.find(({ id }) => id === replaces);
  const input = {
    ...typed,
    householdId: account.household.id,
    replaces,
    chargeIds: chosen.map(({ id }) => id),
    installments: typed.installments || null,
    installment: typed.installments ? '' : typed.installment,
  };
  const { quote, words, fields } = useQuote(input);
  const propose = async (): Promise<void> => {
    const made = await run((sure) => proposeAction({ ...input, ...sure, key: press.key() }), 'Proposed');
    if (!made) return;
    press.next();
    setPlanId(made.value);
  };
  const text = (name: 'rate' | 'installments', label: string) => (
    <Input
      aria-label={label}
      value={typed[name]}
      onChange={({ target }) => set({ [name]: target.value })}
      onPressEnter={() => quote && void propose()}
    />
  );
  const money = (name: 'amount' | 'down' | 'installment', label: string, focus = false) => (
    <MoneyInput
      label={label}
      focus={focus}
      value={typed[name]}
      onChange={(value) =>
        set({ [name]: value, ...(name === 'installment' && value ? { installments: '' } : {}) })
      }
      onEnter={() => quote && void propose()}
    />
  );
  return (
    <DeskDrawer
      size={720}
      title={
        before
          ? `A new plan in place of ${before.number}`
          : `A plan for ${account.household.first} ${account.household.last}`
      }
      onClose={onClose}
      footer={
        <div className={css.foot}>
          {planId === null ? (
            <Button type="primary" loading={busy} disabled={!quote} onClick={() => void propose()}>
              Propose
              {quote
                ? ` ${counted(quote.installments.length, 'installment')} of ${formatMoneyPlain(quote.level)}`
                : ''}
            </Button>
          ) : (
            <Button href={`/api/plans/${planId}`} target="_blank">
              Print for signing
            </Button>
          )}
          {/* What is wrong with a term is said at it. */}
          <span className="quiet">{Object.keys(fields).length === 0 && words}</span>
        </div>
      }
    >
      {before && (
        <p className="quiet">
          {formatMoneyPlain(before.left)} is open on {before.number} and is taken over.
        </p>
      )}
      <div className={css.terms}>
        <Term
          label={`Amount, else all ${formatMoneyPlain(sum([...chosen.map(({ owed }) => owed), ...(before ? [before.left] : [])]))}`}
          wrong={fields.amount}
        >
          {money('amount', 'Amount', true)}
        </Term>
        <Term label="Paid down now" wrong={fields.down}>
          {money('down', 'Paid down now')}
        </Term>
        <Term label="Installments" wrong={fields.installments}>
          {text('installments', 'Installments')}
        </Term>
        <Term label="or each of" wrong={fields.installment}>
          {money('installment', 'Installment')}
        </Term>
        <Term label="Rate, % a year" wrong={fields.rate}>
          {text('rate', 'Rate')}
        </Term>
        <Term label="First due" wrong={fields.first}>
          <DateInput label="First due" value={typed.first} onChange={(first) => set({ first })} />
        </Term>
        <Term label="Due">
          <Choose
            aria-label="Due"
            value={typed.every}
            onChange={(every) => set({ every })}
            options={(Object.keys(EVERY) as Every[]).map((value) => ({ value, label: EVERY[value].words }))}
          />
        </Term>
        <Term label="Interest">
          <Choose
            aria-label="Interest"
            value={typed.interestBy}
            onChange={(interestBy) => set({ interestBy })}
            options={(Object.keys(INTEREST_BY) as InterestBy[]).map((value) => ({
              value,
              label: INTEREST_BY[value],
            }))}
          />
        </Term>
        <Term label="Extra money">
          <Choose
            aria-label="Extra money"
            value={typed.extra}
            onChange={(extra) => set({ extra })}
            options={(Object.keys(EXTRA) as Extra[]).map((value) => ({ value, label: EXTRA[value] }))}
          />
        </Term>
        <Checkbox checked={typed.lateCharges} onChange={({ target }) => set({ lateCharges: target.checked })}>
          late charges when missed
        </Checkbox>
      </div>
      {quote && (
        <section aria-label="What it means" role="status">
          <div className={plansCss.offers}>
            {[{ words: 'These terms', quote }, ...kept].map((offer, index) => (
              <div key={index} className={plansCss.offer}>
                <strong>{offer.words}</strong>
                <Offer quote={offer.quote} />
              </div>
            ))}
          </div>
          {quote.against.map((one) => (
            <p key={one} className="warn">
              {one}.
            </p>
          ))}
          {quote.beyond.length > 0 && (
            <p className="warn">{quote.beyond.join('; ')}: a manager may agree it.</p>
          )}
          {quote.disclosure && (
            <p className="quiet">
              The law asks for a disclosure before it is signed: it stands on the paper.
            </p>
          )}
          <Button
            size="small"
            onClick={() =>
              setKept((now) => [
                { words: `${quote.installments.length} × ${formatMoneyPlain(quote.level)}`, quote },
                ...now.slice(0, 2),
              ])
            }
          >
            Keep beside, try other terms
          </Button>
        </section>
      )}
      {planId !== null && (
        <AcceptPlan
          planId={planId}
          guarantor={`${account.household.last}, ${account.household.first}`}
          done={onClose}
        />
      )}
      {open.length > 0 && (
        <DeskTable<(typeof open)[number]>
          label="Charges for the plan"
          rows={open}
          rowKey={({ id }) => id}
          empty=""
          columns={[
            {
              key: 'take',
              title: '',
              width: 36,
              render: ({ id, words: of }) => (
                <Checkbox
                  aria-label={`Take ${of}`}
                  checked={!not.includes(id)}
                  onChange={({ target }) => {
                    setPlanId(null);
                    setNot((now) => (target.checked ? now.filter((one) => one !== id) : [...now, id]));
                  }}
                />
              ),
            },
            { key: 'date', title: 'Date', width: 96, render: ({ date }) => <Day date={date} /> },
            { key: 'words', title: 'For', cut: true, render: ({ words: of }) => of },
            {
              key: 'owed',
              title: 'Owed',
              width: 96,
              right: true,
              render: ({ owed }) => <Money cents={owed} />,
            },
          ]}
        />
      )}
      {quote && (
        <DeskTable<PlanQuote['installments'][number]>
          label="Schedule"
          rows={quote.installments}
          rowKey={({ number }) => number}
          empty=""
          columns={[
            { key: 'number', title: 'No.', width: 52, right: true, render: ({ number }) => number },
            { key: 'date', title: 'Due', render: ({ date }) => <Day date={date} /> },
            {
              key: 'amount',
              title: 'Installment',
              width: 100,
              right: true,
              render: ({ amount }) => <Money cents={amount} strong />,
            },
            {
              key: 'principal',
              title: 'Principal',
              width: 100,
              right: true,
              render: ({ principal }) => <Money cents={principal} />,
            },
            {
              key: 'interest',
              title: 'Interest',
              width: 84,
              right: true,
              render: ({ interest }) => <Money cents={interest} />,
            },
            {
              key: 'left',
              title: 'Then left',
              width: 100,
              right: true,
              render: ({ left }) => <Money cents={left} />,
            },
          ]}
        />
      )}
    </DeskDrawer>
  );
}

const Term = ({
  label,
  wrong,
  children,
}: {
  label: string;
  /** What is wrong with what was typed. */
  wrong?: string | undefined;
  children: React.ReactNode;
}) => (
  <label>
    <span>{label}</span>
    {children}
    {wrong && (
      <span role="alert" className="small stop">
        {wrong}
      </span>
    )}
  </label>
);

/** What terms cost. */
const Offer = ({ quote }: { quote: PlanQuote }) => (
  <dl>
    <dt>Installment</dt>
    <dd>
      <Money cents={quote.level} strong />
    </dd>
    <dt>How many</dt>
    <dd>{quote.installments.length}</dd>
    <dt>Until</dt>
    <dd>{formatDate(quote.installments.at(-1)!.date)}</dd>
    <dt>Finance charge</dt>
    <dd>
      <Money cents={quote.financeCharge} />
    </dd>
    <dt>Total of payments</dt>
    <dd>
      <Money cents={quote.total} />
    </dd>
    <dt>Annual percentage rate</dt>
    <dd>{quote.apr.toFixed(2)} %</dd>
  </dl>
);
