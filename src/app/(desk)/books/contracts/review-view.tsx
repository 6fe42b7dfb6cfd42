'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import {
  type ReviewedPayer,
  type ReviewedService,
  daysToPay,
  shareOf,
  shareWords,
} from '../../../../core/fees/review';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { Review } from '../../../../server/fees/review';
import { AmountChart } from '../../../../ui/charts';
import { Choose } from '../../../../ui/choose';
import { DeskDrawer } from '../../../../ui/drawer';
import { Money } from '../../../../ui/figures';
import { useKeys } from '../../../../ui/keys';
import { Link } from '../../../../ui/link';
import { type LineColumn, LineTable } from '../../../../ui/line-table';
import { Head, Panel, Toolbar } from '../../../../ui/page';
import { Period } from '../../../../ui/period';
import { PercentInput, percentOf } from '../../fees/percent-input';
import css from './review.module.css';

/** Bars beyond so many are not read any more. */
const BARS = 10;

/** The yearly look at contracts: payers by the money at stake, and what a raise or another schedule would bring. */
export function ReviewView({ review, payerId }: { review: Review; payerId: number | null }) {
  const { payers, share, schedule, schedules } = review;
  const router = useRouter();
  const [raise, setRaise] = useState(String(share / 100));
  const asked = (next: Record<string, string> = {}): URLSearchParams =>
    new URLSearchParams({
      from: review.from,
      to: review.to,
      raise: String(share / 100),
      ...(schedule ? { schedule: String(schedule.id) } : {}),
      ...next,
    });
  const go = (next: Record<string, string>): void => router.push(`/books/contracts?${asked(next)}`);
  const file = (format: string, more: Record<string, string> = {}): string =>
    `/api/contracts?${asked({ ...more, format })}`;
  useKeys([
    {
      key: 'Escape',
      words: 'back to the books',
      run: () => router.push(payerId ? `/books/contracts?${asked()}` : '/books'),
    },
  ]);
  const payer = payers.find((one) => one.payerId === payerId);
  const columns: LineColumn<ReviewedPayer>[] = [
    {
      key: 'payer',
      title: 'Payer',
      render: (one) => (
        <Link href={`/books/contracts?${asked({ payer: String(one.payerId) })}`}>{one.payer}</Link>
      ),
    },
    { key: 'lines', title: 'Lines', width: 64, right: true, render: ({ lines }) => lines },
    { key: 'office', title: 'Office fee', width: 92, money: ({ office }) => office, sum: true },
    {
      key: 'contract',
      title: 'Contract',
      width: 92,
      money: ({ contract, contractUnits }) => (contractUnits > 0 ? contract : null),
      sum: true,
    },
    { key: 'allowed', title: 'Allowed', width: 92, money: ({ allowed }) => allowed, sum: true },
    { key: 'paid', title: 'Paid', width: 92, money: ({ paid }) => paid, sum: true },
    {
      key: 'stake',
      title: 'Costs us',
      width: 92,
      money: ({ againstOffice }) => againstOffice,
      strong: true,
      sum: true,
    },
    { key: 'best', title: 'Below the best', width: 104, money: ({ againstBest }) => againstBest, sum: true },
    {
      key: 'below',
      title: 'Below contract',
      width: 112,
      right: true,
      render: ({ below, belowAmount }) =>
        below === 0 ? (
          '–'
        ) : (
          <>
            {below} · <Money cents={belowAmount} />
          </>
        ),
    },
    {
      key: 'denied',
      title: 'Refused',
      width: 88,
      right: true,
      render: ({ denied, lines }) =>
        denied === 0 ? '–' : `${denied} · ${shareWords(shareOf(denied, lines))}`,
    },
    { key: 'days', title: 'Days', width: 52, right: true, render: (one) => daysToPay(one) ?? '–' },
    { key: 'raise', title: `+ ${share / 100} %`, width: 92, money: (one) => one.raise, sum: true },
    ...(schedule
      ? [
          {
            key: 'other',
            title: 'By the other',
            width: 96,
            money: (one: ReviewedPayer) => one.other,
            sum: true as const,
          },
        ]
      : []),
  ];
  return (
    <>
      <Head
        title="Contracts"
        note={`${formatDate(review.from)} to ${formatDate(review.to)}, by the money at stake`}
      >
        <a href={file('csv')}>CSV</a>
        <a href={file('xlsx')}>XLSX</a>
        <Link href="/remittances/contract">Line by line</Link>
        <Link href="/books/reports">Reports</Link>
      </Head>
      <Toolbar>
        <Period from={review.from} to={review.to} look={go} />
        <form
          onSubmit={(event) => {
            event.preventDefault();
            if ((percentOf(raise) ?? -1) >= 0) go({ raise: raise.trim() });
          }}
        >
          <PercentInput label="A raise of" value={raise} onChange={setRaise} />
        </form>
        <Choose
          aria-label="By another schedule"
          className={css.schedule}
          value={schedule?.id ?? 0}
          onChange={(id) => go({ schedule: id ? String(id) : '' })}
          options={[
            { value: 0, label: 'No other schedule' },
            ...schedules.map(({ id, name }) => ({ value: id, label: `by “${name}”` })),
          ]}
        />
      </Toolbar>
      {payers.length > 1 && (
        <Panel title="What was allowed, and what the contract costs">
          <AmountChart
            along="payer"
            draws={[
              { key: 'allowed', title: 'Allowed' },
              { key: 'againstOffice', title: 'Costs against the office fee' },
            ]}
            rows={payers
              .slice(0, BARS)
              .map(({ payer: name, allowed, againstOffice }) => ({ payer: name, allowed, againstOffice }))}
          />
        </Panel>
      )}
      <div className={css.payers}>
        <LineTable
          label="Payers"
          rows={payers}
          rowKey={(one) => String(one.payerId)}
          columns={columns}
          words={counted(payers.length, 'payer')}
          empty="No claim of that time went out"
        />
      </div>
      <p className="small quiet">
        Of lines that a payer allowed as the first one: at the office fee and at the contract of each day,
        what it allowed by whomever it is paid, and what the contract costs against the office fee. Below the
        best: against what the payer allows that allows most for the same service.
      </p>
      {payer && (
        <DeskDrawer
          size={900}
          title={payer.payer}
          onClose={() => router.push(`/books/contracts?${asked()}`)}
          footer={
            <a href={file('pdf', { payer: String(payer.payerId) })} target="_blank" rel="noreferrer">
              Two pages to take into the negotiation
            </a>
          }
        >
          <Services payer={payer} other={schedule !== null} share={share} />
        </DeskDrawer>
      )}
    </>
  );
}

