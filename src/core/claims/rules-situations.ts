/**
 * Rules about what only some claims must say: the situational parts of the guides that clearinghouses refuse claims for, and what a
 * practice brings in of others. Loops and elements from memory of 005010X222A1 and 005010X224A2.
 */
import { type Cents, sum } from '../money';
import type { ClaimContent } from './content';
import { DELAY_REASONS } from './delay';
import { type Rule, perLine, when } from './rule';
import { STATES } from './states';

const professional = (claim: ClaimContent): boolean => claim.form === 'professional';

/** Places where somebody is admitted: inpatient hospital, inpatient psychiatric, comprehensive inpatient rehabilitation (CMS). */
const ADMITTED = ['21', '51', '61'];
/** Places of telehealth (CMS), and the modifiers that say how it was done. */
const AT_A_DISTANCE = ['02', '10'];
const DISTANCE_MODIFIERS = ['95', '93', 'GT', 'GQ', 'FQ', 'G0'];
/** Modifiers that say that a service is another one than its companion of the day (CMS, common practice). */
const APART = ['59', 'XE', 'XS', 'XP', 'XU', '25', '57', '24', '58', '78', '79', 'LT', 'RT'];
/** Front teeth, permanent and primary: their biting edge is incisal, and they have no occlusal surface. */
const FRONT = new Set(['6 7 8 9 10 11 22 23 24 25 26 27', 'C D E F G H M N O P Q R'].join(' ').split(' '));
/** An element of money has at most ten digits. */
const MOST_MONEY = 9_999_999_999;

