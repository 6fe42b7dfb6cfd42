'use client';
import { AutoComplete, Button } from 'antd';
import { useCallback, useEffect, useRef, useState } from 'react';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain, toDecimal } from '../../../../../core/money';
import { KEYED_METHODS, KEYED_SOURCES } from '../../../../../core/remittances/keyed';
import { remitStatus } from '../../../../../core/remittances/status';
import { counted } from '../../../../../core/words';
import type {
  KeyedCandidate,
  KeyedClaimShown,
  KeyedPage,
} from '../../../../../server/remittances/keyed-page';
import { WithReason, useAct, useOnce } from '../../../../../ui/act';
import { useMay } from '../../../../../ui/desk';
import { Day, Figure, Figures } from '../../../../../ui/figures';
import { LineTable } from '../../../../../ui/line-table';
import { Link } from '../../../../../ui/link';
import { Line, Notice, Panel } from '../../../../../ui/page';
import { Tag } from '../../../../../ui/tag';
import { Thing } from '../../../../../ui/thing';
import {
  addKeyedClaimAction,
  changeKeyedAction,
  closeKeyedAction,
  dropKeyedAction,
  dropKeyedClaimAction,
  keyedCandidatesAction,
  reopenKeyedAction,
} from '../../actions';
import { HeadForm } from '../head-form';
import { Adjusted } from './adjusted';
import { ClaimGrid } from './claim-grid';
import css from './keyed.module.css';

/** How far a claim is keyed, in words. */
const stateOf = ({ closed, explained, lines }: KeyedClaimShown): string =>
  closed
    ? ''
    : explained
      ? 'whole'
      : `${lines.filter(({ keyed }) => keyed !== null).length} of ${counted(lines.length, 'line')}`;

