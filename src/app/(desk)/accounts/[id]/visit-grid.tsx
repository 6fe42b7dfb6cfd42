'use client';
import { Button, Input } from 'antd';
import { useEffect, useRef, useState } from 'react';
import { parseDate } from '../../../../core/calendar';
import { ZERO, sum, toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { PreviewLine } from '../../../../server/accounts/visits';
import type { ProposedLine } from '../../../../server/setup/charge-sets';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct, useOnce } from '../../../../ui/act';
import { DateInput } from '../../../../ui/date-input';
import { Money } from '../../../../ui/figures';
import { enterVisitAction, previewVisitAction } from '../actions';
import css from './account.module.css';
import { amountOf, modifiersOf, pointedOf } from './typed-line';

/** A service that stands there to be entered; texts as they are typed. */
interface GridLine {
  key: number;
  code: string;
  units: string;
  modifiers: string;
  tooth: string;
  surfaces: string;
  area: string;
  points: string;
  fee: string;
}
type Column = Exclude<keyof GridLine, 'key' | 'code'>;

const COLUMNS: readonly { name: Column; title: string; dental?: boolean }[] = [
  { name: 'units', title: 'Units' },
  { name: 'modifiers', title: 'Modifiers' },
  { name: 'tooth', title: 'Tooth', dental: true },
  { name: 'surfaces', title: 'Surfaces', dental: true },
  { name: 'area', title: 'Area', dental: true },
  { name: 'points', title: 'Points to', dental: false },
  { name: 'fee', title: 'Fee' },
];

type Head = Omit<Parameters<typeof previewVisitAction>[0], 'lines'> & { who: string };