/** The services of a payer by the money at stake. */
function Services({ payer, other, share }: { payer: ReviewedPayer; other: boolean; share: number }) {
  return (
    <LineTable
      label={`Services of ${payer.payer}`}
      rows={payer.services}
      rowKey={({ code }) => code}
      columns={[
        { key: 'code', title: 'Code', width: 70, render: ({ code }: ReviewedService) => code },
        { key: 'what', title: 'Service', render: ({ description }) => description },
        { key: 'units', title: 'Units', width: 60, right: true, render: ({ units }) => units || '–' },
        { key: 'office', title: 'Office fee', width: 92, money: ({ office }) => office, sum: true },
        { key: 'allowed', title: 'Allowed', width: 92, money: ({ allowed }) => allowed, sum: true },
        {
          key: 'stake',
          title: 'Costs',
          width: 92,
          money: ({ againstOffice }) => againstOffice,
          strong: true,
          sum: true,
        },
        {
          key: 'best',
          title: 'The best allows',
          width: 160,
          render: ({ best }) =>
            best ? (
              <span className="small">
                {formatMoneyPlain(best.each)}, {best.payer}
              </span>
            ) : (
              '–'
            ),
        },
        { key: 'raise', title: `+ ${share / 100} %`, width: 80, money: (one) => one.raise, sum: true },
        ...(other
          ? [
              {
                key: 'other',
                title: 'By the other',
                width: 90,
                money: (one: ReviewedService) => one.other,
                sum: true as const,
              },
            ]
          : []),
      ]}
      words={counted(payer.services.length, 'service')}
      empty="Nothing was allowed yet"
    />
  );
}