/** A remittance that is keyed from paper: its claims one by one, with the keyboard, and what is left of the payment always in sight. */
export function KeyedView({ keyed, payers }: { keyed: KeyedPage; payers: { id: number; name: string }[] }) {
  const mayReopen = useMay()('reopen remittances');
  const { busy, run } = useAct();
  const press = useOnce();
  const open = keyed.status === 'open';
  const [number, setNumber] = useState('');
  const [offered, setOffered] = useState<KeyedCandidate[]>([]);
  const [at, setAt] = useState<number | null>(
    open ? (keyed.claims.find(({ explained, closed }) => !explained && !closed)?.id ?? null) : null,
  );
  const [dialog, setDialog] = useState<'head' | 'adjustments' | null>(null);
  const field = useRef<HTMLDivElement>(null);
  // Whether the list's own keys were used since something was typed; and whether Enter just took what was typed.
  const pointed = useRef(false);
  const entered = useRef(false);
  const claim = keyed.claims.find(({ id }) => id === at) ?? null;
  const toNumber = (): void => field.current?.querySelector('input')?.focus();
  const { id: keyedId } = keyed;
  const offer = useCallback(
    async (search: string): Promise<void> => {
      const found = await keyedCandidatesAction({ keyedId, search });
      if (found.ok) setOffered(found.value);
    },
    [keyedId],
  );
  // What is out is offered from the beginning, and anew once some of it is keyed.
  const many = keyed.claims.length;
  useEffect(() => {
    if (open) void offer('');
  }, [open, offer, many]);
  const add = async (text: string): Promise<void> => {
    if (text.trim() === '' || busy) return;
    const done = await run(() =>
      addKeyedClaimAction({ keyedId: keyed.id, controlNumber: text.trim(), key: press.key() }),
    );
    if (!done) return;
    press.next();
    pointed.current = false;
    setNumber('');
    setAt(done.value);
  };
  const close = (rest: boolean): void =>
    void run(
      () => closeKeyedAction({ keyedId: keyed.id, rest }),
      ({ posted, unmatched }) =>
        `${counted(posted, 'claim')} posted${unmatched > 0 ? `, ${unmatched} held: see the remittance` : ''}`,
    );
  const whole = keyed.claims.every(({ explained }) => explained);
  const said = keyed.claims.length > 0 || keyed.applied !== 0 || keyed.amount > 0;
  return (
    <Thing
      title={keyed.payer}
      note={
        <Line>
          <Tag tone={open ? 'look' : undefined}>
            {open ? 'being keyed' : keyed.status === 'closed' ? 'closed and posted' : 'dropped'}
          </Tag>
          <span>
            {[
              `${KEYED_METHODS[keyed.method]} ${keyed.trace}`,
              formatDate(keyed.paymentDate),
              `received ${formatDate(keyed.receivedDate)} by ${KEYED_SOURCES[keyed.source]}`,
              ...keyed.references,
              `keyed by ${keyed.by}`,
            ].join(' · ')}
          </span>
        </Line>
      }
      back={{
        href: '/remittances/keyed',
        words: 'back to the list',
        first: () => {
          if (dialog === null) return false;
          setDialog(null);
          return true;
        },
      }}
      acts={[
        open &&
          whole &&
          said &&
          keyed.left === 0 && {
            words: 'Close and post',
            key: 's',
            kind: 'money',
            rank: 'main',
            busy,
            does: () => close(false),
          },
        open &&
          whole &&
          keyed.left > 0 && {
            words: `Close: ${formatMoneyPlain(keyed.left)} waits in the payer’s credit`,
            key: 'w',
            kind: 'money',
            rank: 'waits',
            busy,
            does: () => close(true),
          },
        open && {
          words: 'Interest and offsets',
          key: 'i',
          kind: 'money',
          rank: 'often',
          does: () => setDialog('adjustments'),
        },
        open && {
          words: 'Change its head',
          key: 'e',
          kind: 'record',
          rank: 'often',
          does: () => setDialog('head'),
        },
      ]}
      beside={
        open ? (
          <WithReason
            words="Drop it"
            ask="Why is it dropped?"
            size="middle"
            danger
            act={(why) => run(() => dropKeyedAction({ keyedId: keyed.id, why }), 'Dropped')}
          />
        ) : (
          keyed.status === 'closed' &&
          (mayReopen || keyed.claims.length === 0) && (
            <WithReason
              words={keyed.claims.length === 0 ? 'Explain it' : 'Open again'}
              ask="Why is it opened again?"
              size="middle"
              act={(why) =>
                run(() => reopenKeyedAction({ keyedId: keyed.id, why }), 'What it had posted is reversed')
              }
            />
          )
        )
      }
    >
      {dialog === 'head' && (
        <HeadForm
          title="The head of the paper"
          words="Keep"
          payers={payers}
          initial={{
            payerId: keyed.payerId,
            amount: toDecimal(keyed.amount),
            method: keyed.method,
            trace: keyed.trace,
            paymentDate: keyed.paymentDate,
            receivedDate: keyed.receivedDate,
            source: keyed.source,
            references: keyed.references.join(', '),
          }}
          action={({ key: _, ...head }) =>
            changeKeyedAction({ ...head, keyedId: keyed.id, seen: keyed.version })
          }
          done={() => setDialog(null)}
          onClose={() => setDialog(null)}
        />
      )}
      {dialog === 'adjustments' && <Adjusted keyed={keyed} onClose={() => setDialog(null)} />}
      {keyed.status === 'open' && keyed.why !== '' && <Notice>Opened again: {keyed.why}</Notice>}
      {keyed.status === 'dropped' && <Notice>Dropped: {keyed.why}</Notice>}
      <Figures label="The payment">
        <Figure words="Payment" cents={keyed.amount} />
        <Figure words="Keyed" cents={keyed.applied} />
        <Figure words="Left" cents={keyed.left} owed={keyed.left !== 0} />
      </Figures>
      {keyed.made.length > 0 && (
        <p>
          {keyed.made.map(({ id, reversed }, index) => (
            <span key={id}>
              {index > 0 && ' · '}
              <Link href={`/remittances/${id}`}>
                {reversed ? 'what was posted before, reversed' : 'what it posted'}
              </Link>
            </span>
          ))}
        </p>
      )}
      {open && (
        <div className={css.add} ref={field}>
          <AutoComplete
            autoFocus
            aria-label="Claim number"
            className={css.number}
            placeholder="Claim number, or a name …"
            value={number}
            defaultActiveFirstOption={false}
            onChange={(text: string) => {
              pointed.current = false;
              setNumber(text);
              void offer(text);
            }}
            // What was typed is taken as it is, whatever the list, which may come later, has lit.
            onSelect={(text: string) => {
              if (!entered.current) void add(text);
            }}
            onInputKeyDown={(event) => {
              if (event.key === 'ArrowDown' || event.key === 'ArrowUp') pointed.current = true;
              // What somebody has pointed at in the list is chosen by the list.
              else if (event.key === 'Enter' && !pointed.current) {
                entered.current = true;
                setTimeout(() => (entered.current = false), 0);
                void add(number);
              }
              // The page has its keys again once the field is left.
              else if (event.key === 'Escape' && event.target instanceof HTMLElement) event.target.blur();
            }}
            options={offered.map((one) => ({
              value: one.controlNumber,
              label: `${one.controlNumber} · ${one.patient} · ${formatDate(one.date)} · ${formatMoneyPlain(one.charge)}`,
            }))}
          />
          <Button loading={busy} disabled={number.trim() === ''} onClick={() => void add(number)}>
            Add this claim
          </Button>
          <span className="quiet small">
            Type or scan its number, or choose among those that are out; Escape leaves the field.
          </span>
        </div>
      )}
      {open && claim && !claim.closed && (
        <ClaimGrid
          key={claim.id}
          claim={claim}
          left={keyed.left}
          done={() => {
            setAt(null);
            toNumber();
          }}
        />
      )}
      <Panel title="Its claims" below>
        <LineTable
          label="Claims of the paper"
          rows={keyed.claims}
          rowKey={(row) => String(row.id)}
          empty={
            keyed.amount > 0
              ? 'No claim is keyed yet: the payment alone can wait in the payer’s credit'
              : 'No claim is keyed yet'
          }
          words={counted(keyed.claims.length, 'claim')}
          onRowKey={(row, key) => {
            if (key === 'Enter' && open) setAt(row.id);
          }}
          columns={[
            {
              key: 'claim',
              title: 'Claim',
              width: 104,
              render: (row) =>
                row.claimId === null ? '' : <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>,
            },
            {
              key: 'who',
              title: 'Patient',
              render: (row) => (
                <>
                  {row.patient}
                  {row.waitsIn !== '' && (
                    <div className="warn small">{row.waitsIn} speaks of it too, and is not posted yet</div>
                  )}
                  {row.warnings.map((words) => (
                    <div key={words} className="warn small">
                      {words}
                    </div>
                  ))}
                </>
              ),
            },
            { key: 'date', title: 'Service', width: 96, render: (row) => <Day date={row.date} /> },
            {
              key: 'status',
              title: 'As',
              width: 84,
              render: (row) => remitStatus(row.status)?.words ?? row.status,
            },
            { key: 'state', title: 'Keyed', width: 88, render: stateOf },
            { key: 'charge', title: 'Charge', width: 84, money: (row) => row.charge },
            { key: 'paid', title: 'Paid', width: 84, money: (row) => row.paid, strong: true, sum: true },
            {
              key: 'acts',
              title: '',
              width: 148,
              render: (row) =>
                open &&
                !row.closed && (
                  <>
                    <Button size="small" onClick={() => setAt(row.id)}>
                      {row.explained ? 'Look' : 'Key it'}
                    </Button>{' '}
                    <Button
                      size="small"
                      aria-label={`Take out ${row.controlNumber}`}
                      onClick={() =>
                        void run(
                          () => dropKeyedClaimAction({ keyedClaimId: row.id }),
                          `${row.controlNumber} taken out`,
                        )
                      }
                    >
                      Take out
                    </Button>
                  </>
                ),
            },
          ]}
        />
      </Panel>
    </Thing>
  );
}
