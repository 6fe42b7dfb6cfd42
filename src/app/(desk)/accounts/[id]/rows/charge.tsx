'use client';
import { Button } from 'antd';
import { isUnbilled, waitsForClaim } from '../../../../../core/accounts/unbilled';
import { ENTRY_KINDS } from '../../../../../core/books/kinds';
import { chargedIn, openIn } from '../../../../../core/books/strip';
import { type Cents, sum } from '../../../../../core/money';
import type { LedgerCharge } from '../../../../../server/accounts/ledger';
import type { LedgerEntry } from '../../../../../server/books/entries';
import { claimWords } from '../../../../../ui/claims';
import { LinkIfSeen } from '../../../../../ui/desk';
import { Day, Money } from '../../../../../ui/figures';
import type { SubLine } from '../../../../../ui/line-table';
import { Link } from '../../../../../ui/link';
import { ReasonTag } from '../../../../../ui/remittances';
import { Tag } from '../../../../../ui/tag';
import css from '../account.module.css';
import { type AccountDesk, useAccount } from '../section';
import { shownCharges } from '../shown-charges';
import { chosenToBill, toggledToBill } from '../to-bill';
import { chargeEntriesAction } from '../../actions';
import { AllocationActs, ChargeActs, Expected, WriteOffActs } from './acts';
import { READING } from './reading';
import type { RowKind } from './row';

/** A charge, with its amounts in the columns and its entries under it. */
export const chargeRow: RowKind<LedgerCharge, LedgerEntry[]> = {
  letter: 'c',
  rows: shownCharges,
  id: ({ id }) => id,
  date: ({ date }) => date,
  What,
  under: ({ id: chargeId }, { account }) =>
    chargeEntriesAction({ householdId: account.household.id, chargeId }),
  lines: chargeLines,
  charge: (charge) => charge,
};

function What({ row: charge }: { row: LedgerCharge }) {
  const { account, shownCase, may, params, set } = useAccount();
  const kase = account.members.flatMap(({ cases }) => cases).find(({ id }) => id === charge.caseId);
  const marks = (
    <>
      {kase && !kase.standing && kase !== shownCase && <span className="small quiet"> for {kase.name} </span>}
      {charge.status === 'planned' && (
        <>
          <Tag>planned</Tag> <Money cents={charge.plannedFee} />{' '}
        </>
      )}
      {charge.keptFromPayers && (
        <>
          <Tag>kept from insurers</Tag>{' '}
        </>
      )}
      {charge.forbidden > 0 && (
        <span className="small warn">
          <Money cents={charge.forbidden} /> may not be billed
        </span>
      )}
    </>
  );
  if (charge.status === 'void')
    return (
      <span className="quiet">
        <Tag>void</Tag>{' '}
        <span className={css.void}>
          {charge.code} {charge.description}
        </span>
      </span>
    );
  return (
    <span>
      {charge.code} {charge.description}
      {charge.units > 1 && ` × ${charge.units}`}
      {charge.tooth && ` · tooth ${charge.tooth}${charge.surfaces}`}{' '}
      {charge.payers.map(
        ({ coverageId, claimId, claimStatus, payer }) =>
          claimId &&
          claimStatus && (
            <LinkIfSeen key={coverageId} to="claims" id={claimId} className="small" title={payer}>
              {claimStatus === 'closed' ? 'claim' : `claim ${claimWords(claimStatus)}`}
            </LinkIfSeen>
          ),
      )}
      {isUnbilled(charge) &&
        (may('work claims') ? (
          <label className="small warn">
            <input
              type="checkbox"
              aria-label={`Bill ${charge.code} of ${charge.patient}, ${charge.date}`}
              checked={chosenToBill(account.charges, params).some(({ id }) => id === charge.id)}
              onChange={() => set('bill', toggledToBill(account.charges, params, charge.id))}
            />{' '}
            {waitsForClaim(charge) ? 'not billed yet' : 'left out of a correction'}
          </label>
        ) : (
          <span className="small warn">not billed yet</span>
        ))}
      {marks}
    </span>
  );
}

