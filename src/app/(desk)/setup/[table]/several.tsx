'use client';
import { Alert, Button } from 'antd';
import { useState } from 'react';
import type { SetupField } from '../../../../core/setup/fields';
import { counted } from '../../../../core/words';
import { useAct, useOnce } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { useUnsaved } from '../../../../ui/form';
import { Grid } from '../../../../ui/grid';
import { type Line, type Lines, beginLines, filledLines } from '../../../../ui/lines';
import { addRowsAction } from '../actions';

/** A choice by its words or by itself, whatever the case; what is none stays as it is, and is refused. */
const chosen = ({ choices = [] }: SetupField, text: string): string => {
  const wanted = text.trim().toLowerCase();
  const found = choices.find(
    ({ value, label }) => value.toLowerCase() === wanted || label.toLowerCase() === wanted,
  );
  return found?.value ?? text;
};

/** A line as the server takes it. */
const valuesOf = (fields: readonly SetupField[], line: Line, along: Line): Record<string, string | boolean> =>
  Object.fromEntries(
    fields.map((field) => {
      const { name, kind } = field;
      const text = line[name] ?? along[name] ?? '';
      if (kind === 'yes-no') return [name, /^(y|yes|x|1|true)$/i.test(text.trim())];
      return [name, kind === 'choice' || kind === 'code' ? chosen(field, text) : text];
    }),
  );

/** Entering several rows of a table at once, as in a spreadsheet. */
export function Several({
  table,
  noun,
  fields,
  along,
  onClose,
}: {
  table: string;
  noun: readonly [one: string, many: string];
  fields: readonly SetupField[];
  /** What all rows have in common, such as the schedule that they are of. */
  along: Line;
  onClose: () => void;
}) {
  const [lines, setLines] = useState<Lines>(() => beginLines());
  const [wrong, setWrong] = useState<ReadonlyMap<number, { key: string; words: string }[]>>(new Map());
  const [said, setSaid] = useState('');
  const { busy, run } = useAct();
  const press = useOnce();
  const filled = filledLines(lines);
  useUnsaved(filled.length > 0);
  const shown = fields.filter(({ name }) => along[name] === undefined);
  const add = async (): Promise<void> => {
    const places = filled.map(({ place }) => place);
    const answered = await run(
      async () => {
        const answer = await addRowsAction({
          table,
          rows: filled.map(({ line }) => valuesOf(fields, line, along)),
          key: press.key(),
        });
        const found = new Map<number, { key: string; words: string }[]>();
        if (!answer.ok)
          for (const [field, words] of Object.entries(answer.fields)) {
            const [at = '', key = ''] = field.split('.');
            const place = places[Number(at)];
            if (place !== undefined && /^\d+$/.test(at))
              found.set(place, [...(found.get(place) ?? []), { key, words }]);
          }
        setWrong(found);
        setSaid(answer.ok ? '' : answer.message);
        return answer;
      },
      (many) => `${counted(many, ...noun)} added`,
    );
    // Refused, nothing was added and nothing is remembered of the press.
    if (!answered) return;
    press.next();
    onClose();
  };
  return (
    <DeskDrawer size={1000} title={`Several ${noun[1]}`} onClose={onClose}>
      <p className="quiet">
        Copy cells from a spreadsheet and paste them into the first one. Arrows move, Ctrl Z undoes, Ctrl
        Backspace takes a line away.
      </p>
      {said && <Alert type="error" title={said} />}
      <Grid
        label={`Several ${noun[1]}`}
        columns={shown.map(({ name, label, kind, choices }) => ({
          key: name,
          label,
          width:
            kind === 'number' || kind === 'yes-no'
              ? 80
              : kind === 'money' || kind === 'day'
                ? 110
                : undefined,
          right: kind === 'money' || kind === 'number' || kind === 'percent',
          choices: choices?.map((choice) => choice.label),
        }))}
        lines={lines}
        onLines={setLines}
        wrong={wrong}
      />
      <Button type="primary" loading={busy} disabled={filled.length === 0} onClick={() => void add()}>
        Add {counted(filled.length, ...noun)}
      </Button>
    </DeskDrawer>
  );
}
