/** What the simulated payers know: their groups with benefit terms, their allowed fees, their members. All invented. */
import type { GroupTerms } from './payer-estimate';
import { type BasisPoints, type Cents, basisPoints, cents } from '../core/money';

/** A simulated payer. */
export interface StandinPayer {
  payerId: string;
  name: string;
  originator: string;
  /** Form of its member ids. */
  memberId: RegExp;
  /** Benefit terms by group number; `default` for others. */
  groups: Record<string, { plan: string; terms: GroupTerms }>;
  /** Allowed fee for one unit, in cents. */
  fees: Record<string, Cents>;
  /** Codes it denies as part of another service. */
  bundled: readonly string[];
}

const c = cents;
/** What is paid of each category, in basis points. */
const paid = (parts: Record<string, number>): Record<string, BasisPoints> =>
  Object.fromEntries(Object.entries(parts).map(([category, points]) => [category, basisPoints(points)]));
const medical = { office: 8000, preventive: 10000, laboratory: 8000, therapy: 7000, procedure: 8000 };

/** The simulated payers, by electronic payer id. */
export const STANDIN_PAYERS: readonly StandinPayer[] = [
  {
    payerId: 'CSH01',
    name: 'Cedar Sound Health',
    originator: '1910000011',
    memberId: /^CSH\d{7}$/,
    groups: {
      'CS-200': {
        plan: 'Harbor PPO',
        terms: {
          contracted: true,
          percentages: paid(medical),
          deductible: c(50000),
          deductibleWaived: ['preventive'],
          copay: c(0),
          copayPer: 'visit',
          maximum: null,
          coordination: 'standard',
        },
      },
      'CS-350': {
        plan: 'Harbor Copay',
        terms: {
          contracted: true,
          percentages: paid({ ...medical, office: 10000, laboratory: 10000 }),
          deductible: c(0),
          deductibleWaived: [],
          copay: c(3000),
          copayPer: 'visit',
          maximum: null,
          coordination: 'standard',
        },
      },
    },
    fees: {
      '99203': c(13800),
      '99212': c(6200),
      '99213': c(9800),
      '99214': c(14200),
      '99395': c(15100),
      '99396': c(16400),
      '36415': c(850),
      '80053': c(2400),
      '85025': c(1750),
      '87880': c(2600),
      '12001': c(17900),
      '93000': c(3600),
      '97110': c(3900),
      '97140': c(3600),
      '97161': c(10400),
      '97530': c(4400),
      '99051': c(0),
    },
    bundled: ['99051'],
  },
  {
    payerId: 'NLM02',
    name: 'Northlight Mutual',
    originator: '1910000022',
    memberId: /^NL\d{8}$/,
    groups: {
      'NL-A10': {
        plan: 'Beacon 70',
        terms: {
          contracted: true,
          percentages: paid({ ...medical, office: 7000, laboratory: 7000, therapy: 5000 }),
          deductible: c(100000),
          deductibleWaived: ['preventive', 'office'],
          copay: c(2500),
          copayPer: 'visit',
          maximum: null,
          coordination: 'non-duplication',
        },
      },
    },
    fees: {
      '99203': c(12900),
      '99212': c(5900),
      '99213': c(9300),
      '99214': c(13600),
      '99395': c(14400),
      '99396': c(15800),
      '36415': c(700),
      '80053': c(2100),
      '85025': c(1500),
      '87880': c(2300),
      '12001': c(16500),
      '93000': c(3300),
      '97110': c(3600),
      '97140': c(3300),
      '97161': c(9700),
      '97530': c(4100),
    },
    bundled: [],
  },
  {
    payerId: 'TDP03',
    name: 'Tern Dental Plan',
    originator: '1910000033',
    memberId: /^T\d{8}$/,
    groups: {
      'TD-5': {
        plan: 'Tern Family',
        terms: {
          contracted: true,
          percentages: paid({ preventive: 10000, diagnostic: 10000, basic: 8000, major: 5000 }),
          deductible: c(5000),
          deductibleWaived: ['preventive', 'diagnostic'],
          copay: c(0),
          copayPer: 'visit',
          maximum: c(150000),
          coordination: 'maintenance',
        },
      },
    },
    fees: {
      D0120: c(4100),
      D0140: c(6000),
      D0150: c(6500),
      D0210: c(9400),
      D0220: c(2200),
      D0274: c(5100),
      D1110: c(7600),
      D1120: c(5400),
      D1206: c(3000),
      D2330: c(12000),
      D2391: c(13100),
      D2392: c(16900),
      D2740: c(86000),
      D2950: c(19500),
      D3310: c(59000),
      D4341: c(18200),
      D4910: c(10300),
      D7140: c(12800),
      D9110: c(8600),
    },
    bundled: ['D9110'],
  },
];

/** Categories of the services that the payers price, by code. */
export const STANDIN_CATEGORIES: Readonly<Record<string, string>> = {
  '99203': 'office',
  '99212': 'office',
  '99213': 'office',
  '99214': 'office',
  '99395': 'preventive',
  '99396': 'preventive',
  '36415': 'laboratory',
  '80053': 'laboratory',
  '85025': 'laboratory',
  '87880': 'laboratory',
  '12001': 'procedure',
  '93000': 'procedure',
  '97110': 'therapy',
  '97140': 'therapy',
  '97161': 'therapy',
  '97530': 'therapy',
  '99051': 'office',
  D0120: 'diagnostic',
  D0140: 'diagnostic',
  D0150: 'diagnostic',
  D0210: 'diagnostic',
  D0220: 'diagnostic',
  D0274: 'diagnostic',
  D1110: 'preventive',
  D1120: 'preventive',
  D1206: 'preventive',
  D2330: 'basic',
  D2391: 'basic',
  D2392: 'basic',
  D2740: 'major',
  D2950: 'major',
  D3310: 'basic',
  D4341: 'basic',
  D4910: 'basic',
  D7140: 'basic',
  D9110: 'basic',
};
