'use client';
import { useMay } from '../../../ui/desk';
import { Button, Checkbox, Input, Segmented } from 'antd';
import { Link } from '../../../ui/link';
import { useState } from 'react';
import { addDays, type CalendarDate } from '../../../core/calendar';
import { formatMoneyPlain, parseMoney, sum, toDecimal, cents } from '../../../core/money';
import { TENDERS, TENDER_NAMES, type Tender } from '../../../core/payments/tenders';
import { PLAN_STATES } from '../../../core/plans/progress';
import { counted } from '../../../core/words';
import type { Collected } from '../../../server/payments/collect';
import type { RunningPlan } from '../../../server/plans/read';
import { useAct, useOnce } from '../../../ui/act';
import { Choose } from '../../../ui/choose';
import { Day, Money } from '../../../ui/figures';
import { MoneyInput } from '../../../ui/form';
import { useNarrow } from '../../../ui/narrow';
import { Head, Toolbar } from '../../../ui/page';
import { type Column, DeskTable } from '../../../ui/table';
import { Tag } from '../../../ui/tag';
import { collectAction } from './actions';
import { PlanViews } from './views';

const WHICH = {
  due: 'Due and behind',
  week: 'Next 7 days',
  month: 'Next 30 days',
  all: 'All that run',
} as const;
type Which = keyof typeof WHICH;

/** What is to be taken of a plan now: what is due, or its next installment. */
const asked = (plan: RunningPlan) => (plan.due > 0 ? plan.due : (plan.next?.amount ?? plan.left));
/** When it is to be taken. */
const when = (plan: RunningPlan): CalendarDate | null => plan.since ?? plan.next?.date ?? null;

function holds(plan: RunningPlan, which: Which, today: CalendarDate): boolean {
  if (which === 'all') return true;
  if (which === 'due') return plan.due > 0 || plan.downLeft > 0;
  const day = when(plan);
  return day !== null && day <= addDays(today, which === 'week' ? 7 : 30);
}

/** The tender and the amount that are typed for a line. */
interface Line {
  amount: string;
  tender: Tender;
  reference: string;
}

