'use client';
import { type Cents, formatMoneyPlain, toDecimal } from '../../../core/money';
import { FormDrawer } from '../../../ui/form';
import { badDebtAction } from './actions';

/** Giving up what stands with the patient as bad debt, all or a part of it. @param withPatient cents */
export const BadDebtForm = ({
  householdId,
  withPatient,
  close,
}: {
  householdId: number;
  withPatient: Cents;
  close: () => void;
}) => (
  <FormDrawer
    title="Bad debt"
    initial={{ amount: toDecimal(withPatient), why: '' }}
    along={{ householdId }}
    once
    action={badDebtAction}
    done={close}
    words="Give it up"
    onClose={close}
  >
    {(f) => (
      <>
        <f.Money
          name="amount"
          label="Amount"
          needed
          focus
          hint={`${formatMoneyPlain(withPatient)} is with the patient; the oldest is given up first`}
        />
        <f.Text name="why" label="Why" needed maxLength={300} />
      </>
    )}
  </FormDrawer>
);