/** What the server says of the lines that stand there. */
function usePreviews(head: Omit<Head, 'who'>, lines: Parameters<typeof previewVisitAction>[0]['lines']) {
  const [found, setFound] = useState<{ lines: PreviewLine[]; refused: string; at: string }>(NOTHING);
  const text = JSON.stringify({ ...head, lines });
  useEffect(() => {
    let here = true;
    const timer = setTimeout(() => {
      const asked = JSON.parse(text) as Parameters<typeof previewVisitAction>[0];
      if (asked.lines.length === 0 || parseDate(String(asked.serviceDate)) === null) return;
      void previewVisitAction(asked).then((result) => {
        if (!here) return;
        setFound(
          result.ok
            ? { lines: result.value, refused: '', at: '' }
            : { lines: [], refused: result.message, at: Object.keys(result.fields)[0] ?? '' },
        );
      });
    }, 150);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [text]);
  return found;
}
const NOTHING = { lines: [], refused: '', at: '' };

/** Services that are entered together: what differs each time is asked, arrows go from line to line, Enter goes on to what is asked next. */
export function VisitGrid({
  title,
  proposed,
  head,
  choices,
  diagnosed,
  close,
}: {
  title: string;
  proposed: readonly ProposedLine[];
  head: Head;
  choices: QuickChoices;
  /** The diagnoses of the visit. */
  diagnosed: readonly string[];
  close: () => void;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const table = useRef<HTMLTableElement>(null);
  const { who, ...asked } = head;
  const [date, setDate] = useState(String(head.serviceDate));
  const serviceOf = (code: string) => choices.services.find((item) => item.code === code);
  const [lines, setLines] = useState<GridLine[]>(() =>
    proposed.map((line, key) => ({
      key,
      code: line.code,
      units:
        line.minutes !== null
          ? String(line.minutes)
          : `${line.units ?? 1}${(serviceOf(line.code)?.unitMinutes ?? null) === null ? '' : 'u'}`,
      modifiers: (line.modifiers ?? serviceOf(line.code)?.modifiers ?? []).join(' '),
      tooth: '',
      surfaces: '',
      area: '',
      points: '',
      fee: line.fee,
    })),
  );
  const isTimed = (code: string): boolean => (serviceOf(code)?.unitMinutes ?? null) !== null;
  const isDental = (code: string): boolean => serviceOf(code)?.form === 'dental';
  const columns = COLUMNS.filter(
    ({ dental }) => dental === undefined || lines.some(({ code }) => isDental(code) === dental),
  );
  const has = (column: (typeof COLUMNS)[number], line: GridLine): boolean =>
    column.dental === undefined || column.dental === isDental(line.code);
  const sent = lines.map((line) => ({
    code: line.code,
    ...amountOf(line.units, isTimed(line.code)),
    modifiers: modifiersOf(line.modifiers),
    tooth: line.tooth,
    surfaces: line.surfaces,
    area: line.area,
    diagnoses: isDental(line.code) ? [] : pointedOf(line.points, diagnosed),
    fee: line.fee,
  }));
  const preview = usePreviews({ ...asked, serviceDate: date }, sent);
  const cell = (row: number, name: string) =>
    table.current?.querySelector<HTMLInputElement>(`[data-cell="${row}/${name}"]`);
  /** What a line needs and nobody has said. */
  const needed = (line: GridLine): Column | null => {
    const service = serviceOf(line.code);
    if (service?.needsTooth && !line.tooth) return 'tooth';
    if (service?.needsSurface && !line.surfaces) return 'surfaces';
    if (service?.needsArea && !line.area) return 'area';
    return null;
  };
  useEffect(() => {
    // The cursor begins where something is asked.
    const at = lines.findIndex((line) => needed(line) !== null);
    (at === -1 ? cell(0, 'units') : cell(at, needed(lines[at]!)!))?.focus();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  const type = (row: number, name: Column, value: string): void =>
    setLines((now) => {
      const before = now[row]![name];
      return now.map((line, at) => {
        // A tooth is asked once: lines that need one and have what this one had take it along.
        const along =
          at > row && name === 'tooth' && line.tooth === before && serviceOf(line.code)?.needsTooth === true;
        return at === row || along ? { ...line, [name]: value } : line;
      });
    });
  const enter = async (): Promise<void> => {
    if (busy || lines.length === 0) return;
    const done = await run(
      (sure) => enterVisitAction({ ...sure, ...asked, serviceDate: date, lines: sent, key: press.key() }),
      (ids) => `${counted(ids.length, 'service')} ${head.planned ? 'planned' : 'entered'}`,
    );
    if (!done) return;
    press.next();
    close();
  };
  const keys = (event: React.KeyboardEvent, row: number, name: string): void => {
    const { key, target } = event;
    if (key === 'Escape') {
      event.preventDefault();
      event.stopPropagation();
      close();
      return;
    }
    if (key === 'ArrowDown' || key === 'ArrowUp') {
      const next = cell(row + (key === 'ArrowDown' ? 1 : -1), name);
      if (!next) return;
      event.preventDefault();
      next.focus();
      return;
    }
    if ((key === 'ArrowRight' || key === 'ArrowLeft') && target instanceof HTMLInputElement) {
      const at = key === 'ArrowRight' ? target.value.length : 0;
      if (target.selectionStart !== at || target.selectionEnd !== at) return;
      const own = columns.filter((column) => has(column, lines[row]!)).map((column) => column.name);
      const next = cell(row, own[own.indexOf(name as Column) + (key === 'ArrowRight' ? 1 : -1)] ?? '');
      if (!next) return;
      event.preventDefault();
      next.focus();
      return;
    }
    if (key === 'Delete' && event.ctrlKey) {
      event.preventDefault();
      setLines((now) => now.filter((_, at) => at !== row));
      setTimeout(() => cell(Math.max(0, row - 1), name)?.focus());
      return;
    }
    if (key !== 'Enter') return;
    event.preventDefault();
    const waits = lines.findIndex((line) => needed(line) !== null);
    if (waits === -1) void enter();
    else cell(waits, needed(lines[waits]!)!)?.focus();
  };
  const total = sum(preview.lines.map(({ fee, tax }) => (fee + tax) as typeof fee));
  const patient = sum(preview.lines.map((line) => line.patient));
  return (
    <section className={css.quickline} aria-label="New visit">
      <div className={css.for}>
        <strong>{title}</strong> for {who} on
        <DateInput label="Date of the visit" value={date} onChange={setDate} onEnter={() => void enter()} />
      </div>
      <div className={css.scrolls}>
        <table ref={table} className={css.grid} aria-label="Services of the visit">
          <thead>
            <tr>
              <th scope="col">Service</th>
              {columns.map(({ name, title: words }) => (
                <th key={name} scope="col">
                  {name === 'units' && lines.some(({ code }) => isTimed(code)) ? 'Units or minutes' : words}
                </th>
              ))}
              <th scope="col" className={css.amount}>
                Patient
              </th>
              <th scope="col" />
            </tr>
          </thead>
          <tbody>
            {lines.map((line, row) => {
              const said = preview.lines[row];
              return (
                <tr key={line.key}>
                  <td>
                    {line.code} <span className="quiet">{serviceOf(line.code)?.description}</span>
                  </td>
                  {columns.map((column) => (
                    <td key={column.name}>
                      {has(column, line) ? (
                        <Input
                          size="small"
                          aria-label={`${column.name === 'units' && isTimed(line.code) ? 'Minutes' : column.title}, line ${row + 1}`}
                          data-cell={`${row}/${column.name}`}
                          value={line[column.name]}
                          placeholder={column.name === 'fee' && said ? toDecimal(said.fee) : ''}
                          {...(needed(line) === column.name || preview.at === `lines.${row}.${column.name}`
                            ? { status: 'warning' as const }
                            : {})}
                          onChange={(event) => type(row, column.name, event.target.value)}
                          onKeyDown={(event) => keys(event, row, column.name)}
                        />
                      ) : (
                        <span className="quiet">–</span>
                      )}
                    </td>
                  ))}
                  <td className={css.amount}>{said ? <Money cents={said.patient} /> : '…'}</td>
                  <td>
                    <Button
                      size="small"
                      type="text"
                      aria-label={`Take ${line.code}, line ${row + 1}, out`}
                      onClick={() => setLines((now) => now.filter(({ key }) => key !== line.key))}
                    >
                      ×
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      <div className={css.for} role="status" aria-label="Estimate of the visit">
        <Button type="primary" loading={busy} disabled={lines.length === 0} onClick={() => void enter()}>
          Enter {counted(lines.length, 'service')}
        </Button>
        <Button onClick={close}>Leave it</Button>
        {preview.refused ? (
          <span className="warn">{preview.refused}</span>
        ) : (
          <span>
            Together <Money cents={total} strong />, expected from the patient{' '}
            <Money cents={preview.lines.length > 0 ? patient : ZERO} strong />
          </span>
        )}
      </div>
    </section>
  );
}
