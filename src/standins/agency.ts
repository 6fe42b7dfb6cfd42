/**
 * The simulated collection agency. It takes hand-overs and notices from its outbox folder, accepts or refuses on the day, and
 * says on later days what came of each: paid in full or in part, disputed, returned, bankrupt, by the number of the placement.
 * At the first turn of a month it says how all stand. It knows nothing but the files and its contract.
 */
import { mkdir, readFile, readdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import Papa from 'papaparse';
import type { CalendarDate } from '../core/calendar';
import {
  type BasisPoints,
  type Cents,
  ZERO,
  add,
  cents,
  least,
  minus,
  parseMoney,
  portion,
} from '../core/money';
import {
  type AgencyAnswer,
  isNotices,
  readNotices,
  writeAgencyAnswers,
  writeAgencyStatement,
} from '../core/overdue/agency';

/** What the agency knows of a placement. Amounts in cents. */
interface Known {
  placement: string;
  placed: Cents;
  balance: Cents;
  collected: Cents;
  fee: Cents;
  paid: Cents;
  on: CalendarDate;
  state: 'accepted' | 'refused' | 'closed';
  /** How many payments it has handed over. */
  payments: number;
}

interface State {
  placements: Record<string, Known>;
  /** Notices that were read, so that one that comes again is not taken twice. */
  notices: string[];
  /** The month of the last statement, `YYYY-MM`. */
  stated: string;
}

/** What was agreed with the practice. */
export interface AgencyContract {
  contingency: BasisPoints;
  pays: 'gross' | 'net';
}

const statePath = (root: string): string => join(root, 'agency-state.json');

async function readState(root: string): Promise<State> {
  const text = await readFile(statePath(root), 'utf8').catch(() => '');
  return text ? (JSON.parse(text) as State) : { placements: {}, notices: [], stated: '' };
}

async function put(root: string, name: string, text: string): Promise<void> {
  await mkdir(join(root, 'inbox'), { recursive: true });
  await writeFile(join(root, 'inbox', `${name}.part`), text);
  await rename(join(root, 'inbox', `${name}.part`), join(root, 'inbox', name));
}

/** The last digit of a placement's number decides what comes of it. */
const digit = (placement: string): number => Number(placement.at(-1));

const answerOf = (
  known: Known,
  result: AgencyAnswer['result'],
  date: CalendarDate,
  words = '',
): AgencyAnswer => ({
  placement: known.placement,
  result,
  date,
  reference: '',
  gross: ZERO,
  fee: ZERO,
  net: ZERO,
  words,
});

/** Hands over a payment. */
function pay(known: Known, gross: Cents, date: CalendarDate, contract: AgencyContract): AgencyAnswer {
  const fee = portion(gross, contract.contingency);
  known.payments += 1;
  known.collected = add(known.collected, gross);
  known.fee = add(known.fee, fee);
  known.paid = add(known.paid, contract.pays === 'net' ? minus(gross, fee) : gross);
  known.balance = minus(known.balance, gross);
  if (known.balance === 0) known.state = 'closed';
  return {
    ...answerOf(known, 'payment', date),
    reference: `${known.placement}-${known.payments}`,
    gross,
    fee,
    net: minus(gross, fee),
  };
}

/** What comes of a placement on a day after it was taken; null when nothing does. */
function later(known: Known, date: CalendarDate, contract: AgencyContract): AgencyAnswer | null {
  const close = (result: AgencyAnswer['result'], words: string): AgencyAnswer => {
    known.state = 'closed';
    known.balance = ZERO;
    return answerOf(known, result, date, words);
  };
  switch (digit(known.placement)) {
    case 1:
    case 7:
      return pay(known, known.balance, date, contract);
    case 2:
    case 8:
      return known.payments === 0
        ? pay(known, least(known.balance, cents(Math.max(1, Math.round(known.placed / 3)))), date, contract)
        : null;
    case 3:
      return known.payments === 0
        ? ((known.payments = -1), answerOf(known, 'disputed', date, 'says it was paid'))
        : null;
    case 4:
    case 9:
      return close('returned', 'cannot be found');
    case 6:
      return close('bankrupt', 'chapter 7');
    default:
      return null;
  }
}

/** One turn of the agency on its folder. @returns names of the files put into the inbox */
export async function agencyRound(
  root: string,
  today: CalendarDate,
  contract: AgencyContract,
): Promise<string[]> {
  const outbox = join(root, 'outbox');
  const names = (await readdir(outbox).catch(() => [])).filter((name) => /\.(csv|json)$/.test(name)).sort();
  const state = await readState(root);
  const before = JSON.stringify(state);
  const answers: AgencyAnswer[] = [];
  for (const name of names.filter((one) => one.endsWith('.csv'))) {
    const text = await readFile(join(outbox, name), 'utf8');
    if (isNotices(text)) takeNotices(state, text, contract);
    else answers.push(...takeHandOver(state, text, today));
  }
  for (const known of Object.values(state.placements)) {
    if (known.state !== 'accepted' || known.on >= today) continue;
    const said = later(known, today, contract);
    if (said) answers.push(said);
  }
  const files: string[] = [];
  if (answers.length > 0) {
    files.push(`agency-answers-${today}-${Date.now()}.csv`);
    await put(root, files[0]!, writeAgencyAnswers(answers, `${Date.now()}`));
  }
  const month = today.slice(0, 7);
  if (state.stated !== month && Object.keys(state.placements).length > 0) {
    if (state.stated !== '') {
      const name = `agency-statement-${month}.csv`;
      await put(root, name, writeAgencyStatement(statementOf(state), month));
      files.push(name);
    }
    state.stated = month;
  }
  if (JSON.stringify(state) !== before) {
    await mkdir(root, { recursive: true });
    await writeFile(statePath(root), JSON.stringify(state));
  }
  if (names.length > 0) await mkdir(join(root, 'archive', 'out'), { recursive: true });
  for (const name of names) await rename(join(outbox, name), join(root, 'archive', 'out', name));
  return files;
}

const statementOf = (state: State) =>
  Object.values(state.placements)
    .filter((known) => known.state !== 'refused')
    .map(({ placement, placed, collected, fee, paid, balance }) => ({
      placement,
      placed,
      collected,
      fee,
      paid,
      balance,
    }));

/** Takes a hand-over; one that is known already is answered as before and not taken twice. */
function takeHandOver(state: State, text: string, today: CalendarDate): AgencyAnswer[] {
  const { data } = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true });
  const lines = data.filter(({ placement }) => placement !== 'end');
  const placement = lines[0]?.placement;
  if (!placement) return [];
  const known = (state.placements[placement] ??= {
    placement,
    placed: lines.reduce((all, { amount }) => add(all, parseMoney(amount ?? '') ?? ZERO), ZERO),
    balance: lines.reduce((all, { amount }) => add(all, parseMoney(amount ?? '') ?? ZERO), ZERO),
    collected: ZERO,
    fee: ZERO,
    paid: ZERO,
    on: today,
    state: digit(placement) === 0 ? 'refused' : 'accepted',
    payments: 0,
  });
  return [
    known.state === 'refused'
      ? answerOf(known, 'refused', today, 'outside our area')
      : answerOf(known, 'accepted', today),
  ];
}

/** Takes notices: what is recalled is closed, what was paid to the practice or corrected is not collected. */
function takeNotices(state: State, text: string, contract: AgencyContract): void {
  for (const { id, placement, kind, amount } of readNotices(text)) {
    const known = state.placements[placement];
    if (!known || state.notices.includes(id)) continue;
    state.notices.push(id);
    if (kind === 'recall') {
      known.state = 'closed';
      known.balance = ZERO;
      continue;
    }
    if (kind === 'resume') {
      known.balance = add(known.balance, amount);
      continue;
    }
    const part = least(amount, known.balance);
    known.balance = minus(known.balance, part);
    if (kind === 'payment') {
      known.collected = add(known.collected, part);
      known.fee = add(known.fee, portion(part, contract.contingency));
    }
    // What is held may be owed again.
    if (known.balance === 0 && kind !== 'hold') known.state = 'closed';
  }
}
