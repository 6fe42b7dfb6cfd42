/** Every report, in the order in which they are offered. */
import { patientAging, payerAging } from './aging';
import { agencyRecovery, letterReturns, promisesKept, stageMoves } from './overdue';
import { planMonths, planOutcomes, planOutstanding } from './plans';
import { production, productionLines, providerPay } from './production';
import { received } from './received';
import { reductions } from './reductions';
import { chargesAndPayments, merchants, patientsPaid, refundChecks, takings } from './takings';
import type { Report } from './report';

/** The reports. */
export const REPORTS: readonly Report[] = [
  patientAging,
  payerAging,
  production,
  productionLines,
  providerPay,
  received,
  chargesAndPayments,
  takings,
  patientsPaid,
  merchants,
  refundChecks,
  reductions,
  planOutstanding,
  planMonths,
  planOutcomes,
  stageMoves,
  letterReturns,
  promisesKept,
  agencyRecovery,
];

/** The report of a name; undefined when there is none. */
export const reportOf = (name: string): Report | undefined => REPORTS.find((report) => report.name === name);
