'use client';
/**
 * Lines that are entered as in a spreadsheet: arrows move, what is copied elsewhere is pasted, Ctrl Z undoes, and what is wrong
 * stands beside its line.
 */
import { App } from 'antd';
import { type ClipboardEvent, type KeyboardEvent, type ReactNode, useRef } from 'react';
import css from './grid.module.css';
import { counted } from '../core/words';
import { type Lines, copiedCells, leftOut, pasteIn, redo, takeAway, typeIn, undo } from './lines';
import { DeskTable } from './table';

/** A column of a grid. */
export interface GridColumn {
  key: string;
  label: string;
  width?: number;
  /** Stands at the right, as amounts do. */
  right?: boolean;
  /** What it is where nothing is typed. */
  begins?: string;
  /** What may be typed, offered while it is. */
  choices?: readonly string[];
}

/** A column beside what is typed, which says something of the line. */
export interface GridFact {
  key: string;
  title: string;
  width?: number;
  right?: boolean;
  render: (place: number) => ReactNode;
}

interface GridProps {
  label: string;
  columns: readonly GridColumn[];
  lines: Lines;
  onLines: (next: Lines) => void;
  /** What is wrong, in words, by the place of the line. */
  wrong: ReadonlyMap<number, { key: string; words: string }[]>;
  /** Columns before those that are typed, and after them; a grid of what is there has these instead of numbers. */
  facts?: { before: readonly GridFact[]; after: readonly GridFact[] };
  /** The lines that are shown, in their order, by their places; all where nothing is said. None is taken away then. */
  places?: readonly number[];
  /** Takes what was pasted into a cell by itself. */
  onCells?: (cells: string[][], place: number, key: string) => void;
  /** What a line is called, in place of its number. */
  named?: (place: number) => string;
  /** What stands where no line is shown. */
  empty?: string;
}

/** A fact as a column of the table. */
const factColumn = ({ render, ...column }: GridFact) => ({
  ...column,
  render: ({ place }: { place: number }) => render(place),
});

/** The grid. */
export function Grid({
  label,
  columns,
  lines,
  onLines,
  wrong,
  facts,
  places,
  onCells,
  named,
  empty = '',
}: GridProps) {
  const rows = places ?? lines.now.map((_, place) => place);
  /** The line that is shown so many below another one. */
  const near = (place: number, by: number): number => rows[rows.indexOf(place) + by] ?? -1;
  const box = useRef<HTMLDivElement>(null);
  const { message } = App.useApp();
  const keys = columns.map(({ key }) => key);
  const focus = (place: number, key: string): boolean => {
    const cell = box.current?.querySelector<HTMLInputElement>(`[data-cell="${place}/${key}"]`);
    cell?.focus();
    cell?.select();
    return cell !== null && cell !== undefined;
  };
  const beside = (key: string, by: number): string | undefined => keys[keys.indexOf(key) + by];
  const onKeyDown = (place: number, key: string) => (event: KeyboardEvent<HTMLInputElement>) => {
    const { selectionStart, selectionEnd, value } = event.currentTarget;
    const control = event.ctrlKey || event.metaKey;
    const taken = (): boolean => {
      if (control && event.key.toLowerCase() === 'z') onLines(event.shiftKey ? redo(lines) : undo(lines));
      else if (control && event.key.toLowerCase() === 'y') onLines(redo(lines));
      else if (control && event.key === 'Backspace' && !places) onLines(takeAway(lines, place));
      else if (event.key === 'ArrowDown' || event.key === 'Enter') return focus(near(place, 1), key);
      else if (event.key === 'ArrowUp') return focus(near(place, -1), key);
      else if (event.key === 'ArrowLeft' && selectionStart === 0 && selectionEnd === 0) {
        const left = beside(key, -1);
        return left !== undefined && focus(place, left);
      } else if (event.key === 'ArrowRight' && selectionStart === value.length) {
        const right = beside(key, 1);
        return right !== undefined && focus(place, right);
      } else return false;
      return true;
    };
    if (taken()) event.preventDefault();
    // Neither the drawer nor the page takes a key of a cell for its own.
    if (event.key !== 'Escape' && event.key !== 'Tab') event.stopPropagation();
  };
  const onPaste = (place: number, key: string) => (event: ClipboardEvent<HTMLInputElement>) => {
    const text = event.clipboardData.getData('text/plain');
    // A word is pasted as everywhere; cells are put into cells.
    if (!/[\t\n]/.test(text)) return;
    event.preventDefault();
    const cells = copiedCells(text);
    if (onCells) return onCells(cells, place, key);
    onLines(pasteIn(lines, place, keys, key, cells));
    const out = leftOut(place, keys, key, cells);
    const said = [
      out.lines > 0 && counted(out.lines, 'line'),
      out.columns > 0 && counted(out.columns, 'column'),
    ].filter(Boolean);
    if (said.length > 0) void message.warning(`There is no room for ${said.join(' and ')} of it: left out`);
  };
  return (
    <div ref={box}>
      {columns.map(
        ({ key, choices }) =>
          choices && (
            <datalist key={key} id={`grid-${key}`}>
              {choices.map((choice) => (
                <option key={choice} value={choice} />
              ))}
            </datalist>
          ),
      )}
      <DeskTable
        label={label}
        fills="list"
        rows={rows.map((place) => ({ line: lines.now[place]!, place }))}
        rowKey={({ place }) => place}
        empty={empty}
        columns={[
          ...(facts
            ? facts.before.map(factColumn)
            : [
                {
                  key: 'line',
                  title: 'Line',
                  width: 44,
                  right: true,
                  render: ({ place }: { place: number }) => <span className="quiet">{place + 1}</span>,
                },
              ]),
          ...columns.map(({ key, label: title, width, right, choices, begins }) => ({
            key,
            title,
            width,
            right,
            render: ({ line, place }: { line: Readonly<Record<string, string>>; place: number }) => (
              <input
                className={right ? `${css.cell} ${css.right}` : css.cell}
                data-cell={`${place}/${key}`}
                aria-label={`${title}, ${named ? named(place) : `line ${place + 1}`}`}
                aria-invalid={wrong.get(place)?.some((one) => one.key === key) || undefined}
                list={choices && `grid-${key}`}
                autoComplete="off"
                placeholder={begins}
                value={line[key] ?? ''}
                onChange={(event) => onLines(typeIn(lines, place, key, event.target.value))}
                onKeyDown={onKeyDown(place, key)}
                onPaste={onPaste(place, key)}
              />
            ),
          })),
          ...(facts?.after.map(factColumn) ?? []),
          // Where there are facts, there is room for it when something is.
          ...(facts && wrong.size === 0
            ? []
            : [
                {
                  key: 'wrong',
                  title: 'What is wrong',
                  render: ({ place }: { place: number }) => (
                    <span className="warn small">
                      {wrong
                        .get(place)
                        ?.map(({ words }) => words)
                        .join('; ')}
                    </span>
                  ),
                },
              ]),
        ]}
      />
    </div>
  );
}
