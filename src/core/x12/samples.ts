/** Small claims and remittances, all invented, for tests and measurements. */
import { calendarDate } from '../calendar';
import type { ClaimContent } from '../claims/content';
import { npiCheckDigit } from '../claims/npi';
import type { CheckContext } from '../claims/rule';
import { cents } from '../money';
import type { Interchange } from './interchange';
import type { RemitClaim } from './remittance835';

/** An interchange from the clearinghouse's side. */
export const SAMPLE_INTERCHANGE: Interchange = {
  senderQualifier: 'ZZ',
  sender: 'TIDELINE',
  receiverQualifier: 'ZZ',
  receiver: 'OSPREYLANDING',
  controlNumber: '000000007',
  date: '260316',
  time: '0600',
  usage: 'T',
};

/** A claim of two lines that every rule accepts. */
export function sampleClaim(form: 'professional' | 'dental' = 'professional'): ClaimContent {
  const address = { line1: '3 Gull Walk', line2: '', city: 'Osprey Landing', state: 'WA', zip: '981990001' };
  const dental = form === 'dental';
  return {
    form,
    controlNumber: 'OL100001A',
    frequency: '1',
    total: cents(dental ? 46_500 : 18_700),
    placeOfService: '11',
    billing: {
      organization: 'Osprey Landing Health',
      npi: `123456701${npiCheckDigit('123456701')}`,
      taxonomy: '261QM1300X',
      taxId: '915550101',
      taxIdKind: 'EI',
      address,
    },
    subscriber: {
      last: 'Marchetti',
      first: 'Rosa',
      middle: '',
      suffix: '',
      birthDate: calendarDate('1979-05-12'),
      sex: 'F',
      address,
      memberId: 'CSH1000011',
      groupNumber: 'CS-200',
      planName: '',
    },
    patient: {
      last: 'Marchetti',
      first: 'Rosa',
      middle: '',
      suffix: '',
      birthDate: calendarDate('1979-05-12'),
      sex: 'F',
      address,
    },
    relationship: 'self',
    coverageOrder: 1,
    filingCode: 'CI',
    payer: { name: 'Cedar Sound Health', payerId: 'CSH01' },
    rendering: {
      last: 'Okafor',
      first: 'Ngozi',
      npi: `123456711${npiCheckDigit('123456711')}`,
      taxonomy: dental ? '1223G0001X' : '207Q00000X',
    },
    diagnoses: dental ? ['K02.9'] : ['I10', 'J06.9'],
    lines: dental
      ? [
          {
            number: 1,
            code: 'D2392',
            modifiers: [],
            charge: cents(26_500),
            units: 1,
            pointers: [1],
            date: calendarDate('2026-03-09'),
            tooth: '30',
            surfaces: 'MO',
            area: '',
            prosthesis: '',
            priorPlacement: null,
            control: 'L1',
          },
          {
            number: 2,
            code: 'D4341',
            modifiers: [],
            charge: cents(20_000),
            units: 1,
            pointers: [1],
            date: calendarDate('2026-03-09'),
            tooth: '',
            surfaces: '',
            area: '10',
            prosthesis: '',
            priorPlacement: null,
            control: 'L2',
          },
        ]
      : [
          {
            number: 1,
            code: '99213',
            modifiers: ['25'],
            charge: cents(14_500),
            units: 1,
            pointers: [1, 2],
            date: calendarDate('2026-03-09'),
            tooth: '',
            surfaces: '',
            area: '',
            prosthesis: '',
            priorPlacement: null,
            control: 'L1',
          },
          {
            number: 2,
            code: '87880',
            modifiers: [],
            charge: cents(4_200),
            units: 1,
            pointers: [2],
            date: calendarDate('2026-03-09'),
            tooth: '',
            surfaces: '',
            area: '',
            prosthesis: '',
            priorPlacement: null,
            control: 'L2',
          },
        ],
  };
}

/** What a claim is checked against where nothing is amiss, looked at on 16 March 2026. */
export const sampleContext = (more: Partial<CheckContext> = {}): CheckContext => ({
  today: calendarDate('2026-03-16'),
  coverageFrom: null,
  coverageTo: null,
  timelyFilingDays: 365,
  laterFilingDays: null,
  firstDecided: null,
  replaced: null,
  phone: '(206) 555-0100',
  severities: new Map(),
  needs: new Map(),
  ownReasons: new Set(),
  unitLimits: new Map(),
  notTogether: [],
  requiresReferring: false,
  requiresAuthorization: false,
  payerAccepts: 'electronic',
  hasConnection: true,
  paperLines: null,
  unfinished: false,
  corrections: 'replaced',
  clearinghouseMails: false,
  agreementMissing: null,
  takesPart: true,
  diagnoses: new Map(['I10', 'J06.9', 'K02.9'].map((code) => [code, { from: null, to: null }])),
  services: new Map([['D2392', { needsTooth: true, needsSurface: true }]]),
  duplicates: new Map(),
  ...more,
});

/** A decided claim that balances: `paid` of `charge`, the rest contractual. Cents. */
export function sampleRemitClaim(controlNumber: string, charge = 14_500, paid = 9_800): RemitClaim {
  return {
    controlNumber,
    status: '1',
    charge: cents(charge),
    paid: cents(paid),
    patientResponsibility: cents(0),
    payerClaimNumber: `P${controlNumber}`,
    adjustments: [],
    patient: { last: 'Marchetti', first: 'Rosa', memberId: 'CSH1000011' },
    date: null,
    remarks: [],
    lines: [
      {
        code: '99213',
        billed: '',
        modifiers: [],
        charge: cents(charge),
        paid: cents(paid),
        units: 1,
        date: calendarDate('2026-03-09'),
        adjustments: [{ group: 'CO', reason: '45', amount: cents(charge - paid) }],
        lineControl: '',
        allowed: null,
        remarks: [],
      },
    ],
  };
}
