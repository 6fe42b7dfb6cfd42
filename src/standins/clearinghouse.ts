/**
 * The simulated clearinghouse: reads claim files from a connection's outbox, answers with TA1, 999 and 277CA, hands good
 * claims to the simulated payers and brings their 835 files. It knows nothing but the files.
 */
import { mkdir, readFile, readdir, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { type CalendarDate, addDays, toX12Date } from '../core/calendar';
import { isNpi } from '../core/claims/npi';
import { type Cents, sum } from '../core/money';
import { type ClaimAcknowledgment, write277CA, write999, writeTa1 } from '../core/x12/acknowledgments';
import { type ReadClaim, read837 } from '../core/x12/claim837';
import { type Interchange, type TransactionSet, readSets } from '../core/x12/interchange';
import { type ListedPayer, writePayerList } from '../core/payers/payer-list';
import type { Transaction } from '../core/payers/words';
import { type RemitClaim, write835 } from '../core/x12/remittance835';
import { X12Error } from '../core/x12/segments';
import { STANDIN_PAYERS } from './payer-book';
import {
  type Accumulators,
  type Finding,
  decide,
  payerClaimNumber,
  remit,
  saysAnew,
  takeBack,
} from './payers';

interface State {
  control: number;
  remittances: number;
  used: Accumulators;
  seen: string[];
  /** What was decided, by the payer's claim number, so that a correction or a void can take it back. */
  decided?: Record<string, RemitClaim>;
  /** What a payer could not take back yet, by its id: it is withheld from a later payment. Cents. */
  owing?: Record<string, Cents>;
  /** Accepted claims that a payer will decide in a later round. */
  waiting: Waiting[];
  /** What a payer decided and says anew from a day on. */
  again?: (Waiting & { on: CalendarDate; finding: Finding })[];
}

/** A claim that a payer has, with who is paid and who is told. */
interface Waiting {
  claim: ReadClaim;
  payee: { name: string; npi: string; taxId: string };
  sender: string;
}

const NAME = 'Tideline Exchange';
const ID = 'TIDELINE';

/**
 * Runs one round on a connection's folders: claims accepted in earlier rounds are decided first, then new files are answered.
 * @param root the connection's folder, with outbox and inbox
 * @returns names of the files put into the inbox
 */
export async function clearinghouseRound(
  root: string,
  stateFile: string,
  today: CalendarDate,
  seed = 'osprey',
): Promise<string[]> {
  const state = await readState(stateFile);
  const files: { name: string; text: string }[] = [];
  if (state.waiting.length > 0 || state.again?.some(({ on }) => on <= today))
    files.push(...payersAnswer(state, today, seed));
  const outbox = join(root, 'outbox');
  const taken: string[] = [];
  for (const name of (await readdir(outbox).catch(() => [])).filter((item) => item.endsWith('.x12')).sort()) {
    files.push(...(await answerFile(await readFile(join(outbox, name), 'utf8'), state, today)));
    taken.push(name);
  }
  if (files.length === 0 && taken.length === 0) return [];
  await mkdir(join(root, 'inbox'), { recursive: true });
  await mkdir(join(root, 'archive', 'out'), { recursive: true });
  for (const file of files) {
    const path = join(root, 'inbox', file.name);
    await writeFile(`${path}.part`, file.text);
    await rename(`${path}.part`, path);
  }
  await writeFile(`${stateFile}.part`, JSON.stringify(state));
  await rename(`${stateFile}.part`, stateFile);
  for (const name of taken) await rename(join(outbox, name), join(root, 'archive', 'out', name));
  return files.map((file) => file.name);
}

/** The payers that it reaches, ours and one that we have nothing to do with. */
const LISTED: readonly ListedPayer[] = [
  ...STANDIN_PAYERS.map(({ payerId: code, name }) => ({
    code,
    name: name.toUpperCase(),
    takes: ['837P', '837D', '835'] as Transaction[],
    needs: [] as Transaction[],
  })),
  {
    code: 'IRW04',
    name: 'IRONWOOD CASUALTY',
    takes: ['837P', '835', '276'],
    needs: ['837P', '835'],
  },
];

/** The name of the file with its list of payers. */
export const PAYER_LIST = 'payers.csv';

/**
 * Delivers the list of payers, unless it did so before.
 * @param root the connection's folder
 * @returns whether it is there anew
 */
export async function payerListRound(root: string): Promise<boolean> {
  const text = writePayerList(LISTED, '1');
  const said = join(root, 'standin-payer-list.csv');
  if ((await readFile(said, 'utf8').catch(() => '')) === text) return false;
  await mkdir(join(root, 'inbox'), { recursive: true });
  const path = join(root, 'inbox', PAYER_LIST);
  await writeFile(`${path}.part`, text);
  await rename(`${path}.part`, path);
  await writeFile(said, text);
  return true;
}

async function readState(path: string): Promise<State> {
  return readFile(path, 'utf8').then(
    (text) => JSON.parse(text) as State,
    () => ({ control: 0, remittances: 0, used: {}, seen: [], waiting: [] }),
  );
}

function envelope(state: State, receiver: string, today: CalendarDate): Interchange {
  state.control += 1;
  return {
    senderQualifier: 'ZZ',
    sender: ID,
    receiverQualifier: 'ZZ',
    receiver,
    controlNumber: String(state.control).padStart(9, '0'),
    date: toX12Date(today).slice(2),
    time: '0600',
    usage: 'T',
  };
}

async function answerFile(
  text: string,
  state: State,
  today: CalendarDate,
): Promise<{ name: string; text: string }[]> {
  const day = toX12Date(today);
  const out: { name: string; text: string }[] = [];
  const put = (kind: string, write: (interchange: Interchange) => string, receiver: string): void => {
    const interchange = envelope(state, receiver, today);
    out.push({ name: `${day}-${interchange.controlNumber}.${kind}`, text: write(interchange) });
  };
  let read: Awaited<ReturnType<typeof readSets>>;
  try {
    read = await readSets([text]);
  } catch (error) {
    if (!(error instanceof X12Error)) throw error;
    const about = {
      controlNumber: text.slice(90, 99),
      date: text.slice(70, 76),
      time: text.slice(77, 81),
      sender: text.slice(35, 50).trim(),
    } as Interchange;
    put('ta1', (interchange) => writeTa1(interchange, about, 'R', '022'), about.sender || 'UNKNOWN');
    return out;
  }
  for (const interchange of read.interchanges)
    put('ta1', (own) => writeTa1(own, interchange, 'A', '000'), interchange.sender);
  for (const set of read.sets) {
    const receiver = set.interchange.sender;
    let claims: ReadClaim[];
    try {
      claims = read837(set);
    } catch (error) {
      if (!(error instanceof X12Error)) throw error;
      const fault = {
        segment: error.place.id,
        position: error.place.segment,
        code: '8',
        ...(error.place.element
          ? { element: { number: String(error.place.element), code: '7', value: '' } }
          : {}),
      };
      put(
        '999',
        (own) =>
          write999(
            own,
            set.group,
            [{ setId: set.setId, controlNumber: set.controlNumber, code: 'R', faults: [fault] }],
            day,
          ),
        receiver,
      );
      continue;
    }
    put(
      '999',
      (own) =>
        write999(
          own,
          set.group,
          [{ setId: set.setId, controlNumber: set.controlNumber, code: 'A', faults: [] }],
          day,
        ),
      receiver,
    );
    put('277', (own) => acknowledge(own, set, claims, state, today), receiver);
  }
  return out;
}

function acknowledge(
  interchange: Interchange,
  set: TransactionSet,
  claims: ReadClaim[],
  state: State,
  today: CalendarDate,
): string {
  const answers = claims.map<ClaimAcknowledgment>((claim) => {
    const statuses = whatIsWrong(claim, state, today);
    const payer = STANDIN_PAYERS.find((item) => item.payerId === claim.payer.payerId);
    if (statuses.length === 0) {
      state.seen.push(claim.controlNumber);
      const payee = {
        name: claim.billing.organization ?? `${claim.billing.last}, ${claim.billing.first}`,
        npi: claim.billing.npi,
        taxId: claim.billing.taxId,
      };
      state.waiting.push({ claim, payee, sender: set.interchange.sender });
    }
    return {
      controlNumber: claim.controlNumber,
      action: statuses.length === 0 ? 'WQ' : 'U',
      amount: claim.total,
      statuses:
        statuses.length > 0
          ? statuses.slice(0, 3)
          : [{ category: 'A2', status: '20', entity: 'PR', text: '' }],
      payerClaimNumber: payer && statuses.length === 0 ? payerClaimNumber(payer, claim) : '',
    };
  });
  const first = claims[0];
  return write277CA(interchange, {
    batch: set.segments.find((segment) => segment.id === 'BHT')?.elements[3] ?? set.controlNumber,
    date: today,
    source: NAME,
    sourceId: ID,
    whole: [],
    claims: answers,
    receiver: { name: set.interchange.sender, id: set.interchange.sender },
    provider: {
      name: first?.billing.organization ?? first?.billing.last ?? '',
      npi: first?.billing.npi ?? '',
    },
    patients: new Map(
      claims.map((claim) => [
        claim.controlNumber,
        { last: claim.patient.last, first: claim.patient.first, memberId: claim.subscriber.memberId },
      ]),
    ),
  });
}

/** What is really wrong with a claim, as claim status codes (code sources 507 and 508). */
function whatIsWrong(claim: ReadClaim, state: State, today: CalendarDate): ClaimAcknowledgment['statuses'] {
  const wrong: ClaimAcknowledgment['statuses'] = [];
  const say = (bad: boolean, category: string, status: string, entity: string): void => {
    if (bad) wrong.push({ category, status, entity, text: '' });
  };
  const payer = STANDIN_PAYERS.find((item) => item.payerId === claim.payer.payerId);
  say(!payer, 'A3', '116', 'PR');
  say(!!payer && !payer.memberId.test(claim.subscriber.memberId), 'A7', '164', 'IL');
  say(!isNpi(claim.billing.npi), 'A7', '562', '85');
  say(!!claim.rendering && !isNpi(claim.rendering.npi), 'A7', '562', '82');
  say(claim.patient.birthDate > today, 'A7', '158', 'QC');
  say(
    claim.lines.some((line) => line.date > today),
    'A7',
    '187',
    '',
  );
  say(sum(claim.lines.map((line) => line.charge)) !== claim.total, 'A8', '400', '');
  say(claim.form === 'professional' && claim.diagnoses.length === 0, 'A6', '254', '');
  say(
    claim.frequency !== '1' && !state.decided?.[claim.payerClaimNumber ?? ''],
    'A3',
    // Payer assigned claim control number; from memory.
    '464',
    'PR',
  );
  say(claim.frequency === '1' && state.seen.includes(claim.controlNumber), 'A3', '54', '');
  return wrong;
}

function payersAnswer(state: State, today: CalendarDate, seed: string): { name: string; text: string }[] {
  const files: { name: string; text: string }[] = [];
  for (const payer of STANDIN_PAYERS) {
    const isOwn = ({ claim }: Waiting): boolean => claim.payer.payerId === payer.payerId;
    const own = state.waiting.filter(isOwn);
    const again = (state.again ?? []).filter((item) => isOwn(item) && item.on <= today);
    const [one] = [...own, ...again];
    if (!one) continue;
    state.remittances += 1;
    state.decided ??= {};
    state.owing ??= {};
    const decided: RemitClaim[] = [];
    for (const { claim, finding } of again) {
      const number = payerClaimNumber(payer, claim);
      const earlier = state.decided[number];
      // One that was replaced or voided meanwhile is another.
      if (!earlier) continue;
      const taken = takeBack(payer, earlier, state.used);
      const said = decide(payer, claim, state.used, seed, finding);
      state.decided[number] = said;
      decided.push(taken, said);
    }
    state.again = (state.again ?? []).filter((item) => !again.includes(item));
    for (const { claim, payee, sender } of own) {
      const earlier = claim.frequency === '1' ? undefined : state.decided[claim.payerClaimNumber ?? ''];
      if (earlier) {
        delete state.decided[claim.payerClaimNumber!];
        // Of a denial there is nothing to take back.
        if (earlier.status !== '4') decided.push(takeBack(payer, earlier, state.used));
      }
      if (claim.frequency === '8') continue;
      const said = decide(payer, claim, state.used, seed);
      state.decided[said.payerClaimNumber] = said;
      decided.push(said);
      const anew = saysAnew(claim, said);
      if (anew)
        state.again.push({ claim, payee, sender, on: addDays(today, anew.days), finding: anew.finding });
    }
    if (decided.length === 0) continue;
    const { owed, ...remittance } = remit(
      payer,
      decided,
      state.remittances,
      today,
      one.payee,
      state.owing[payer.payerId],
    );
    state.owing[payer.payerId] = owed;
    const interchange = envelope(state, one.sender, today);
    const text = write835(
      interchange,
      [remittance],
      toX12Date(today),
      one.claim.form === 'dental' ? 'AD' : 'HC',
    );
    files.push({ name: `${toX12Date(today)}-${payer.payerId}-${interchange.controlNumber}.835`, text });
  }
  state.waiting = [];
  return files;
}
