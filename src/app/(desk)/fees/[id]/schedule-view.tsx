'use client';
import { App, Button, Input, Switch } from 'antd';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { pastedFees } from '../../../../core/fees/paste';
import { feeTyped } from '../../../../core/fees/input';
import { type Cents, cents, formatMoneyPlain, minus, parseMoney, toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { ScheduleChange, ScheduleOn } from '../../../../server/fees/read';
import { useAct, useOnce } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { useDesk, useMay } from '../../../../ui/desk';
import { useDialog } from '../../../../ui/dialog';
import { useUnsaved } from '../../../../ui/form';
import { Grid } from '../../../../ui/grid';
import { type Lines, beginLines, putAll } from '../../../../ui/lines';
import { Link } from '../../../../ui/link';
import { Notice, Toolbar } from '../../../../ui/page';
import { Thing } from '../../../../ui/thing';
import { changeFeesAction } from '../actions';
import { ChangesDrawer, HistoryDrawer, PaperDrawer, RaiseDrawer } from './drawers';
import css from './schedule.module.css';

const KINDS = { office: 'office fees', contract: 'contract', discount: 'discount' } as const;

/** An amount as the grid has it. */
const typed = (amount: Cents | null): string => (amount === null ? '' : toDecimal(amount));

/** The lines of a schedule as they stand. */
const linesOf = ({ fees }: ScheduleOn): Lines =>
  beginLines(fees.map(({ amount, facility }) => ({ amount: typed(amount), facility: typed(facility) })));

/** By how much a fee is another than it was, in percent. */
const shareWords = (before: Cents | null, now: string): string => {
  const amount = parseMoney(now);
  if (amount === null || before === null || before === 0 || amount === before) return '';
  const share = Math.round((minus(amount, before) * 1000) / before) / 10;
  return `${share > 0 ? '+' : '−'}${Math.abs(share)} %`;
};

/** The fees of one schedule in a grid: typed, pasted, raised and undone, and kept together from a day on. */
export function ScheduleView({
  schedule,
  beginning,
  changes,
}: {
  schedule: ScheduleOn;
  beginning: boolean;
  changes: readonly ScheduleChange[];
}) {
  const { fees, versions, usedBy } = schedule;
  const may = useMay()('change setup');
  const { today } = useDesk();
  const router = useRouter();
  const { dialog, params, open, close } = useDialog();
  const { modal } = App.useApp();
  const { busy, run } = useAct();
  const press = useOnce();
  const begun = useMemo(() => linesOf(schedule), [schedule]);
  const [lines, setLines] = useState(begun);
  const [words, setWords] = useState('');
  const [only, setOnly] = useState(false);
  // What is kept or taken back is read anew; what was looked for stays.
  const [stamp, setStamp] = useState(schedule.stamp);
  if (stamp !== schedule.stamp) {
    setStamp(schedule.stamp);
    setLines(begun);
    setWords('');
    setOnly(false);
  }
  const [search, setSearch] = useState('');
  const [category, setCategory] = useState('');
  const [wrongPasted, setWrongPasted] = useState<readonly { line: number; words: string }[]>([]);
  const [day, setDay] = useState('');

  const isChanged = (place: number): boolean =>
    (['amount', 'facility'] as const).some(
      (key) => (lines.now[place]?.[key] ?? '').trim() !== begun.now[place]![key],
    );
  const changed = fees.map((_, place) => place).filter(isChanged);
  const wanted = search.trim().toLowerCase();
  const places = fees.flatMap(({ code, description, category: own, amount }, place) =>
    (category === '' || own === category) &&
    (wanted === '' || `${code} ${description}`.toLowerCase().includes(wanted)) &&
    (!only || isChanged(place)) &&
    (may || amount !== null)
      ? [place]
      : [],
  );
  const wrong = new Map(
    changed.flatMap((place) => {
      const faults = (['amount', 'facility'] as const).flatMap((key) => {
        const found = feeTyped((lines.now[place]?.[key] ?? '').trim());
        return found !== null && typeof found === 'object' ? [{ key, words: found.fault }] : [];
      });
      return faults.length > 0 ? [[place, faults] as const] : [];
    }),
  );
  // What is allowed in a facility is a contract's.
  const facilities = schedule.kind === 'contract' || fees.some(({ facility }) => facility !== null);
  const from = beginning ? '' : schedule.on;
  const since = beginning ? 'from the beginning' : `from ${formatDate(schedule.on)}`;
  useUnsaved(changed.length > 0);
  /** Goes somewhere else; what is typed and not kept is asked about once. */
  const leave = (address: string): void => {
    if (changed.length === 0) router.push(address);
    else
      modal.confirm({
        title: 'Leave without keeping?',
        content: `${counted(changed.length, 'fee is', 'fees are')} changed here and not kept.`,
        okText: 'Leave',
        cancelText: 'Go on typing',
        onOk: () => router.push(address),
      });
  };
  const to = (on: string): void => leave(`/fees/${schedule.id}${on === '' ? '' : `?on=${on}`}`);

  const pasted = (cells: string[][], place: number, key: string): void => {
    const byCode = new Map(fees.map(({ code }, at) => [code, at]));
    const known = new Set(byCode.keys());
    // A column of amounts goes into the lines below; what begins with codes goes where these are.
    if (cells.every((row) => row.length === 1)) {
      const below = places.slice(places.indexOf(place));
      setWrongPasted(
        cells.length > below.length
          ? [
              {
                line: below.length + 1,
                words: `there is no room for ${counted(cells.length - below.length, 'line')}`,
              },
            ]
          : [],
      );
      setLines(
        putAll(
          lines,
          cells.slice(0, below.length).map(([text = ''], at) => ({ place: below[at]!, key, text })),
        ),
      );
      return;
    }
    const { taken, wrong: out } = pastedFees(cells, known);
    setWrongPasted(out);
    setWords(`${counted(taken.length, 'fee')} pasted`);
    setLines(
      putAll(
        lines,
        taken.flatMap(({ code, amount, facility }) => [
          { place: byCode.get(code)!, key: 'amount', text: amount },
          ...(facility === '' ? [] : [{ place: byCode.get(code)!, key: 'facility', text: facility }]),
        ]),
      ),
    );
  };
  const keep = async (): Promise<void> => {
    if (busy || changed.length === 0 || wrong.size > 0) return;
    const done = await run(
      (sure) =>
        changeFeesAction({
          ...sure,
          scheduleId: schedule.id,
          from,
          lines: changed.map((place) => ({
            code: fees[place]!.code,
            amount: lines.now[place]!.amount ?? '',
            facility: lines.now[place]!.facility ?? '',
            was: fees[place]!.amount,
          })),
          words,
          key: press.key(),
        }),
      `${counted(changed.length, 'fee')} kept ${since}`,
    );
    if (done) press.next();
  };

  return (
    <>
      <Thing
        title={schedule.name}
        note={`${KINDS[schedule.kind]}${schedule.standard ? ', the usual ones' : ''} · ${counted(fees.filter(({ amount }) => amount !== null).length, 'fee')} ${beginning ? 'from the beginning' : `on ${formatDate(schedule.on)}`}`}
        back={{
          href: '/setup/schedules',
          words: 'back to the schedules',
          first: () => {
            if (dialog) close();
            else if (changed.length > 0) leave('/setup/schedules');
            return dialog !== null || changed.length > 0;
          },
        }}
        acts={[
          may &&
            changed.length > 0 &&
            wrong.size === 0 && {
              words: `Keep ${counted(changed.length, 'fee')} ${since}`,
              key: 's',
              kind: 'record',
              rank: 'main',
              does: () => void keep(),
            },
          may && {
            words: 'Raise',
            key: 'r',
            kind: 'record',
            rank: 'often',
            does: () => open('raise'),
          },
          { words: 'Print', key: 'p', kind: 'paper', rank: 'often', does: () => open('paper') },
          {
            words: 'Compare',
            key: 'c',
            kind: 'record',
            rank: 'often',
            does: { href: `/fees/compare?with=${schedule.id}` },
          },
          {
            words: 'What was changed',
            key: 'h',
            kind: 'record',
            does: () => open('changes'),
          },
        ]}
      >
        <p className="small quiet">
          {usedBy.length === 0 && schedule.kind === 'contract' && 'No plan goes by it yet.'}
          {usedBy.length > 0 && 'Used by '}
          {usedBy.map(({ words: by, href }, index) => (
            <span key={href + by}>
              {index > 0 && ' · '}
              <Link href={href}>{by}</Link>
            </span>
          ))}
        </p>
        <Toolbar>
          <Choose
            aria-label="As of"
            className={css.versions}
            value={
              beginning ? 'beginning' : versions.some(({ from: at }) => at === schedule.on) ? schedule.on : ''
            }
            onChange={to}
            options={[
              {
                value: '',
                label:
                  beginning || versions.some(({ from: at }) => at === schedule.on)
                    ? 'today'
                    : `as of ${formatDate(schedule.on)}`,
              },
              ...versions.map(({ from: at, fees: many }) => ({
                value: at ?? 'beginning',
                label: `${at === null ? 'from the beginning' : `from ${formatDate(at)}`} (${many})`,
              })),
              ...(versions.some(({ from: at }) => at === null)
                ? []
                : [{ value: 'beginning', label: 'from the beginning' }]),
            ]}
          />
          <DateInput
            label="Another day"
            value={day}
            onChange={setDay}
            onEnter={() => day !== '' && to(day)}
          />
          <Button disabled={day === ''} onClick={() => to(day)}>
            As of that day
          </Button>
          <Input
            aria-label="Code or words"
            placeholder="Code or words"
            className={css.search}
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <Choose
            aria-label="Category"
            className={css.versions}
            value={category}
            onChange={setCategory}
            options={[
              { value: '', label: 'Every category' },
              ...[...new Set(fees.map((fee) => fee.category))]
                .sort()
                .map((value) => ({ value, label: value })),
            ]}
          />
          <label className={css.only}>
            <Switch size="small" checked={only} onChange={setOnly} aria-label="Only what is changed" /> only
            changed
          </label>
        </Toolbar>
        {wrong.size > 0 && (
          <p className="small warn" role="status">
            {counted(wrong.size, 'fee is', 'fees are')} not kept as typed:{' '}
            {[...wrong.keys()].map((place) => fees[place]!.code).join(', ')}.
          </p>
        )}
        {wrongPasted.length > 0 && (
          <Notice>
            {counted(wrongPasted.length, 'line')} of what was pasted {wrongPasted.length === 1 ? 'is' : 'are'}{' '}
            left out: {wrongPasted.map(({ line, words: why }) => `line ${line}, ${why}`).join('; ')}.{' '}
            <Button type="link" size="small" onClick={() => setWrongPasted([])}>
              Seen
            </Button>
          </Notice>
        )}
        <Grid
          label={`Fees of ${schedule.name}`}
          lines={lines}
          onLines={may ? setLines : () => undefined}
          wrong={wrong}
          places={places}
          onCells={may ? pasted : undefined}
          named={(place) => fees[place]!.code}
          empty={only ? 'Nothing is changed' : 'No service is found'}
          columns={[
            { key: 'amount', label: 'Fee', width: 104, right: true },
            ...(facilities ? [{ key: 'facility', label: 'In a facility', width: 104, right: true }] : []),
          ]}
          facts={{
            before: [
              {
                key: 'code',
                title: 'Code',
                width: 76,
                render: (place) => <strong>{fees[place]!.code}</strong>,
              },
              { key: 'description', title: 'Service', render: (place) => fees[place]!.description },
              {
                key: 'category',
                title: 'Category',
                width: 96,
                render: (place) => <span className="quiet">{fees[place]!.category}</span>,
              },
            ],
            after: [
              {
                key: 'was',
                title: 'Was',
                width: 124,
                right: true,
                render: (place) =>
                  isChanged(place) ? (
                    <span className="quiet">
                      {was(fees[place]!.amount)}{' '}
                      {shareWords(fees[place]!.amount, lines.now[place]?.amount ?? '')}
                    </span>
                  ) : null,
              },
              {
                key: 'since',
                title: 'Since',
                width: 104,
                render: (place) => {
                  const { code, since: held, amount } = fees[place]!;
                  const said = held ? formatDate(held) : amount === null ? '–' : 'the beginning';
                  return (
                    <Button
                      type="link"
                      size="small"
                      aria-label={`${said}, history of ${code}`}
                      onClick={() => open('history', { code })}
                    >
                      {said}
                    </Button>
                  );
                },
              },
              ...(fees.some(({ next }) => next !== null)
                ? [
                    {
                      key: 'next',
                      title: 'Next',
                      width: 150,
                      render: (place: number) => {
                        const { next } = fees[place]!;
                        return next ? (
                          <span className="quiet">
                            {formatMoneyPlain(cents(next.amount))} from {formatDate(next.from)}
                          </span>
                        ) : null;
                      },
                    },
                  ]
                : []),
            ],
          }}
        />
      </Thing>
      {dialog === 'raise' && may && (
        <RaiseDrawer
          fees={places.flatMap((place) => {
            const fee = fees[place]!;
            return fee.amount === null ? [] : [{ place, fee }];
          })}
          since={since}
          onClose={close}
          take={(edits, said) => {
            setLines(putAll(lines, edits));
            setWords(said);
            setOnly(true);
            close();
          }}
        />
      )}
      {dialog === 'history' && (
        <HistoryDrawer scheduleId={schedule.id} code={params.get('code') ?? ''} onClose={close} />
      )}
      {dialog === 'changes' && <ChangesDrawer changes={changes} mayChange={may} onClose={close} />}
      {dialog === 'paper' && (
        <PaperDrawer
          name={schedule.name}
          address={`/api/fees/${schedule.id}?on=${beginning ? today : schedule.on}`}
          onClose={close}
        />
      )}
    </>
  );
}

const was = (amount: Cents | null): string => (amount === null ? '–' : formatMoneyPlain(amount));
