'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { formatMoneyPlain } from '../../../../core/money';
import type { AccountPage } from '../../../../server/accounts/read';
import { useAct, useOnce } from '../../../../ui/act';
import { recoverAction } from '../../overdue/actions';
import { BadDebtForm } from '../../overdue/bad-debt-form';
import type { Rights } from './rights';

/** What of the account was given up as bad debt, what can be recovered of it, and giving up what is owed. */
export function BadDebt({ account, rights }: { account: AccountPage; rights: Rights }) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [giving, setGiving] = useState(false);
  const { household, figures: f, givenUp, letters, placement } = account;
  const mayGive =
    rights.giveUp && f.withPatient > 0 && (letters.length > 0 || placement !== null || givenUp > 0);
  if (givenUp <= 0 && !mayGive) return null;
  const recover = async (): Promise<void> => {
    const done = await run(
      () => recoverAction({ householdId: household.id, key: press.key() }),
      (amount) => `${formatMoneyPlain(amount)} recovered`,
    );
    if (done) press.next();
  };
  return (
    <p className="small">
      {givenUp > 0 && <>Given up as bad debt: {formatMoneyPlain(givenUp)} </>}
      {givenUp > 0 && f.credit > 0 && rights.payments && (
        <Button size="small" loading={busy} onClick={() => void recover()}>
          Apply {formatMoneyPlain(f.credit)} of credit to it
        </Button>
      )}{' '}
      {mayGive && (
        <Button size="small" onClick={() => setGiving(true)}>
          Give up as bad debt
        </Button>
      )}
      {giving && (
        <BadDebtForm householdId={household.id} withPatient={f.withPatient} close={() => setGiving(false)} />
      )}
    </p>
  );
}