/** What an entry moved, under the columns of the charge. */
function entryCells(entry: LedgerEntry, charge: LedgerCharge, householdId: number): SubLine['cells'] {
  const paid = (of: Cents) => (of === 0 ? undefined : <Money cents={of} />);
  return {
    date: <Day date={entry.date} />,
    who: <span className="quiet">{ENTRY_KINDS[entry.kind].label}</span>,
    what: (
      <>
        {entry.memo}
        {entry.by && <span className="quiet"> ({entry.by})</span>}{' '}
        {entry.remittanceId && (
          <LinkIfSeen
            way
            to="remittances"
            id={entry.remittanceId}
            ask={{ account: householdId, charge: charge.id }}
          >
            whole remittance
          </LinkIfSeen>
        )}
        {entry.reasons.map((reason, index) => (
          <div key={index}>
            <ReasonTag code={reason.code} /> {reason.words} <Money cents={reason.amount} />
          </div>
        ))}
      </>
    ),
    ...(entry.kind === 'charge' ? { fee: <Money cents={chargedIn(charge)} /> } : {}),
    payerPaid: paid(entry.paidByPayer),
    patientPaid: paid(sum([entry.paidByPatient, entry.paidByAgency])),
    reduced: paid(sum(entry.reduced.map((item) => item.amount))),
  };
}

/** Write-offs, what was passed on by decision, and what receipts pay: they are taken back by themselves. */
const takenBackHere = (entry: LedgerEntry): boolean =>
  !entry.undone &&
  ['write-off', 'bad-debt', 'to-patient', 'to-next-payer', 'allocation'].includes(entry.kind);

function chargeLines(
  charge: LedgerCharge,
  { account, may, today, open }: AccountDesk,
  entries: readonly LedgerEntry[] | undefined,
): SubLine[] {
  // Nobody has paid or taken off anything yet; what is expected to come off by contract has not come off.
  const untouched =
    charge.status === 'done' &&
    charge.withPayer > 0 &&
    sum([openIn(charge), charge.expected]) === chargedIn(charge);
  // What the patient owes of the visit that it was done at.
  const owing = account.open.filter(
    ({ date, patientId }) => date === charge.date && patientId === charge.patientId,
  );
  // There is somewhere else for it.
  const movable = account.members.flatMap(({ cases }) => cases).length > 1;
  return [
    ...(entries ? [] : [READING]),
    ...(entries ?? []).map((entry) => ({
      key: `e${entry.entryId}`,
      id: `entry-${entry.entryId}`,
      undone: entry.undone,
      cells: entryCells(entry, charge, account.household.id),
    })),
    ...(may('reverse entries')
      ? (entries ?? []).filter(takenBackHere).map((entry) => ({
          key: `u${entry.entryId}`,
          wide:
            entry.kind === 'allocation' ? (
              <AllocationActs entryId={entry.entryId} />
            ) : (
              <WriteOffActs
                entryId={entry.entryId}
                passed={entry.kind === 'to-patient' || entry.kind === 'to-next-payer'}
              />
            ),
        }))
      : []),
    ...(untouched && charge.caseId !== null
      ? [{ key: 'expected', wide: <Expected caseId={charge.caseId} chargeId={charge.id} /> }]
      : []),
    {
      key: 'acts',
      wide: (
        <span className={css.acts}>
          <Button type="link" className={css.link} onClick={() => open('story', { of: String(charge.id) })}>
            Tell this charge
          </Button>
          {charge.kind === 'service' && charge.status === 'done' && (
            <Button
              type="link"
              className={css.link}
              onClick={() => open('visit', { charge: String(charge.id) })}
            >
              The visit
            </Button>
          )}
          {may('take payments') && owing.length > 0 && (
            <Button
              type="link"
              className={css.link}
              onClick={() => open('payment', { pays: owing.map(({ id }) => id).join(',') })}
            >
              Pay this visit
            </Button>
          )}
          {charge.diagnoses.length > 0 && (
            <span className="quiet">
              Diagnoses {charge.diagnoses.join(', ')} · {charge.provider}
            </span>
          )}
          {may('enter charges') &&
            charge.status !== 'void' &&
            charge.payers.every((payer) => payer.claimId === null) && (
              <>
                {charge.kind === 'service' && charge.status === 'done' && (
                  <Link href={`?show=charge&charge=${charge.id}`} scroll={false}>
                    Change this charge
                  </Link>
                )}
                {charge.kind === 'service' && movable && may('reverse entries') && (
                  <Button
                    type="link"
                    className={css.link}
                    onClick={() => open('move', { charge: String(charge.id) })}
                  >
                    Move it
                  </Button>
                )}
                <ChargeActs charge={charge} today={today} />
              </>
            )}
        </span>
      ),
    },
  ];
}
