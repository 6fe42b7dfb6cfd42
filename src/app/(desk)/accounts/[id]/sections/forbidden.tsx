'use client';
import { Button } from 'antd';
import { formatMoneyPlain } from '../../../../../core/money';
import { Notice } from '../../../../../ui/page';
import { takeOffAction } from '../../actions';
import { type AccountSection, useAccount } from '../section';

/** What stands with patients and may not be billed to them, with the press that takes it off. */
export const forbidden: AccountSection = { Panel: ForbiddenNotice };

function ForbiddenNotice() {
  const { account, may, run, busy } = useAccount();
  if (!account.forbidden) return null;
  const { amount, why } = account.forbidden;
  return (
    <Notice>
      {formatMoneyPlain(amount)} may not be billed to the patient: {why}. It is on no statement.{' '}
      {may('reverse entries') && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void run(
              () => takeOffAction({ householdId: account.household.id }),
              (taken) => `${formatMoneyPlain(taken)} taken off`,
            )
          }
        >
          Take it off
        </Button>
      )}
    </Notice>
  );
}