/** The plans that run: what is due, and a list of installments that is worked line by line. */
export function PlanBoard({ plans, today }: { plans: readonly RunningPlan[]; today: CalendarDate }) {
  const mayTake = useMay()('take payments');
  const { busy, run } = useAct();
  const press = useOnce();
  const narrow = useNarrow();
  const due = plans.filter((plan) => holds(plan, 'due', today));
  const [which, setWhich] = useState<Which>(due.length > 0 ? 'due' : 'month');
  const [lines, setLines] = useState<Readonly<Record<number, Line>>>({});
  const [came, setCame] = useState<Readonly<Record<number, Collected>>>({});
  const rows = plans
    .filter((plan) => holds(plan, which, today))
    .sort((a, b) => ((when(a) ?? '9') < (when(b) ?? '9') ? -1 : 1));
  const chosen = rows.filter(({ id }) => lines[id]);
  const set = (id: number, part: Partial<Line>): void =>
    setLines((now) => ({ ...now, [id]: { ...now[id]!, ...part } }));
  const choose = (plan: RunningPlan, yes: boolean): void =>
    setLines((now) => {
      const { [plan.id]: _, ...others } = now;
      return yes
        ? { ...others, [plan.id]: { amount: toDecimal(asked(plan)), tender: 'check', reference: '' } }
        : others;
    });
  const total = sum(chosen.map(({ id }) => parseMoney(lines[id]!.amount) ?? cents(0)));
  const take = async (): Promise<void> => {
    const done = await run(
      () =>
        collectAction({ lines: chosen.map(({ id }) => ({ planId: id, ...lines[id]! })), key: press.key() }),
      (all) => `${counted(all.filter(({ receiptId }) => receiptId !== null).length, 'installment')} taken`,
    );
    if (!done) return;
    press.next();
    setCame((now) => ({ ...now, ...Object.fromEntries(done.value.map((one) => [one.planId, one])) }));
    // What was refused stays in its line, with why.
    setLines((now) =>
      Object.fromEntries(
        Object.entries(now).filter(([id]) =>
          done.value.some(({ planId, receiptId }) => planId === Number(id) && receiptId === null),
        ),
      ),
    );
  };
  const columns: Column<RunningPlan>[] = [
    ...(mayTake
      ? [
          {
            key: 'take',
            title: '',
            width: 36,
            render: (plan: RunningPlan) =>
              !plan.closed && (
                <Checkbox
                  aria-label={`Take the installment of ${plan.guarantor}`}
                  checked={lines[plan.id] !== undefined}
                  onChange={({ target }) => choose(plan, target.checked)}
                />
              ),
          },
        ]
      : []),
    {
      key: 'number',
      title: 'Plan',
      width: 76,
      render: (plan) => !plan.closed && <Link href={`/plans/${plan.id}`}>{plan.number}</Link>,
    },
    {
      key: 'account',
      title: 'Account',
      width: 78,
      render: (plan) => !plan.closed && <Link href={`/accounts/${plan.householdId}`}>{plan.account}</Link>,
    },
    { key: 'guarantor', title: 'Guarantor', cut: true, render: (plan) => plan.guarantor },
    ...(narrow
      ? []
      : [
          { key: 'phone', title: 'Phone', width: 82, render: (plan: RunningPlan) => plan.phone },
          {
            key: 'state',
            title: 'State',
            width: 84,
            render: (plan: RunningPlan) => (
              <>
                <Tag>{PLAN_STATES[plan.state]}</Tag>
                {plan.downLeft > 0 && (
                  <div className="small warn">{formatMoneyPlain(plan.downLeft)} down is not made</div>
                )}
              </>
            ),
          },
        ]),
    { key: 'when', title: 'Due', width: 96, render: (plan) => <Day date={when(plan)} /> },
    {
      key: 'behind',
      title: 'Days behind',
      width: 92,
      right: true,
      render: (plan) => (plan.daysBehind > 0 ? <span className="warn">{plan.daysBehind}</span> : '–'),
    },
    ...(narrow
      ? []
      : [
          {
            key: 'paid',
            title: 'Paid',
            width: 84,
            right: true,
            render: (plan: RunningPlan) => <Money cents={plan.paid} />,
          },
        ]),
    { key: 'left', title: 'Left', width: 84, right: true, render: (plan) => <Money cents={plan.left} /> },
    {
      key: 'asked',
      title: 'To take',
      width: 92,
      right: true,
      render: (plan) => <Money cents={asked(plan)} strong />,
    },
  ];
  return (
    <>
      <Head
        title="Plans"
        note={`${counted(plans.length, 'plan runs', 'plans run')} · ${formatMoneyPlain(sum(plans.map(({ left }) => left)))} left · ${formatMoneyPlain(sum(due.map((plan) => plan.due)))} due now`}
      >
        <PlanViews value="board" />
      </Head>
      <Toolbar>
        <Segmented
          aria-label="Which installments"
          value={which}
          onChange={setWhich}
          options={(Object.keys(WHICH) as Which[]).map((value) => ({ value, label: WHICH[value] }))}
        />
      </Toolbar>
      {chosen.length > 0 && (
        <section aria-label="Installments to take">
          <DeskTable<RunningPlan>
            label="Installments to take"
            rows={chosen}
            rowKey={(plan) => plan.id}
            empty=""
            columns={[
              {
                key: 'who',
                title: 'From',
                cut: true,
                render: (plan) => `${plan.guarantor} · ${plan.number}`,
              },
              {
                key: 'amount',
                title: 'Amount',
                width: 120,
                right: true,
                render: (plan) => (
                  <MoneyInput
                    small
                    label={`Amount of ${plan.guarantor}`}
                    value={lines[plan.id]!.amount}
                    onChange={(amount) => set(plan.id, { amount })}
                  />
                ),
              },
              {
                key: 'tender',
                title: 'How',
                width: 130,
                render: (plan) => (
                  <Choose
                    size="small"
                    aria-label={`Tender of ${plan.guarantor}`}
                    value={lines[plan.id]!.tender}
                    onChange={(tender) => set(plan.id, { tender })}
                    options={TENDER_NAMES.map((value) => ({ value, label: TENDERS[value].words }))}
                  />
                ),
              },
              {
                key: 'reference',
                title: 'Check number, reference',
                width: 140,
                render: (plan) => (
                  <Input
                    size="small"
                    aria-label={`${TENDERS[lines[plan.id]!.tender].reference} of ${plan.guarantor}`}
                    value={lines[plan.id]!.reference}
                    onChange={({ target }) => set(plan.id, { reference: target.value })}
                    onPressEnter={() => void take()}
                  />
                ),
              },
              {
                key: 'came',
                title: 'What came of it',
                width: 260,
                cut: true,
                render: (plan) => <span className="warn">{came[plan.id]?.words}</span>,
              },
            ]}
          />
          <Toolbar>
            <Button type="primary" loading={busy} onClick={() => void take()}>
              Take {counted(chosen.length, 'installment')}, {formatMoneyPlain(total)}
            </Button>
          </Toolbar>
        </section>
      )}
      <DeskTable<RunningPlan>
        label="Plans that run"
        fills="page"
        rows={rows}
        rowKey={(plan) => plan.id}
        empty={
          plans.length === 0 ? 'No plan runs: an account that owes has the way to one' : 'Nothing is due then'
        }
        columns={columns}
      />
    </>
  );
}