/** Rules about situations, in the order in which findings are shown. */
export const SITUATION_RULES: readonly Rule[] = [
  {
    id: 'medicare-second',
    payers: 'Medicare (MA, MB) as a next payer',
    severity: 'stop',
    place: 'coverage',
    field: 'secondaryType',
    reference: '2000B SBR05',
    title: 'Medicare that comes after another insurer is told why',
    check: ({ filingCode, coverageOrder, subscriber }) =>
      when(
        (filingCode === 'MA' || filingCode === 'MB') && coverageOrder > 1 && !subscriber.secondaryType,
        'Medicare comes after another insurer: say why, such as that the person still works',
      ),
  },
  {
    id: 'member-id-filler',
    severity: 'warn',
    place: 'coverage',
    field: 'memberId',
    reference: '2010BA NM109, common practice',
    title: 'The member id is no filler',
    check: ({ subscriber: { memberId } }) =>
      when(
        /^(.)\1{5,}$|^(UNKNOWN|PENDING|NONE|TBD|0?123456789)$/i.test(memberId),
        `“${memberId}” looks as if the member id was not known`,
      ),
  },
  {
    id: 'other-payer-id',
    severity: 'stop',
    place: 'payer',
    field: 'otherPayerId',
    reference: '2330B NM109',
    title: 'Every other payer of the claim has an id',
    check: ({ otherPayers = [] }) =>
      otherPayers.flatMap(({ payer }) =>
        when(!payer.payerId, `${payer.name} is named on the claim and has no payer id`),
      ),
  },
  {
    id: 'other-member-id',
    severity: 'stop',
    place: 'coverage',
    field: 'otherMemberId',
    reference: '2330A NM109',
    title: 'Every other coverage of the claim has a member id',
    check: ({ otherPayers = [] }) =>
      otherPayers.flatMap(({ payer, subscriber }) =>
        when(!subscriber.memberId, `${payer.name} is named on the claim and the member id there is missing`),
      ),
  },
  {
    id: 'other-payer-twice',
    severity: 'warn',
    place: 'payer',
    field: 'otherPayerId',
    reference: '2430 SVD01 names a payer by its id',
    title: 'Payers of one claim are told apart by their ids',
    check: ({ payer, otherPayers = [] }) => {
      const ids = [payer, ...otherPayers.map((other) => other.payer)].map(({ payerId }) => payerId);
      const twice = ids.find((id, at) => id !== '' && ids.indexOf(id) < at);
      return when(
        twice !== undefined,
        `Two payers of this claim have the id ${twice ?? ''}: what each decided may be mixed up`,
      );
    },
  },
  {
    id: 'own-reason',
    payers: 'next payers',
    severity: 'stop',
    place: 'reason',
    field: 'travelsAs',
    reference: '2320 and 2430 CAS02, Claim Adjustment Reason Codes (code list 139)',
    title: 'Reason codes of our own go to the next payer as standard ones',
    fixed: true,
    check: ({ otherPayers = [] }, { ownReasons }) => {
      const said = otherPayers.flatMap(({ payer, decided }) =>
        [
          ...(decided?.adjustments ?? []),
          ...(decided?.lines ?? []).flatMap(({ adjustments }) => adjustments),
        ].flatMap(({ reason }) => (ownReasons.has(reason) ? [`${reason}|${payer.name}`] : [])),
      );
      return [...new Set(said)].map((one) => {
        const [reason, payer] = one.split('|');
        return `Reason ${reason} of ${payer} is a code of our own: say as which standard code it goes on, such as CO-192`;
      });
    },
  },
  {
    id: 'pay-to',
    severity: 'stop',
    place: 'practice',
    field: 'payToLine1',
    reference: '2010AB N301, N401 to N403',
    title: 'The address for checks is whole',
    check: ({ billing: { payTo } }) =>
      when(
        payTo !== undefined &&
          (!payTo.city.trim() || !STATES.has(payTo.state) || !/^\d{5}(-?\d{4})?$/.test(payTo.zip)),
        'The address for checks needs a city, a state code and a ZIP',
      ),
  },
  {
    id: 'contact-phone',
    severity: 'warn',
    place: 'practice',
    field: 'phone',
    reference: '1000A PER04, ten digits',
    title: 'The practice’s telephone has ten digits',
    check: (_claim, { phone }) =>
      when(
        phone.replace(/\D/g, '').length !== 10,
        'The practice’s telephone has not ten digits: clearinghouses ask for them',
      ),
  },
  {
    id: 'patient-paid',
    payers: 'those that are told what the patient paid',
    severity: 'stop',
    place: 'claim',
    field: 'patientPaid',
    reference: '2300 AMT*F5, not more than CLM02',
    title: 'The patient has not paid more than was charged',
    check: ({ patientPaid, total }) =>
      when(
        patientPaid !== undefined && patientPaid > total,
        'The patient has paid more than the claim asks for',
      ),
  },
  {
    id: 'delay-reason',
    severity: 'stop',
    place: 'claim',
    field: 'delayReason',
    reference: '2300 CLM20',
    title: 'The reason for being late is one of the list',
    check: ({ delayReason }) =>
      when(
        delayReason !== undefined && !Object.hasOwn(DELAY_REASONS, delayReason),
        `“${delayReason ?? ''}” is no reason for being late`,
      ),
  },
  {
    id: 'attachment-number',
    severity: 'stop',
    place: 'claim',
    field: 'attachments',
    reference: '2300 PWK05 and PWK06, where PWK02 is BM, EL, EM, FX or FT',
    title: 'What is sent beside the claim has its number',
    check: ({ attachments = [] }) =>
      attachments.flatMap(({ by, control, type }) =>
        when(
          by !== 'AA' && !control.trim(),
          `What is sent beside the claim (${type}) needs the number on it`,
        ),
      ),
  },
  {
    id: 'note-length',
    severity: 'stop',
    place: 'claim',
    field: 'note',
    reference: '2300 NTE02, 80 characters',
    title: 'The note fits its element',
    check: ({ note = '' }) => when(note.length > 80, `The note has ${note.length} characters; 80 are sent`),
  },
  {
    id: 'amount-length',
    severity: 'stop',
    place: 'charge',
    field: 'fee',
    reference: '2400 SV102 / SV302, 2300 CLM02: ten digits',
    title: 'Amounts fit their element',
    check: (c) => [
      ...perLine(c, (line) => line.charge > MOST_MONEY && `${line.code} costs more than a claim can say`),
      ...when(
        sum(c.lines.map(({ charge }): Cents => charge)) > MOST_MONEY,
        'The total is more than a claim can say',
      ),
    ],
  },
  {
    id: 'accident-work',
    payers: 'workers’ compensation (WC)',
    severity: 'stop',
    place: 'case',
    field: 'kind',
    reference: '2300 CLM11 EM and DTP*439, SBR09 WC',
    title: 'A claim to workers’ compensation is of an accident at work',
    check: ({ filingCode, accident }) =>
      when(
        filingCode === 'WC' && accident?.kind !== 'EM',
        'Workers’ compensation pays accidents at work: the case says none',
      ),
  },
  {
    id: 'accident-car',
    payers: 'automobile insurers (AM)',
    severity: 'warn',
    place: 'case',
    field: 'kind',
    reference: '2300 CLM11 AA, SBR09 AM',
    title: 'A claim to an automobile insurer is of a car accident',
    check: ({ filingCode, accident }) =>
      when(
        filingCode === 'AM' && accident?.kind !== 'AA',
        'An automobile insurer is billed, and the case says no car accident',
      ),
  },
  {
    id: 'disability-dates',
    severity: 'stop',
    place: 'case',
    field: 'disabledFrom',
    reference: '2300 DTP*314, 360, 361',
    title: 'The days of being unable to work are in order, and not before the accident',
    check: ({ dates = {}, accident }) => {
      const { disabledFrom: from, disabledTo: to } = dates;
      return [
        ...when(from !== undefined && to !== undefined && to < from, 'Unable to work ends before it begins'),
        ...when(
          from !== undefined && !!accident?.date && from < accident.date,
          'Unable to work begins before the accident',
        ),
      ];
    },
  },
  {
    id: 'admission-date',
    severity: 'stop',
    place: 'case',
    field: 'admittedOn',
    reference: '837P 2300 DTP*435, place of service 21, 51 or 61',
    title: 'Services to somebody who was admitted say when',
    check: (c) =>
      when(
        professional(c) && ADMITTED.includes(c.placeOfService) && !c.dates?.admitted,
        `Place of service ${c.placeOfService} is for people who were admitted: since when?`,
      ),
  },
  {
    id: 'admission-order',
    severity: 'stop',
    place: 'case',
    field: 'admittedOn',
    reference: '837P 2300 DTP*435 and 096',
    title: 'Nobody is admitted after the services, or released before admission',
    check: (c) => {
      const { admitted, released } = c.dates ?? {};
      return [
        ...when(
          admitted !== undefined &&
            ADMITTED.includes(c.placeOfService) &&
            c.lines.some(({ date }) => date < admitted),
          'A service lies before the admission',
        ),
        ...when(
          admitted !== undefined && released !== undefined && released < admitted,
          'The release lies before the admission',
        ),
      ];
    },
  },
  {
    id: 'ordering',
    severity: 'stop',
    place: 'case',
    field: 'referring',
    reference: '837P 2420E NM1*DK',
    title: 'Who ordered a service is named where it needs that',
    check: (c, { services }) =>
      perLine(
        c,
        (line) =>
          professional(c) &&
          (services.get(line.code)?.needsOrdering ?? false) &&
          c.referring?.role !== 'DK' &&
          `${line.code} needs who ordered it, which the case does not say`,
      ),
  },
  {
    id: 'ordering-dental',
    severity: 'stop',
    place: 'case',
    field: 'referring',
    reference: '837D 2310A and 2310E; there is no ordering provider',
    title: 'A dental claim names nobody who ordered',
    check: (c) =>
      when(
        c.form === 'dental' && c.referring?.role === 'DK',
        'A dental claim has no place for who ordered: let the person refer or supervise',
      ),
  },
  {
    id: 'drug',
    severity: 'stop',
    place: 'charge',
    field: 'drug',
    reference: '837P 2410 LIN03, CTP04, CTP05-1',
    title: 'A service that gives a drug names it',
    check: (c, { services }) =>
      perLine(
        c,
        (line) =>
          professional(c) &&
          (services.get(line.code)?.needsDrug ?? false) &&
          !line.drug &&
          `${line.code} needs the drug code (NDC) and how much of it was given`,
      ),
  },
  {
    id: 'drug-form',
    severity: 'stop',
    place: 'charge',
    field: 'drug',
    reference: '837P 2410 LIN03, eleven digits (5-4-2)',
    title: 'A drug code has eleven digits',
    check: (c) =>
      perLine(
        c,
        ({ code, drug }) =>
          !!drug && !/^\d{11}$/.test(drug.ndc) && `The drug code of ${code} has not eleven digits`,
      ),
  },
  {
    id: 'clia-form',
    severity: 'stop',
    place: 'location',
    field: 'clia',
    reference: '837P 2300 REF X4: two digits, D, seven digits (CMS)',
    title: 'The number of the laboratory has its form',
    check: ({ clia }) =>
      when(
        !!clia && !/^\d{2}D\d{7}$/.test(clia),
        `${clia ?? ''} is no number of a laboratory (such as 50D0123456)`,
      ),
  },
  {
    id: 'diagnosis-first',
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: 'ICD-10-CM official guidelines, I.C.20.a.6: external causes are never first',
    title: 'The principal diagnosis is no external cause',
    check: (c) =>
      when(
        /^[V-Y]/.test(c.diagnoses[0] ?? ''),
        `${c.diagnoses[0] ?? ''} says how it happened, and cannot be the principal diagnosis`,
      ),
  },
  {
    id: 'telehealth',
    severity: 'warn',
    place: 'charge',
    field: 'modifiers',
    reference: '2300 CLM05-1 02 or 10; common practice, no source',
    title: 'A service at a distance has the modifier that says how',
    check: (c) =>
      perLine(
        c,
        (line) =>
          professional(c) &&
          AT_A_DISTANCE.includes(c.placeOfService) &&
          !line.modifiers.some((modifier) => DISTANCE_MODIFIERS.includes(modifier)) &&
          `${line.code} was done at a distance, and no modifier says how (such as 95)`,
      ),
  },
  {
    id: 'bilateral-units',
    severity: 'warn',
    place: 'charge',
    field: 'units',
    reference: 'modifier 50; common practice, no source',
    title: 'What was done on both sides is one unit',
    check: (c) =>
      perLine(
        c,
        (line) =>
          line.modifiers.includes('50') && line.units > 1 && `${line.code} with modifier 50 is one unit`,
      ),
  },
  {
    id: 'surface-tooth',
    severity: 'stop',
    place: 'charge',
    field: 'surfaces',
    reference: '837D 2400 TOO03, JP; common practice, no source',
    title: 'A tooth has the surfaces that are said of it',
    check: (c) =>
      perLine(c, (line) => {
        if (c.form !== 'dental' || line.tooth === '') return false;
        const front = FRONT.has(line.tooth);
        if (front && line.surfaces.includes('O'))
          return `Tooth ${line.tooth} is a front tooth: it has an incisal edge (I) and no O`;
        return (
          !front &&
          line.surfaces.includes('I') &&
          `Tooth ${line.tooth} is a back tooth: it has an occlusal surface (O) and no I`
        );
      }),
  },
  {
    id: 'area',
    severity: 'stop',
    place: 'charge',
    field: 'area',
    reference: '837D 2400 SV304',
    title: 'The quadrant or arch is stated where the service needs it',
    check: (c, { services }) =>
      perLine(
        c,
        (line) =>
          c.form === 'dental' &&
          (services.get(line.code)?.needsArea ?? false) &&
          line.area === '' &&
          `${line.code} needs the quadrant or the arch`,
      ),
  },
  {
    id: 'unit-limit',
    severity: 'stop',
    place: 'charge',
    field: 'units',
    reference: 'table of the practice: units that a day allows',
    title: 'No more units than a day allows',
    check: (c, { unitLimits }) => {
      const days = new Map<string, { units: number; line: number }>();
      for (const { code, date, units, number } of c.lines) {
        const key = `${code}|${date}`;
        days.set(key, { units: (days.get(key)?.units ?? 0) + units, line: number });
      }
      return [...days].flatMap(([key, { units, line }]) => {
        const [code = '', date = ''] = key.split('|');
        const most = unitLimits.get(code);
        return most !== undefined && units > most
          ? [{ words: `${code}: ${units} units on ${date}, and a day allows ${most}`, line }]
          : [];
      });
    },
  },
  {
    id: 'not-together',
    severity: 'stop',
    place: 'charge',
    field: 'modifiers',
    reference: 'table of the practice: services that are not billed together',
    title: 'Services are billed together only where they may be',
    check: (c, { notTogether }) =>
      perLine(c, (line) => {
        const pair = notTogether.find(
          ({ code, other, unlessModifier }) =>
            other === line.code &&
            c.lines.some((one) => one.code === code && one.date === line.date) &&
            !(unlessModifier && line.modifiers.some((modifier) => APART.includes(modifier))),
        );
        return (
          pair !== undefined &&
          `${pair.other} is not billed with ${pair.code} on one day${pair.unlessModifier ? ', unless a modifier says that it was apart (such as 59)' : ''}`
        );
      }),
  },
];
