'use client';
import { Button } from 'antd';
import dynamic from 'next/dynamic';
import { formatMoneyPlain } from '../../../../../core/money';
import { useOnce } from '../../../../../ui/act';
import { recoverAction } from '../../../overdue/actions';
import { type AccountDesk, type AccountSection, useAccount } from '../section';

const BadDebtForm = dynamic(() => import('../../../overdue/bad-debt-form').then((all) => all.BadDebtForm));

/** It is given up after letters, an agency, or once something of the account was. */
const mayGive = ({ account: { figures, letters, placement, givenUp }, may }: AccountDesk): boolean =>
  may('approve placements') &&
  figures.withPatient > 0 &&
  (letters.length > 0 || placement !== null || givenUp > 0);

/** What of the account was given up as bad debt, what can be recovered of it, and giving up what is owed. */
export const badDebt: AccountSection = {
  Panel: GivenUp,
  acts: (desk) => [
    mayGive(desk) && {
      words: 'Give up as bad debt',
      key: 'g',
      kind: 'money',
      does: () => desk.open('bad-debt'),
    },
  ],
  dialogs: {
    'bad-debt': {
      may: 'approve placements',
      draw: ({ account: { household, figures }, close }) => (
        <BadDebtForm householdId={household.id} withPatient={figures.withPatient} close={close} />
      ),
    },
  },
};

function GivenUp() {
  const { account, may, run, busy } = useAccount();
  const press = useOnce();
  const { household, figures: f, givenUp } = account;
  if (givenUp <= 0) return null;
  const recover = async (): Promise<void> => {
    const done = await run(
      () => recoverAction({ householdId: household.id, key: press.key() }),
      (amount) => `${formatMoneyPlain(amount)} recovered`,
    );
    if (done) press.next();
  };
  return (
    <p className="small">
      Given up as bad debt: {formatMoneyPlain(givenUp)}{' '}
      {f.credit > 0 && may('take payments') && (
        <Button size="small" loading={busy} onClick={() => void recover()}>
          Apply {formatMoneyPlain(f.credit)} of credit to it
        </Button>
      )}
    </p>
  );
}
