import { LEDGER_VIEWS } from '../../../../core/accounts/ledger-views';
import type { LedgerCharge } from '../../../../server/accounts/ledger';
import type { AccountDesk } from './section';

/** The charges of the member and the view that are shown. */
export const shownCharges = ({
  account,
  member,
  shownCase,
  view,
}: Pick<AccountDesk, 'account' | 'member' | 'shownCase' | 'view'>): LedgerCharge[] =>
  account.charges
    .filter((charge) => member === 0 || charge.patientId === member)
    .filter((charge) => shownCase === null || charge.caseId === shownCase.id)
    .filter((charge) => view === 'all' || LEDGER_VIEWS[view].holds(charge));
