/** Every list of the desk, by its name in addresses. */
import { estimatesList } from '../accounts/estimates-list';
import { accountsList } from '../accounts/list';
import { claimsList, unbilledList, waitingList } from '../claims/list';
import { followUpsList } from '../follow-ups/list';
import { workList } from '../jobs/list';
import { creditsList } from '../payments/credits';
import { receiptsList } from '../payments/list';
import { refundRequestsList } from '../payments/refund-list';
import { contractLettersList } from '../remittances/contract-letters';
import { keyedList } from '../remittances/keyed-list';
import { unclaimedList } from '../payments/unclaimed';
import { overdueList } from '../overdue/list';
import { hardshipList } from '../overdue/hardship-list';
import { placementsList, promisesList } from '../overdue/placement-list';
import { smallList } from '../overdue/small';
import { plansList } from '../plans/list';
import { payerCreditList } from '../remittances/credit-list';
import { remittancesList } from '../remittances/list';
import {
  batchesList,
  letterBatchesList,
  piecesList,
  statementsDueList,
  statementsList,
} from '../statements/list';
import { seenList, trailList } from '../trail/list';
import { addedList } from '../setup/added';
import { usersList } from '../users/list';
import type { RowOf as RowOfList } from './list';

/** The lists. */
export const LISTS = {
  accounts: accountsList,
  estimates: estimatesList,
  claims: claimsList,
  unbilled: unbilledList,
  'with-payers': waitingList,
  remittances: remittancesList,
  'follow-ups': followUpsList,
  'payer-credit': payerCreditList,
  receipts: receiptsList,
  credits: creditsList,
  'refund-requests': refundRequestsList,
  keyed: keyedList,
  'contract-letters': contractLettersList,
  unclaimed: unclaimedList,
  plans: plansList,
  'statements-due': statementsDueList,
  statements: statementsList,
  batches: batchesList,
  pieces: piecesList,
  overdue: overdueList,
  'letter-batches': letterBatchesList,
  promises: promisesList,
  hardship: hardshipList,
  'small-balances': smallList,
  placements: placementsList,
  work: workList,
  users: usersList,
  'added-codes': addedList,
  audit: trailList,
  seen: seenList,
} as const;

/** Name of a list. */
export type ListName = keyof typeof LISTS;
/** A row of a list, by its name. */
export type RowOf<Name extends ListName> = RowOfList<(typeof LISTS)[Name]>;

/** The names of all lists. */
export const LIST_NAMES = Object.keys(LISTS) as [ListName, ...ListName[]];

/** Whether a text names a list. */
export const isList = (name: string): name is ListName => Object.hasOwn(LISTS, name);
