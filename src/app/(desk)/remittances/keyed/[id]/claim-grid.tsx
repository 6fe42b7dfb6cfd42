'use client';
import { Button, Input, Select } from 'antd';
import { type KeyboardEvent, useRef, useState } from 'react';
import { formatDate } from '../../../../../core/calendar';
import { type Cents, add, formatMoneyPlain, minus, negate, sum, toDecimal } from '../../../../../core/money';
import {
  type KeyedLine,
  NOT_TYPED,
  type TypedLine,
  takeLine,
  takesBack,
  typedOf,
  typedReasons,
} from '../../../../../core/remittances/keyed';
import { remitStatus } from '../../../../../core/remittances/status';
import type { KeyedClaimShown } from '../../../../../server/remittances/keyed-page';
import { useAct } from '../../../../../ui/act';
import { Money } from '../../../../../ui/figures';
import { Panel } from '../../../../../ui/page';
import { saveKeyedClaimAction } from '../../actions';
import css from './keyed.module.css';

const COLUMNS = [
  { key: 'allowed', title: 'Allowed' },
  { key: 'deductible', title: 'Deductible' },
  { key: 'coinsurance', title: 'Coinsurance' },
  { key: 'copay', title: 'Copay' },
  { key: 'paid', title: 'Paid' },
] as const;
type Field = keyof TypedLine;
const STATUSES = ['1', '2', '3', '4', '19', '20', '21', '22'];

/** What Enter would take in a field where nothing is typed, shown in it: of a line of which something is typed, what is expected still. */
const proposed = (expected: KeyedLine | null, typed: TypedLine, field: Field): string => {
  const reasons = typed.reasons !== '';
  if (!expected || (reasons && field !== 'reasons')) return '';
  if (typed.allowed !== '' && field !== 'allowed' && field !== 'reasons') return '';
  if (field === 'paid' && Object.values(typed).some((text) => text !== '')) return '';
  if (field === 'reasons') return typedReasons(expected);
  const amount = expected[field];
  return amount === null || (amount === 0 && field !== 'paid') ? '' : toDecimal(amount);
};

/**
 * The lines of a claim, for the keyboard: Enter takes what is expected where nothing is typed, else what is typed, and leads to the next
 * line; the last one keeps the claim.
 */
