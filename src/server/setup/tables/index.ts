/** Setup's tables, in the order in which they are offered. */
import type { SetupTable } from '../table';
import {
  conditions,
  copays,
  deductibles,
  limits,
  maximums,
  outOfPocket,
  reductions,
  shares,
} from './benefits';
import { serviceCategories } from './categories';
import { agencies, clearinghouses, gateways, printShops } from './connections';
import { chargeSetLines, chargeSets } from './charge-sets';
import { diagnoses } from './diagnoses';
import { notTogether, unitLimits } from './limits';
import { locations } from './locations';
import { hardshipBands, overduePolicy, overdueStages, povertyLevels } from './overdue';
import {
  payerAgreements,
  payerContacts,
  payerNeeds,
  payerProviders,
  payerReferences,
  payerRules,
  payerSettings,
  payers,
} from './payers';
import { cardBrands, dormancy, paymentPolicy, surchargeStates } from './payments';
import { places } from './places';
import { planPolicy } from './plan-policy';
import { plans } from './plans';
import { practice } from './practice';
import { providerShares } from './provider-shares';
import { providers } from './providers';
import { combinations, reasons } from './reasons';
import { schedules } from './schedules';
import { services } from './services';
import {
  accountCategories,
  commonNotices,
  referralSources,
  statementMessages,
  statementPolicies,
  stopReasons,
} from './statements';

const TABLES: readonly SetupTable[] = [
  practice,
  locations,
  providers,
  providerShares,
  payers,
  payerProviders,
  payerContacts,
  payerReferences,
  payerAgreements,
  payerSettings,
  payerRules,
  payerNeeds,
  plans,
  shares,
  deductibles,
  copays,
  maximums,
  outOfPocket,
  limits,
  conditions,
  reductions,
  schedules,
  serviceCategories,
  services,
  chargeSets,
  chargeSetLines,
  diagnoses,
  unitLimits,
  notTogether,
  reasons,
  combinations,
  statementPolicies,
  statementMessages,
  places,
  paymentPolicy,
  cardBrands,
  surchargeStates,
  dormancy,
  planPolicy,
  overduePolicy,
  overdueStages,
  povertyLevels,
  hardshipBands,
  stopReasons,
  accountCategories,
  referralSources,
  commonNotices,
  clearinghouses,
  printShops,
  gateways,
  agencies,
];

const BY_KEY = new Map(TABLES.map((table) => [table.key, table]));

/** All tables. */
export const setupTables = (): readonly SetupTable[] => TABLES;
/** The table at the last part of an address; undefined when there is none. */
export const setupTable = (key: string): SetupTable | undefined => BY_KEY.get(key);
