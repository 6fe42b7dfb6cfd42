'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { ROUNDINGS, type Raise, type Rounding, WAYS, raised } from '../../../../core/fees/raise';
import { type Cents, ZERO, add, minus, sum, toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { ScheduleChange, ScheduleFee } from '../../../../server/fees/read';
import { useAct } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { DeskDrawer } from '../../../../ui/drawer';
import { Day, Money } from '../../../../ui/figures';
import { LineTable } from '../../../../ui/line-table';
import { Loaded } from '../../../../ui/loaded';
import { Toolbar } from '../../../../ui/page';
import { feeHistoryAction, undoFeesAction } from '../actions';
import { PercentInput, percentOf } from '../percent-input';
import css from './schedule.module.css';

/** Raises the fees that are shown: each as it is and as it would be, before anything is taken into the grid. */
export function RaiseDrawer({
  fees,
  since,
  onClose,
  take,
}: {
  fees: readonly { place: number; fee: ScheduleFee }[];
  since: string;
  onClose: () => void;
  take: (edits: { place: number; key: string; text: string }[], words: string) => void;
}) {
  const [percent, setPercent] = useState('3.5');
  const [rounding, setRounding] = useState<Rounding>('5');
  const [way, setWay] = useState<Raise['way']>('nearest');
  const share = percentOf(percent);
  const by: Raise | null = share === null ? null : { share, rounding, way };
  const now = (amount: Cents): Cents => (by ? raised(amount, by) : amount);
  const more = sum(fees.map(({ fee }) => minus(now(fee.amount!), fee.amount!)));
  return (
    <DeskDrawer
      size={620}
      title={`Raise ${counted(fees.length, 'fee')} ${since}`}
      onClose={onClose}
      footer={
        <Button
          type="primary"
          disabled={by === null || fees.length === 0}
          onClick={() =>
            take(
              fees.flatMap(({ place, fee }) => [
                { place, key: 'amount', text: toDecimal(now(fee.amount!)) },
                ...(fee.facility === null
                  ? []
                  : [{ place, key: 'facility', text: toDecimal(now(fee.facility)) }]),
              ]),
              `raised by ${share! / 100} %`,
            )
          }
        >
          Put them into the grid
        </Button>
      }
    >
      <Toolbar>
        <PercentInput label="By percent" value={percent} onChange={setPercent} />
        <Choose
          aria-label="Rounded"
          value={rounding}
          onChange={setRounding}
          options={Object.entries(ROUNDINGS).map(([value, label]) => ({ value: value as Rounding, label }))}
        />
        <Choose
          aria-label="Which way"
          value={way}
          onChange={setWay}
          options={Object.entries(WAYS).map(([value, label]) => ({ value: value as Raise['way'], label }))}
        />
      </Toolbar>
      <LineTable
        label="Fees as they would be"
        rows={fees}
        rowKey={({ fee }) => fee.code}
        columns={[
          { key: 'code', title: 'Code', width: 76, render: ({ fee }) => fee.code },
          { key: 'what', title: 'Service', render: ({ fee }) => fee.description },
          { key: 'is', title: 'Is', money: ({ fee }) => fee.amount },
          { key: 'becomes', title: 'Becomes', money: ({ fee }) => now(fee.amount!), strong: true },
          { key: 'more', title: 'More', money: ({ fee }) => minus(now(fee.amount!), fee.amount!) },
        ]}
        words={counted(fees.length, 'fee')}
        empty="No fee is shown that could be raised"
      />
      <p className="small quiet">
        Nothing is kept yet: they stand in the grid, where each can be changed, until “Keep” is pressed.
        Together <Money cents={add(more, ZERO)} /> more, for one unit of each.
      </p>
    </DeskDrawer>
  );
}

/** The versions of one fee, and what was done to them. */
export function HistoryDrawer({
  scheduleId,
  code,
  onClose,
}: {
  scheduleId: number;
  code: string;
  onClose: () => void;
}) {
  return (
    <DeskDrawer size={560} title={`History of ${code}`} onClose={onClose}>
      <Loaded of={`${scheduleId}/${code}`} read={() => feeHistoryAction({ scheduleId, code })}>
        {({ versions, changes }) => (
          <>
            <LineTable
              label="What it costs from when"
              rows={versions}
              rowKey={({ from }) => from ?? ''}
              columns={[
                {
                  key: 'from',
                  title: 'From',
                  render: ({ from }) => (from ? <Day date={from} /> : 'the beginning'),
                },
                { key: 'amount', title: 'Fee', money: ({ amount }) => amount },
                { key: 'facility', title: 'In a facility', width: 110, money: ({ facility }) => facility },
              ]}
              empty="It has no fee"
            />
            <p />
            <LineTable
              label="What was done to it"
              rows={changes}
              rowKey={({ changeId }) => String(changeId)}
              columns={[
                { key: 'on', title: 'On', width: 96, render: ({ on }) => <Day date={on} /> },
                { key: 'by', title: 'By', width: 110, render: ({ by }) => by },
                {
                  key: 'from',
                  title: 'From',
                  width: 96,
                  render: ({ from }) => (from ? <Day date={from} /> : 'the beginning'),
                },
                { key: 'before', title: 'Was', money: ({ before }) => before },
                { key: 'after', title: 'Became', money: ({ after }) => after },
                {
                  key: 'words',
                  title: 'How',
                  render: ({ words, undone }) => `${words}${undone ? ' (taken back)' : ''}`,
                },
              ]}
              empty="Nobody has changed it"
            />
          </>
        )}
      </Loaded>
    </DeskDrawer>
  );
}

/** The last changes of a schedule; each can be taken back whole. */
export function ChangesDrawer({
  changes,
  mayChange,
  onClose,
}: {
  changes: readonly ScheduleChange[];
  mayChange: boolean;
  onClose: () => void;
}) {
  const { busy, run } = useAct();
  return (
    <DeskDrawer size={620} title="What was changed" onClose={onClose}>
      <LineTable
        label="Changes"
        rows={changes}
        rowKey={({ id }) => String(id)}
        columns={[
          { key: 'on', title: 'On', width: 96, render: ({ on }) => <Day date={on} /> },
          { key: 'by', title: 'By', width: 110, render: ({ by }) => by },
          {
            key: 'what',
            title: 'What',
            render: ({ fees, from, words }) =>
              `${counted(fees, 'fee')} from ${from ? formatDate(from) : 'the beginning'}${words ? `, ${words}` : ''}`,
          },
          {
            key: 'back',
            title: '',
            width: 120,
            render: ({ id, undone, fees }) =>
              undone ? (
                <span className="quiet">taken back</span>
              ) : mayChange ? (
                <Button
                  size="small"
                  disabled={busy}
                  onClick={() =>
                    void run(
                      () => undoFeesAction({ changeId: id }),
                      `${counted(fees, 'fee')} taken back`,
                    ).then((done) => done && onClose())
                  }
                >
                  Take it back
                </Button>
              ) : null,
          },
        ]}
        empty="Nothing was changed yet"
      />
    </DeskDrawer>
  );
}

/** A schedule as it would be printed, with the ways to take it along. */
export function PaperDrawer({
  name,
  address,
  onClose,
}: {
  name: string;
  address: string;
  onClose: () => void;
}) {
  const file = (format: string): string => `${address}&format=${format}`;
  return (
    <DeskDrawer
      size={760}
      title={`${name} on paper`}
      onClose={onClose}
      footer={
        <>
          <a href={file('pdf')} target="_blank" rel="noreferrer">
            <Button type="primary">Open the PDF</Button>
          </a>{' '}
          <a href={file('xlsx')}>XLSX</a> · <a href={file('csv')}>CSV</a>
        </>
      }
    >
      <iframe className={css.pages} title={`${name} on paper`} src={`${file('pdf')}#view=FitH&toolbar=0`} />
    </DeskDrawer>
  );
}