export function ClaimGrid({
  claim,
  left,
  done,
}: {
  claim: KeyedClaimShown;
  /** What of the payment is left without what is typed here. */
  left: Cents;
  done: () => void;
}) {
  const { busy, run } = useAct();
  const box = useRef<HTMLDivElement>(null);
  const [typed, setTyped] = useState<TypedLine[]>(
    claim.lines.map(({ keyed }) => (keyed ? typedOf(keyed) : NOT_TYPED)),
  );
  const [taken, setTaken] = useState<(KeyedLine | null)[]>(claim.lines.map(({ keyed }) => keyed));
  const [wrong, setWrong] = useState<ReadonlyMap<number, string>>(new Map());
  const [status, setStatus] = useState(claim.status);
  const [payerClaimNumber, setPayerClaimNumber] = useState(claim.payerClaimNumber);
  const focus = (place: number, field: Field = 'allowed'): void => {
    const cell = box.current?.querySelector<HTMLInputElement>(`[data-cell="${place}/${field}"]`);
    cell?.focus();
    cell?.select();
  };
  const keep = async (lines: (KeyedLine | null)[], leaves: boolean): Promise<void> => {
    const done_ = await run(
      () =>
        saveKeyedClaimAction({
          keyedClaimId: claim.id,
          status,
          payerClaimNumber,
          lines: lines.filter((line) => line !== null),
          seen: claim.version,
        }),
      leaves ? `${claim.controlNumber} is kept` : undefined,
    );
    if (done_) done();
  };
  const enter = (place: number): void => {
    const line = claim.lines[place]!;
    const found = takeLine(line.number, line, typed[place]!, line.expected);
    if (typeof found === 'string') {
      setWrong(new Map(wrong).set(place, found));
      return;
    }
    const rest = new Map(wrong);
    rest.delete(place);
    setWrong(rest);
    setTyped(typed.map((one, index) => (index === place ? typedOf(found) : one)));
    const lines = taken.map((one, index) => (index === place ? found : one));
    setTaken(lines);
    const next = [...lines.keys()].find((index) => index > place && lines[index] === null);
    const other = next ?? lines.findIndex((one) => one === null);
    if (other >= 0) focus(other);
    else void keep(lines, false);
  };
  /** Keeps what is typed, also of lines that were not entered; what does not add up is said, and nothing is lost. */
  const keepAsItIs = (): void => {
    const faults = new Map<number, string>();
    const lines = taken.map((one, place) => {
      const line = claim.lines[place]!;
      if (one !== null || Object.values(typed[place]!).every((text) => text.trim() === '')) return one;
      const found = takeLine(line.number, line, typed[place]!, line.expected);
      if (typeof found !== 'string') return found;
      faults.set(place, found);
      return null;
    });
    setWrong(faults);
    if (faults.size > 0) focus([...faults.keys()][0]!);
    else void keep(lines, true);
  };
  const keys = (event: KeyboardEvent<HTMLInputElement>, place: number, field: Field): void => {
    if (event.key === 'Enter') enter(place);
    else if (event.key === 'ArrowDown') focus(place + 1, field);
    else if (event.key === 'ArrowUp') focus(place - 1, field);
    else if (event.key === 'Escape') keepAsItIs();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const set = (place: number, field: Field, text: string): void => {
    setTyped(typed.map((one, index) => (index === place ? { ...one, [field]: text } : one)));
    setTaken(taken.map((one, index) => (index === place ? null : one)));
  };
  const paid = sum(taken.flatMap((line) => (line === null ? [] : [line.paid])));
  const signed = takesBack(status) ? negate(paid) : paid;
  return (
    <Panel title={`${claim.controlNumber}, ${claim.patient}`}>
      <div className={css.about}>
        <label>
          Decided as{' '}
          <Select
            aria-label="Decided as"
            size="small"
            className={css.status}
            value={status}
            onChange={setStatus}
            options={STATUSES.map((value) => ({ value, label: remitStatus(value)?.words ?? value }))}
          />
        </label>
        <label>
          Payer’s claim number{' '}
          <Input
            aria-label="Payer’s claim number"
            size="small"
            className={css.theirs}
            value={payerClaimNumber}
            onChange={(event) => setPayerClaimNumber(event.target.value)}
          />
        </label>
        <span>
          This claim <Money cents={signed} strong /> · left of the payment{' '}
          <Money cents={add(minus(left, signed), claim.paid)} strong />
        </span>
      </div>
      <div ref={box}>
        <table className={css.grid} aria-label={`Lines of ${claim.controlNumber}`}>
          <thead>
            <tr>
              <th>Service</th>
              <th className={css.right}>Charge</th>
              {COLUMNS.map(({ key, title }) => (
                <th key={key} className={css.right}>
                  {title}
                </th>
              ))}
              <th>Other reasons and remarks</th>
            </tr>
          </thead>
          <tbody>
            {claim.lines.map((line, place) => (
              <tr key={line.number} className={taken[place] === null ? undefined : css.taken}>
                <td>
                  {line.code} {line.modifiers.join(' ')} {line.words}
                  <div className="quiet small">
                    {formatDate(line.date)}
                    {line.units === 1 ? '' : ` · ${line.units} units`}
                  </div>
                </td>
                <td className={css.right}>{formatMoneyPlain(line.charge)}</td>
                {COLUMNS.map(({ key, title }) => (
                  <td key={key} className={css.right}>
                    <Input
                      size="small"
                      className={css.amount}
                      inputMode="decimal"
                      aria-label={`${title} of ${line.code}, line ${line.number}`}
                      data-cell={`${place}/${key}`}
                      autoFocus={place === 0 && key === 'allowed'}
                      placeholder={proposed(line.expected, typed[place]!, key)}
                      value={typed[place]![key]}
                      onFocus={(event) => event.target.select()}
                      onChange={(event) => set(place, key, event.target.value)}
                      onKeyDown={(event) => keys(event, place, key)}
                    />
                  </td>
                ))}
                <td>
                  <Input
                    size="small"
                    aria-label={`Reasons of ${line.code}, line ${line.number}`}
                    data-cell={`${place}/reasons`}
                    placeholder={proposed(line.expected, typed[place]!, 'reasons') || 'CO-97 12.00 N130'}
                    value={typed[place]!.reasons}
                    onChange={(event) => set(place, 'reasons', event.target.value)}
                    onKeyDown={(event) => keys(event, place, 'reasons')}
                  />
                  {wrong.has(place) && (
                    <div role="alert" className="warn small">
                      {wrong.get(place)}
                    </div>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className={css.about}>
        <Button loading={busy} onClick={keepAsItIs}>
          {taken.every((line) => line !== null) ? 'Keep it' : 'Keep it unfinished'}
        </Button>
        <span className="quiet small">
          Enter takes what stands in grey, else what is typed; arrows move; Escape keeps it as it is. What is
          left of the charge is paid unless it is typed.
        </span>
      </div>
    </Panel>
  );
}
