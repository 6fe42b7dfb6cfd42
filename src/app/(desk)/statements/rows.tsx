'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { cents, parseMoney, toDecimal } from '../../../core/money';
import {
  CONDITIONS,
  CONDITION_IDS,
  type ConditionId,
  type ReasonId,
  type SelectionRow,
} from '../../../core/statements/selection';
import type { RunChoices } from '../../../server/statements/run-choices';
import { Choose, Several } from '../../../ui/choose';
import css from './choose.module.css';

/** What the reasons are called when they are counted. */
export const REASON_WORDS: Readonly<Record<ReasonId, string>> = {
  ...(Object.fromEntries(CONDITION_IDS.map((id) => [id, CONDITIONS[id].words.replace(' …', '')])) as Record<
    ConditionId,
    string
  >),
  'not-billable': 'may not be billed',
  'nothing-due': 'nothing is due',
  'on-plan': 'all of it is on a plan',
  'at-agency': 'all of it is with an agency',
  'with-payers': 'all of it is with payers',
  'below-least': 'less than the policy’s least',
  'above-estimate': 'much more than was estimated',
  stop: 'stopped',
  hold: 'held',
  'no-delivery': 'gets none',
  'no-email': 'no e-mail that reaches it',
  'open-piece': 'one is prepared already',
  'no-row-takes-it': 'no row takes it',
  everybody: 'owes',
};

const HEADS = { take: 'Take when', leave: 'Leave out when' } as const;
/** What a condition begins with when it is added. */
const BEGIN: Readonly<Record<string, number>> = { days: 30, months: 6, money: 500 };

/** The rows of one side, each with its number or choice; one more is added by choosing its condition. */
export function Rows({
  side,
  rows,
  choices,
  onChange,
}: {
  side: SelectionRow['side'];
  rows: readonly SelectionRow[];
  choices: RunChoices;
  onChange: (rows: SelectionRow[]) => void;
}) {
  const put = (at: number, row: SelectionRow): void =>
    onChange(rows.map((item, index) => (index === at ? row : item)));
  const offered = [...CONDITION_IDS].sort((a, b) =>
    CONDITIONS[a].side === CONDITIONS[b].side ? 0 : CONDITIONS[a].side === side ? -1 : 1,
  );
  return (
    <fieldset className={css.rows}>
      <legend>{HEADS[side]}</legend>
      {rows.map((row, at) =>
        row.side === side ? (
          <div key={`${row.what}-${at}`} className={css.row}>
            <RowField row={row} choices={choices} onChange={(next) => put(at, next)} />
            <Button
              size="small"
              type="text"
              aria-label={`Remove: ${CONDITIONS[row.what].words}`}
              onClick={() => onChange(rows.filter((_, index) => index !== at))}
            >
              ×
            </Button>
          </div>
        ) : null,
      )}
      {side === 'take' && !rows.some((row) => row.side === 'take') && (
        <p className="quiet small">Everybody who owes is taken.</p>
      )}
      <Choose<ConditionId | ''>
        size="small"
        aria-label={`${HEADS[side]}: add a row`}
        className={css.add}
        showSearch={{ optionFilterProp: 'label' }}
        value=""
        onChange={(what) => {
          if (what === '') return;
          const { asks } = CONDITIONS[what];
          const number = BEGIN[asks];
          const first =
            asks === 'category' || asks === 'site' || asks === 'provider'
              ? choices[asks][0]?.value
              : undefined;
          onChange([
            ...rows,
            {
              side,
              what,
              ...(number === undefined ? {} : { number }),
              ...(first ? { choices: [first] } : {}),
            },
          ]);
        }}
        options={[
          { value: '', label: 'Add a row' },
          ...offered.map((id) => ({ value: id, label: CONDITIONS[id].words })),
        ]}
      />
    </fieldset>
  );
}

/** A condition in words, with its field where the words leave room for it. */
function RowField({
  row,
  choices,
  onChange,
}: {
  row: SelectionRow;
  choices: RunChoices;
  onChange: (row: SelectionRow) => void;
}) {
  const { words, asks } = CONDITIONS[row.what];
  const [before = '', after = ''] = words.split('…');
  if (asks === 'nothing') return <span>{words}</span>;
  if (asks === 'category' || asks === 'site' || asks === 'provider')
    return (
      <span>
        {before}
        <Several<string[]>
          size="small"
          className={css.several}
          aria-label={before.trim()}
          value={row.choices ?? []}
          onChange={(value) => value.length > 0 && onChange({ ...row, choices: value })}
          options={choices[asks]}
        />
      </span>
    );
  return (
    <span>
      {before}
      <NumberField
        money={asks === 'money'}
        label={words.replace('…', asks === 'money' ? 'an amount' : 'so many')}
        value={row.number ?? 0}
        onChange={(number) => onChange({ ...row, number })}
      />
      {after}
    </span>
  );
}

/** A number, or an amount that may be below zero. What is none stays as typed and changes nothing. */
function NumberField({
  money,
  label,
  value,
  onChange,
}: {
  money: boolean;
  label: string;
  value: number;
  onChange: (value: number) => void;
}) {
  const [text, setText] = useState(money ? toDecimal(cents(value)) : String(value));
  const read = (typed: string): number | null =>
    money ? parseMoney(typed) : /^\d{1,4}$/.test(typed.trim()) ? Number(typed) : null;
  return (
    <Input
      size="small"
      className={css.number}
      aria-label={label}
      inputMode={money ? 'decimal' : 'numeric'}
      status={read(text) === null ? 'error' : ''}
      value={text}
      onChange={(event) => {
        setText(event.target.value);
        const next = read(event.target.value);
        if (next !== null && next !== value) onChange(next);
      }}
    />
  );
}
