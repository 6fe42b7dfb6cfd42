'use client';
import { Alert, App, Button } from 'antd';
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

/** What people write for yes, and for no; empty is no. */
const YES = /^(y|yes|x|1|true)$/i;
const NO = /^(n|no|0|false|)$/i;

/** A line as the server takes it. */
const valuesOf = (fields: readonly SetupField[], line: Line, along: Line): Record<string, string | boolean> =>
  Object.fromEntries(
    fields.map((field) => {
      const { name, kind, begins } = field;
      const text = line[name] ?? along[name] ?? '';
      // What is left empty is what a new row begins with.
      if (text.trim() === '' && begins !== undefined) return [name, begins];
      if (kind === 'yes-no') return [name, YES.test(text.trim())];
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
  const { modal } = App.useApp();
  const press = useOnce();
  const filled = filledLines(lines);
  useUnsaved(filled.length > 0);
  const close = (): void => {
    if (filled.length === 0) return onClose();
    modal.confirm({
      title: 'Leave without adding?',
      content: `${counted(filled.length, ...noun)} that you entered here would be lost.`,
      okText: 'Leave',
      cancelText: 'Go on typing',
      onOk: onClose,
    });
  };
  const shown = fields.filter(({ name }) => along[name] === undefined);
  const add = async (): Promise<void> => {
    const places = filled.map(({ place }) => place);
    const unclear = shown.filter(({ kind }) => kind === 'yes-no');
    const neither = filled.flatMap(({ line, place }) =>
      unclear
        .filter(({ name }) => !YES.test((line[name] ?? '').trim()) && !NO.test((line[name] ?? '').trim()))
        .map(({ name, label }) => [place, { key: name, words: `${label} is yes or no` }] as const),
    );
    if (neither.length > 0) return setWrong(new Map(neither.map(([place, one]) => [place, [one]])));
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
    <DeskDrawer size={1000} title={`Several ${noun[1]}`} onClose={close}>
      <p className="quiet">
        Copy cells from a spreadsheet and paste them into the first one. Arrows move, Ctrl Z undoes, Ctrl
        Backspace takes a line away.
      </p>
      {said && <Alert type="error" title={said} />}
      <Grid
        label={`Several ${noun[1]}`}
        columns={shown.map(({ name, label, kind, choices, begins }) => ({
          key: name,
          label,
          width:
            kind === 'number' || kind === 'yes-no'
              ? 80
              : kind === 'money' || kind === 'day'
                ? 110
                : undefined,
          right: kind === 'money' || kind === 'number' || kind === 'percent',
          begins: begins === true ? 'yes' : begins === false ? 'no' : begins,
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
