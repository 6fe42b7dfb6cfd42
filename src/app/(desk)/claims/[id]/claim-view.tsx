'use client';
import { Button, Select, Tabs, Timeline } from 'antd';
import { useRouter, useSearchParams } from 'next/navigation';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import { ORAL_AREAS } from '../../../../core/accounts/oral-areas';
import { formatDate } from '../../../../core/calendar';
import type { OtherPayer } from '../../../../core/claims/content';
import { DELAY_REASONS, type DelayReason } from '../../../../core/claims/delay';
import { WAITING, isIn, isOurs, isReplaceable } from '../../../../core/claims/life';
import { paperPages } from '../../../../core/claims/paper';
import { formatMoneyPlain, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { ClaimPage } from '../../../../server/claims/read';
import { WithReason, useAct, useOnce } from '../../../../ui/act';
import type { Act } from '../../../../ui/acts';
import { ClaimStatus, Findings, claimWords, fixLink } from '../../../../ui/claims';
import { useMay } from '../../../../ui/desk';
import { Day, FeeStrip } from '../../../../ui/figures';
import { useFilter } from '../../../../ui/filters';
import { FormDrawer } from '../../../../ui/form';
import { useNarrow } from '../../../../ui/narrow';
import { type LineColumn, LineTable } from '../../../../ui/line-table';
import { Columns, Facts, Line, Notice, Panel } from '../../../../ui/page';
import { Notices } from '../../notices';
import { Segments } from '../../../../ui/segments';
import { Tag } from '../../../../ui/tag';
import { Thing } from '../../../../ui/thing';
import { Settle } from '../../remittances/settle';
import {
  freeVoidedAction,
  holdClaimAction,
  noteOnClaimAction,
  notOnFileAction,
  payerToldAction,
  printClaimsAction,
  sayDelayAction,
  splitClaimAction,
  toldByHandAction,
  releaseClaimAction,
  replaceClaimAction,
  sendClaimsAction,
  withdrawClaimAction,
} from '../actions';
import css from './claim.module.css';
import { CorrectionPanel } from './correction';

type Claim = Omit<ClaimPage, 'events'> & {
  events: (Omit<ClaimPage['events'][number], 'at'> & { at: string })[];
};
type ClaimLine = Claim['lines'][number];

interface Props {
  claim: Claim;
  text: string;
}

/** One claim: what it says, what is wrong, where its money is, what happened. */
export function ClaimView({ claim, text }: Props) {
  const params = useSearchParams();
  const setPart = useFilter();
  const mayWork = useMay()('work claims');
  const { acts, beside, form } = useActs(claim);
  return (
    <>
      <Thing
        back={{ href: '/claims', words: 'back to the list' }}
        acts={acts}
        beside={beside}
        title={`Claim ${claim.controlNumber}`}
        note={
          <Line>
            <ClaimStatus status={claim.status} />
            <span>
              <Link href={`/accounts/${claim.householdId}?claim=${claim.id}`}>{claim.patient}</Link> ·{' '}
              {claim.caseName && (
                <>
                  <Link href={`/accounts/${claim.householdId}?case=${claim.caseId}`}>{claim.caseName}</Link>{' '}
                  ·{' '}
                </>
              )}
              <Link href={`/payers/${claim.payerId}`}>{claim.payer}</Link> · <Day date={claim.serviceDate} />{' '}
              · {formatMoneyPlain(claim.total)}
            </span>
            {claim.sentBy in SENT_BY && <span>{SENT_BY[claim.sentBy as keyof typeof SENT_BY]}</span>}
            <Chain claim={claim} />
          </Line>
        }
      >
        <Notices notices={claim.notices} />
        {claim.holdReason && (claim.status === 'rejected' || claim.status === 'held') && (
          <Notice>{claim.holdReason}</Notice>
        )}
        {claim.staleSince && !claim.replacedBy && (
          <Notice>
            A payer before it has decided anew since it was sent, on {formatDate(claim.staleSince)}: it tells
            what stands no more. Correct it and send it again, or tell its payer and say so here.
          </Notice>
        )}
        <Tabs
          size="small"
          activeKey={params.get('part') ?? 'claim'}
          onChange={(key) => setPart('part', key)}
          items={[
            {
              key: 'claim',
              label: 'The claim',
              children: (
                <>
                  <Columns wide>
                    <Panel>
                      <Said claim={claim} />
                    </Panel>
                    <div>
                      <Wrong claim={claim} />
                      {claim.correction && (
                        <CorrectionPanel
                          claim={{ ...claim, correction: claim.correction }}
                          mayWork={mayWork}
                        />
                      )}
                    </div>
                  </Columns>
                  <div className={css.lines}>
                    <Lines claim={claim} />
                  </div>
                </>
              ),
            },
            { key: 'x12', label: 'As X12', children: <Segments text={text} /> },
            { key: 'paper', label: 'On paper', children: <OnPaper claim={claim} /> },
            { key: 'life', label: 'What happened', children: <Life claim={claim} /> },
          ]}
        />
      </Thing>
      {form}
    </>
  );
}

/** Which claim this one corrects or voids, and which one does so to it. */
const Chain = ({ claim: { frequency, replaces, replacedBy } }: { claim: Claim }) => (
  <>
    {replaces && (
      <span>
        {{ '1': 'sent anew for', '7': 'corrects', '8': 'voids' }[frequency]}{' '}
        <Link href={`/claims/${replaces.id}`}>{replaces.controlNumber}</Link>
      </span>
    )}
    {replacedBy && (
      <span>
        {{ '1': 'sent anew as', '7': 'corrected by', '8': 'voided by' }[replacedBy.frequency]}{' '}
        <Link href={`/claims/${replacedBy.id}`}>{replacedBy.controlNumber}</Link>
      </span>
    )}
  </>
);

/** What it says in the boxes of the paper form, page by page. */
const OnPaper = ({ claim }: { claim: Claim }) => (
  <>
    <p>
      <a href={`/api/claims/${claim.id}`} target="_blank" rel="noreferrer">
        Claim {claim.controlNumber} as PDF
      </a>
    </p>
    {(claim.form === 'professional' ? paperPages(claim.content) : []).map(({ boxes, lines }, page) => (
      <section key={page} aria-label={`Page ${page + 1}`} className={css.paper}>
        <dl className={css.boxes}>
          {boxes.map(({ box, asks, says }) => (
            <div key={box}>
              <dt>
                <strong>{box}</strong> <span className="quiet">{asks}</span>
              </dt>
              <dd>{says || '–'}</dd>
            </div>
          ))}
        </dl>
        <LineTable
          label="Services, box 24"
          rows={lines.map((line, index) => ({ ...line, key: String(index) }))}
          rowKey={({ key }) => key}
          columns={[
            { key: 'date', title: '24A Date', width: 90, render: ({ date }) => date },
            { key: 'place', title: '24B Place', width: 80, render: ({ place }) => place },
            { key: 'procedure', title: '24D Service', render: ({ procedure }) => procedure },
            { key: 'pointers', title: '24E Points to', width: 110, render: ({ pointers }) => pointers },
            { key: 'charge', title: '24F Charge', width: 110, render: ({ charge }) => charge },
            { key: 'units', title: '24G Units', width: 90, render: ({ units }) => units },
            {
              key: 'own',
              title: '24I, 24J shaded',
              width: 140,
              render: ({ qualifier, id }) => [qualifier, id].filter(Boolean).join(' ') || '–',
            },
            { key: 'npi', title: '24J NPI', width: 110, render: ({ npi }) => npi },
          ]}
          words={counted(lines.length, 'service')}
          empty="No services"
        />
      </section>
    ))}
  </>
);

/** What can be done with the claim as it stands: its acts, those that need a reason, and the form that is open. */
function useActs(claim: Claim): { acts: (Act | false)[]; beside: React.ReactNode; form: React.ReactNode } {
  const may = useMay();
  const { busy, run } = useAct();
  const press = useOnce();
  const router = useRouter();
  const [as, setAs] = useState<'1' | '7' | '8' | null>(null);
  const { id: claimId, status } = claim;
  const account: Act = {
    words: 'Account',
    key: 'o',
    kind: 'record',
    rank: 'often',
    does: { href: `/accounts/${claim.householdId}?claim=${claim.id}` },
  };
  const payment: Act | false = may('take payments') && {
    words: 'Take payment',
    key: 'p',
    kind: 'money',
    rank: 'often',
    does: {
      href: `/accounts/${claim.householdId}?show=payment&claim=${claim.id}&pays=${claim.lines.map(({ chargeId }) => chargeId).join(',')}`,
    },
  };
  if (!may('work claims')) return { acts: [account, payment], beside: null, form: null };
  const sendable =
    !claim.onPaper &&
    (status === 'draft' || status === 'ready' || status === 'rejected') &&
    claim.stops === 0;
  const replaceable = claim.current && claim.frequency !== '8' && isReplaceable(status);
  const acts: (Act | false)[] = [
    claim.onPaper &&
      status === 'ready' && {
        words: 'Print',
        key: 's',
        kind: 'claims',
        rank: 'main',
        busy,
        does: () =>
          void run(() => printClaimsAction({ claimIds: [claimId] }), 'Printed: it is with its payer').then(
            (made) => made && router.push('/claims/prints'),
          ),
      },
    sendable && {
      words: status === 'rejected' ? 'Send again' : 'Send',
      key: 's',
      kind: 'claims',
      rank: 'main',
      busy,
      does: () => void run(() => sendClaimsAction({ claimIds: [claimId] }), 'Sent'),
    },
    status === 'held' && {
      words: 'Let go',
      key: 'g',
      kind: 'claims',
      rank: 'waits',
      does: () => void run(() => releaseClaimAction({ claimId }), 'Let go'),
    },
    replaceable &&
      (claim.unprocessable
        ? {
            words: 'Mend and send anew',
            key: 'c',
            kind: 'claims',
            rank: 'often',
            does: () => setAs('1'),
          }
        : {
            words: 'Correct and send again',
            key: 'c',
            kind: 'claims',
            rank: 'often',
            does: () => setAs('7'),
          }),
    replaceable && {
      words: 'Void with the payer',
      key: 'v',
      kind: 'claims',
      rank: 'often',
      does: () => setAs('8'),
    },
    account,
    payment,
  ];
  const beside = (
    <>
      <WithReason
        size="middle"
        words={claim.noted.length > 0 ? `Note (${claim.noted.length})` : 'Note'}
        ask="What is to be noted?"
        act={(words) =>
          run(() => noteOnClaimAction({ claimId, words, key: press.key() }), 'Noted').then((done) => {
            if (done) press.next();
            return done;
          })
        }
      />
      {isOurs(status) && (
        <WithReason
          size="middle"
          words="Withdraw"
          ask="Why is it withdrawn?"
          act={(why) =>
            run(() => withdrawClaimAction({ claimId, why }), 'Withdrawn; its charges can be billed again')
          }
        />
      )}
      {(status === 'draft' || status === 'ready') && (
        <WithReason
          size="middle"
          words="Hold"
          ask="Why is it held?"
          act={(why) => run(() => holdClaimAction({ claimId, why }), 'On hold')}
        />
      )}
      {isOurs(status) && claim.frequency !== '1' && claim.corrections !== 'replaced' && (
        <WithReason
          size="middle"
          words="Told by telephone or form"
          ask="Who was told, and how?"
          act={(why) => run(() => toldByHandAction({ claimId, why }), 'Noted: it is with the payer')}
        />
      )}
      {claim.staleSince && claim.current && (
        <WithReason
          size="middle"
          words="The payer was told"
          ask="Who was told, and how?"
          act={(why) => run(() => payerToldAction({ claimId, why }), 'Noted')}
        />
      )}
      {isIn(WAITING, status) && (
        <WithReason
          size="middle"
          words="Not on file there"
          ask="Who said so?"
          act={(why) => run(() => notOnFileAction({ claimId, why }), 'It is ours again: send it anew')}
        />
      )}
      {claim.current && claim.frequency === '8' && (status === 'sent' || status === 'accepted') && (
        <WithReason
          size="middle"
          words="Payer confirmed"
          ask="Who confirmed the void?"
          act={(why) =>
            run(() => freeVoidedAction({ claimId, why }), 'Void done; its charges can be billed anew')
          }
        />
      )}
    </>
  );
  return { acts, beside, form: as && <Replace claim={claim} as={as} close={() => setAs(null)} /> };
}

/** Sending again a claim that the payer has: corrected, or as a void. */
function Replace({ claim, as, close }: { claim: Claim; as: '1' | '7' | '8'; close: () => void }) {
  const router = useRouter();
  return (
    <FormDrawer
      title={`${{ '1': 'Send anew', '7': 'Correct', '8': 'Void' }[as]} claim ${claim.controlNumber}`}
      initial={{ payerClaimNumber: claim.payerClaimNumber }}
      along={{ claimId: claim.id, as }}
      action={replaceClaimAction}
      done={(id) => {
        close();
        router.push(`/claims/${id}`);
      }}
      onClose={close}
      words={{ '1': 'Make the claim', '7': 'Make the correction', '8': 'Make the void' }[as]}
    >
      {(f) => (
        <>
          <p className="quiet small">
            {
              {
                '1': 'The payer could not process it and has no claim of it: one is made with the same charges. Mend what was missing, then send it as an original.',
                '7': 'A claim with the same charges is made (frequency 7). Change what was wrong, then send it.',
                '8': 'A claim is made that takes this one back (frequency 8). Once the payer has done so, the charges can be billed anew.',
              }[as]
            }{' '}
            What the payer has decided stays posted until the payer takes it back.
          </p>
          <f.Text
            name="why"
            label={as === '8' ? 'Why it is voided' : 'What is corrected'}
            needed
            focus
            maxLength={300}
          />
          {as !== '1' && (
            <f.Text name="payerClaimNumber" label="The payer’s number of this claim" needed maxLength={50} />
          )}
        </>
      )}
    </FormDrawer>
  );
}

/** Where each thing that the claim says is changed. */
function Changes({ claim }: { claim: Claim }) {
  const link = (place: 'patient' | 'coverage' | 'charge', field: string, line?: number): string =>
    fixLink({ place, field, ...(line ? { line } : {}) }, claim);
  return (
    <p className="small">
      Change <Link href={link('patient', 'last')}>the patient</Link>,{' '}
      <Link href={link('coverage', 'memberId')}>the coverage</Link>
      {claim.lines.map(({ number }) => (
        <span key={number}>
          , <Link href={link('charge', 'modifiers', number)}>line {number}</Link>
        </span>
      ))}
    </p>
  );
}

/** Why it is late, where its limit is past or something is said of that. */
function Late({ claim }: { claim: Claim }) {
  const may = useMay();
  const { busy, run } = useAct();
  const late = claim.findings.some(({ rule }) => rule.startsWith('timely-filing-'));
  if (!may('work claims') || (!late && !claim.delayReason)) return null;
  return (
    <p className="small">
      <label>
        Why it is late (CLM20){' '}
        <Select
          aria-label="Why it is late"
          size="small"
          loading={busy}
          value={claim.delayReason}
          popupMatchSelectWidth={false}
          onChange={(reason) =>
            void run(() => sayDelayAction({ claimId: claim.id, reason: reason as DelayReason }), 'Kept')
          }
          options={[
            { value: '', label: 'nothing is said' },
            ...Object.entries(DELAY_REASONS).map(([value, words]) => ({ value, label: `${value} ${words}` })),
          ]}
        />
      </label>
    </p>
  );
}

/** How it went, where that was no file. */
const SENT_BY = {
  'payer-before': 'handed on by the payer before',
  telephone: 'told by telephone or form',
  paper: 'printed',
} as const;

const PLACES = ['First payer', 'Second payer', 'Third payer'] as const;

/** Another payer of the same services, with what it decided. */
function otherPayer({ coverageOrder, payer, subscriber, decided }: OtherPayer): [string, string] {
  const place = PLACES[coverageOrder - 1] ?? 'Another payer';
  if (!decided) return [place, `${payer.name}, member ${subscriber.memberId || '–'}`];
  const adjusted = [...decided.adjustments, ...decided.lines.flatMap(({ adjustments }) => adjustments)]
    .map(({ group, reason, amount }) => `${group}-${reason} ${formatMoneyPlain(amount)}`)
    .join(', ');
  return [
    place,
    `${payer.name} paid ${formatMoneyPlain(decided.paid)}${decided.date ? ` on ${formatDate(decided.date)}` : ''}${adjusted && `; ${adjusted}`}`,
  ];
}

/** What the claim says. */
function Said({ claim }: { claim: Claim }) {
  const { content: c, transmission } = claim;
  const { patient, subscriber, billing, rendering } = c;
  const { address } = patient;
  return (
    <Facts
      facts={[
        [
          'Patient',
          `${patient.first} ${patient.last}, born ${formatDate(patient.birthDate)}, ${patient.sex}`,
        ],
        ['Address', `${address.line1}, ${address.city} ${address.state} ${address.zip}`],
        [
          'Subscriber',
          `${c.relationship === 'self' ? 'the patient' : `${subscriber.first} ${subscriber.last}`}, member ${subscriber.memberId || '–'}, group ${subscriber.groupNumber || '–'}`,
        ],
        [
          'Payer',
          `${c.payer.name}${c.coverageOrder > 1 ? `, as the ${PLACES[c.coverageOrder - 1]?.toLowerCase() ?? 'next payer'}` : ''}, id ${c.payer.payerId || '–'}${claim.payerClaimNumber && `, its number ${claim.payerClaimNumber}`}`,
        ],
        ...(c.otherPayers ?? []).map(otherPayer),
        ['Billed by', `${billing.organization ?? `${billing.first} ${billing.last}`}, NPI ${billing.npi}`],
        ['Rendered by', rendering && `${rendering.first} ${rendering.last}, NPI ${rendering.npi}`],
        [
          'Done at',
          c.facility && `${c.facility.name}, ${c.facility.address.line1}, ${c.facility.address.city}`,
        ],
        ['Diagnoses', c.diagnoses.map((code, index) => `${index + 1}. ${code}`).join('  ') || 'none'],
        [
          'File',
          transmission &&
            `${transmission.file}${transmission.test ? ' (test)' : ''} · TA1 ${transmission.interchangeAnswer || 'waits'} · 999 ${transmission.groupAnswer || 'waits'}`,
        ],
      ]}
    />
  );
}

/** What is wrong with it, or why nothing can be. */
function Wrong({ claim }: { claim: Claim }) {
  if (isOurs(claim.status))
    return (
      <Panel title="What is wrong">
        <Findings
          findings={claim.findings}
          claim={claim}
          rejected={claim.status === 'rejected' ? claim.holdReason : undefined}
        />
        <Late claim={claim} />
        <Changes claim={claim} />
      </Panel>
    );
  if (claim.status === 'withdrawn')
    return (
      <Panel title="Withdrawn">
        <p className="quiet">
          This claim was withdrawn: it asks for nothing any more. What it billed is on another claim, or can
          be billed again.
        </p>
      </Panel>
    );
  if (claim.replacedBy)
    return (
      <Panel title={claim.replacedBy.frequency === '8' ? 'Voided' : 'Corrected'}>
        <p className="quiet">
          Claim <Link href={`/claims/${claim.replacedBy.id}`}>{claim.replacedBy.controlNumber}</Link> takes
          its place. What the payer has decided here stays posted until the payer takes it back.
        </p>
      </Panel>
    );
  return (
    <Panel title="With the payer">
      <p className="quiet">Sent as it stands here; later changes do not change it.</p>
    </Panel>
  );
}

/** Its lines with their money: what its own payer did, and what came to the patient. */
function Lines({ claim }: { claim: Claim }) {
  const may = useMay();
  const open = may('reverse entries') && claim.status === 'decided';
  const narrow = useNarrow();
  const router = useRouter();
  const { busy, run } = useAct();
  const [chosen, setChosen] = useState<number[]>([]);
  // Lines of a draft can go to a claim of their own.
  const apart =
    may('work claims') &&
    claim.frequency === '1' &&
    !claim.replaces &&
    ['draft', 'ready', 'held'].includes(claim.status) &&
    claim.lines.length > 1;
  const split = async (): Promise<void> => {
    const made = await run(
      () => splitClaimAction({ claimId: claim.id, lines: chosen }),
      'A claim of its own was made',
    );
    if (made) router.push(`/claims/${made.value}`);
  };
  const columns: LineColumn<ClaimLine>[] = [
    {
      key: 'number',
      title: '#',
      width: apart ? 52 : 36,
      render: (line) =>
        apart ? (
          <label>
            <input
              type="checkbox"
              aria-label={`Choose line ${line.number}`}
              checked={chosen.includes(line.number)}
              onChange={({ target }) =>
                setChosen(
                  target.checked
                    ? [...chosen, line.number]
                    : chosen.filter((number) => number !== line.number),
                )
              }
            />{' '}
            {line.number}
          </label>
        ) : (
          line.number
        ),
    },
    {
      key: 'service',
      title: 'Service',
      render: (line) => {
        const said = claim.content.lines.find((item) => item.number === line.number);
        return (
          <>
            {line.leftOut && <Tag>left out</Tag>} {line.code}
            {said && said.modifiers.length > 0 && ` ${said.modifiers.join(' ')}`} {line.description}
            {said?.tooth && ` · tooth ${said.tooth}${said.surfaces}`}
            {said?.area && ` · ${ORAL_AREAS[said.area] ?? said.area}`}
            {said?.prosthesis === 'R' && ' · replacement'}
            {said && said.pointers.length > 0 && (
              <span className="quiet"> · points to {said.pointers.join(', ')}</span>
            )}
          </>
        );
      },
    },
    // The amounts say the same, and need the room.
    ...(narrow
      ? []
      : [
          {
            key: 'strip',
            title: 'Where it is',
            width: 110,
            render: (line: ClaimLine) => <FeeStrip totals={line} />,
          },
        ]),
    { key: 'charge', title: 'Charge', money: (line) => line.charge, sum: true },
    { key: 'allow', title: 'Should allow', money: (line) => line.expectedAllowed, sum: true },
    { key: 'expected', title: 'Should pay', money: (line) => line.expectedPaid, sum: true },
    { key: 'paid', title: 'Paid', money: (line) => line.paidHere, sum: true },
    { key: 'reduced', title: 'Written off', money: (line) => line.reducedHere, sum: true },
    {
      key: 'patient',
      title: 'To patient',
      money: (line) => sum([line.withPatient, line.patientPaid]),
      sum: true,
    },
    { key: 'waiting', title: 'Waiting', money: (line) => line.waitingHere, sum: true },
  ];
  if (open)
    columns.push({
      key: 'act',
      title: 'What can be done',
      width: 190,
      render: ({ chargeId, coverageId, waitingHere }) =>
        waitingHere > 0 ? <Settle chargeId={chargeId} coverageId={coverageId} /> : null,
    });
  return (
    <>
      <LineTable
        label="Lines of the claim"
        rows={claim.lines}
        rowKey={(line) => String(line.number)}
        columns={columns}
        words={counted(claim.lines.length, 'line')}
        empty="This claim has no lines"
      />
      {chosen.length > 0 && (
        <p>
          <Button
            size="small"
            loading={busy}
            disabled={chosen.length >= claim.lines.length}
            onClick={() => void split()}
          >
            Make a claim of its own of {counted(chosen.length, 'line')}
          </Button>
        </p>
      )}
    </>
  );
}

/** What happened to it, step by step. */
const Life = ({ claim }: { claim: Claim }) => (
  <>
    {claim.noted.length > 0 && (
      <ul aria-label="Notes" className={css.noted}>
        {claim.noted.map(({ id, day, by, words }) => (
          <li key={id}>
            {words}{' '}
            <span className="quiet small">
              {by}, <Day date={day} />
            </span>
          </li>
        ))}
      </ul>
    )}
    <Timeline
      className={css.life}
      items={claim.events.map((event) => ({
        color: event.status === 'rejected' ? 'red' : 'green',
        content: (
          <>
            <strong>{claimWords(event.status)}</strong> · {formatDate(event.date)} · {event.words}{' '}
            <span className="quiet">({event.cause})</span>
          </>
        ),
      }))}
    />
  </>
);
