/** Rules about payer, biller, provider and place. */
import type { PostalAddress } from './content';
import { type Cents, ZERO, add, formatMoneyPlain, minus, sum } from '../money';
import type { Adjustment } from '../x12/adjustments';
import { isNpi } from './npi';
import { type FixPlace, type Rule, when } from './rule';
import { STATES } from './states';

/** A place of ours that a payer is told: whose it is, how it is called, where it stands in the guides and where it is mended. */
interface Place {
  id: string;
  called: string;
  place: FixPlace;
  loop: string;
}

/** What every such place must say: a street, a city with its state, a ZIP of nine digits. */
const addressRules = (
  { id, called, place, loop }: Place,
  of: (claim: Parameters<Rule['check']>[0]) => PostalAddress | undefined,
): Rule[] => {
  const rule = (
    name: string,
    field: string,
    reference: string,
    title: string,
    wrong: (address: PostalAddress) => boolean,
    words: string,
  ): Rule => ({
    id: `${id}-${name}`,
    severity: 'stop',
    place,
    field,
    reference: `${loop} ${reference}`,
    title,
    check: (claim) => {
      const address = of(claim);
      return when(address !== undefined && wrong(address), words);
    },
  });
  return [
    rule(
      'address',
      'address',
      'N301; no post office box',
      `The ${called} address is a street address`,
      ({ line1 }) => !line1.trim() || /\b(p\.?\s*o\.?\s*box|lock\s*box)\b/i.test(line1),
      `The ${called} address must be a street, not a post office box`,
    ),
    rule(
      'city',
      'city',
      'N401, N402, USPS state codes',
      `The ${called} address has a city and a state`,
      ({ city, state }) => !city.trim() || !STATES.has(state),
      `The ${called} address needs a city and a state code`,
    ),
    rule(
      'zip',
      'zip',
      'N403, nine digits',
      `The ${called} ZIP has nine digits`,
      ({ zip }) => !/^\d{5}-?\d{4}$/.test(zip),
      `The ${called} address needs a nine-digit ZIP`,
    ),
  ];
};

/** Rules about the parties, in the order in which findings are shown. */
export const PARTY_RULES: readonly Rule[] = [
  {
    id: 'payer-id',
    payers: 'those that are sent files',
    fixed: true,
    severity: 'stop',
    place: 'payer',
    field: 'payerId',
    reference: '2010BB NM109',
    title: 'The payer has an electronic id',
    check: (c, x) =>
      when(
        x.payerAccepts === 'electronic' && !/^[A-Za-z0-9]{2,80}$/.test(c.payer.payerId),
        'The payer has no electronic payer id',
      ),
  },
  {
    id: 'payer-unfinished',
    fixed: true,
    severity: 'stop',
    place: 'payer',
    field: 'unfinished',
    reference: 'common practice, no source',
    title: 'The payer is set up',
    check: (c, x) =>
      when(
        x.unfinished,
        `${c.payer.name} was entered at the desk: say how its claims go, its payer id and its kind, and that it is set up`,
      ),
  },
  {
    id: 'payer-agreement',
    payers: 'those whose clearinghouse asks for an agreement',
    severity: 'stop',
    place: 'payer',
    field: 'agreement',
    reference: 'common practice, no source',
    title: 'There is an agreement where the clearinghouse asks for one',
    check: (c, x) =>
      when(
        x.agreementMissing !== null,
        `${c.payer.name} takes ${x.agreementMissing} only with an agreement, and there is none for ${c.billing.organization ?? `${c.billing.first} ${c.billing.last}`}`,
      ),
  },
  {
    id: 'payer-address',
    payers: 'those on paper',
    severity: 'stop',
    place: 'payer',
    field: 'line1',
    reference: '2010BB N3, N4',
    title: 'A claim that is printed and mailed has the payer’s address',
    check: (c, x) =>
      when(
        (x.clearinghouseMails || x.payerAccepts === 'paper') && !c.payer.address,
        'It is printed and mailed, and the payer has no address',
      ),
  },
  {
    id: 'identity',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'frequency',
    reference: '2300 CLM05-3 7: the payer finds the claim by these; common practice, no source',
    title: 'A correction is of the same payer, member and biller',
    check: (c, { replaced }) => {
      if (c.frequency !== '7' || !replaced) return [];
      const plain = (text: string): string => text.replace(/\W/g, '').toUpperCase();
      const other = (
        [
          ['payer', c.payer.payerId, replaced.payer.payerId],
          ['member id', c.subscriber.memberId, replaced.subscriber.memberId],
          ['billing NPI', c.billing.npi, replaced.billing.npi],
          ['tax id', c.billing.taxId, replaced.billing.taxId],
        ] as const
      ).filter(([, now, then]) => plain(now) !== plain(then));
      return other.map(
        ([what, now, then]) =>
          `The ${what} is ${now || 'missing'} and was ${then} on claim ${replaced.controlNumber}: no correction finds it; void that one (8) and send a new one`,
      );
    },
  },
  {
    id: 'payer-corrections',
    payers: 'those that take neither 7 nor 8',
    severity: 'stop',
    place: 'payer',
    field: 'corrections',
    reference: '2300 CLM05-3',
    title: 'A claim is put right as its payer has it',
    check: (c, x) =>
      when(
        c.frequency !== '1' && x.corrections !== 'replaced',
        x.corrections === 'new'
          ? `${c.payer.name} takes a new claim only, and neither 7 nor 8: have it voided by telephone, say so here, and bill anew`
          : `${c.payer.name} has claims reopened by form or telephone, and takes neither 7 nor 8: tell it, and say so here`,
      ),
  },
  {
    id: 'payer-takes-part',
    severity: 'warn',
    place: 'payer',
    field: 'provider',
    reference: 'common practice, no source',
    title: 'Who did it takes part with the payer on the day',
    check: (c, x) =>
      when(
        !x.takesPart,
        `${c.rendering?.first ?? ''} ${c.rendering?.last ?? 'The provider'} does not take part with ${c.payer.name} on that day`.trim(),
      ),
  },
  {
    id: 'payer-connection',
    payers: 'those that are sent files',
    fixed: true,
    severity: 'stop',
    place: 'payer',
    field: 'connection',
    reference: 'common practice, no source',
    title: 'There is a way to the payer',
    check: (_c, x) =>
      when(
        x.payerAccepts === 'electronic' && !x.hasConnection,
        'The payer has no connection to send through',
      ),
  },
  {
    id: 'payer-hold',
    fixed: true,
    severity: 'stop',
    place: 'payer',
    field: 'accepts',
    reference: 'common practice, no source',
    title: 'The payer’s claims are not on hold',
    check: (_c, x) => when(x.payerAccepts === 'hold', 'Claims to this payer are on hold'),
  },
  {
    id: 'paper-lines',
    payers: 'those on paper, on the pre-printed form',
    severity: 'stop',
    fixed: true,
    place: 'claim',
    field: 'lines',
    reference: '1500 (02/12), box 24: six services',
    title: 'A claim on paper fits on its form, unless its payer lets it go on',
    check: (c, { paperLines }) =>
      when(
        paperLines !== null && c.lines.length > paperLines,
        `The form holds ${paperLines ?? 0} services, and the payer lets no claim go on: make it two`,
      ),
  },
  {
    id: 'filing-code',
    severity: 'stop',
    place: 'payer',
    field: 'filingCode',
    reference: '2000B SBR09',
    title: 'The claim filing indicator is set',
    check: (c) =>
      when(!/^[A-Z0-9]{1,2}$/.test(c.filingCode), 'The payer’s claim filing indicator is missing'),
  },
  {
    id: 'billing-npi',
    severity: 'stop',
    place: 'practice',
    field: 'npi',
    reference: '2010AA NM109; CMS NPI check digit',
    title: 'The billing NPI passes its check digit',
    check: (c) =>
      when(!isNpi(c.billing.npi), `The billing NPI ${c.billing.npi || ''} does not pass its check digit`),
  },
  {
    id: 'billing-tax-id',
    severity: 'stop',
    place: 'practice',
    field: 'taxId',
    reference: '2010AA REF02',
    title: 'The tax id has nine digits',
    check: (c) =>
      when(
        !/^\d{2}-?\d{7}$|^\d{3}-?\d{2}-?\d{4}$/.test(c.billing.taxId),
        'The billing tax id must have nine digits',
      ),
  },
  {
    id: 'billing-taxonomy',
    severity: 'warn',
    place: 'practice',
    field: 'taxonomy',
    reference: '2000A PRV03',
    title: 'The billing taxonomy is set',
    check: (c) =>
      when(
        !/^\d{3}[A-Z0-9]{6}X$/.test(c.billing.taxonomy),
        'The billing taxonomy code is missing or malformed',
      ),
  },
  ...addressRules(
    { id: 'billing', called: 'billing', place: 'practice', loop: '2010AA' },
    ({ billing }) => billing.address,
  ),
  {
    id: 'rendering-npi',
    severity: 'stop',
    place: 'provider',
    field: 'npi',
    reference: '2310B NM109',
    title: 'The rendering NPI passes its check digit',
    check: (c) =>
      when(
        !c.rendering || !isNpi(c.rendering.npi),
        `The rendering provider’s NPI ${c.rendering?.npi ?? ''} does not pass its check digit`,
      ),
  },
  {
    id: 'rendering-taxonomy',
    severity: 'stop',
    place: 'provider',
    field: 'taxonomy',
    reference: '2310B PRV03',
    title: 'The rendering taxonomy is set',
    check: (c) =>
      when(
        !/^\d{3}[A-Z0-9]{6}X$/.test(c.rendering?.taxonomy ?? ''),
        'The rendering provider’s taxonomy code is missing or malformed',
      ),
  },
  {
    id: 'facility-name',
    severity: 'stop',
    place: 'location',
    field: 'name',
    reference: '2310C NM103',
    title: 'The place of the service has a name',
    check: ({ facility }) => when(facility?.name.trim() === '', 'The location needs a name'),
  },
  ...addressRules(
    { id: 'facility', called: 'location’s', place: 'location', loop: '2310C' },
    ({ facility }) => facility?.address,
  ),
  {
    id: 'place-of-service',
    severity: 'stop',
    place: 'location',
    field: 'placeOfService',
    reference: '2300 CLM05-1, CMS place of service codes',
    title: 'The place of service has two digits',
    check: (c) =>
      when(!/^\d{2}$/.test(c.placeOfService), 'The location’s place of service code must have two digits'),
  },
  {
    id: 'payer-before',
    payers: 'next payers',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'otherPayers',
    reference: '2320 AMT*D, 2430 SVD',
    title: 'Every payer before this one has decided',
    check: ({ coverageOrder, otherPayers = [] }) =>
      otherPayers.flatMap(({ coverageOrder: order, payer, decided }) =>
        when(order < coverageOrder && !decided, `${payer.name} comes before, and no decision of it stands`),
      ),
  },
  {
    id: 'payer-before-sum',
    payers: 'next payers',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'otherPayers',
    reference:
      '2320 AMT*D and CAS, 2430 SVD02 and CAS: line = paid + adjusted, CLM02 = AMT*D + all adjustments, AMT*D = SVD02 − CAS of 2320',
    title: 'What a payer before has decided adds up to what was charged',
    check: ({ total, lines, otherPayers = [] }) =>
      otherPayers.flatMap(({ payer, decided }) => {
        if (!decided) return [];
        const adjusted = (list: readonly Adjustment[]): Cents => sum(list.map(({ amount }) => amount));
        const words = (of: Cents, charge: Cents): string =>
          `${payer.name} decided ${formatMoneyPlain(of)} of ${formatMoneyPlain(charge)} that were charged`;
        const numbers = [...new Set(decided.lines.map(({ number }) => number))];
        const wrong = numbers.flatMap((number) => {
          // A line that was split is decided in parts.
          const parts = decided.lines.filter((line) => line.number === number);
          const of = sum(parts.map((line) => add(line.paid, adjusted(line.adjustments))));
          const charge = lines.find((line) => line.number === number)?.charge ?? ZERO;
          return of === charge ? [] : [{ line: number, words: words(of, charge) }];
        });
        if (wrong.length > 0) return wrong;
        const paid = minus(sum(decided.lines.map((line) => line.paid)), adjusted(decided.adjustments));
        if (decided.lines.length > 0 && paid !== decided.paid)
          return [
            `${payer.name} paid ${formatMoneyPlain(decided.paid)} by the claim, and ${formatMoneyPlain(paid)} by its lines`,
          ];
        const whole = sum([
          decided.paid,
          adjusted(decided.adjustments),
          ...decided.lines.map(({ adjustments }) => adjusted(adjustments)),
        ]);
        return when(whole !== total, words(whole, total));
      }),
  },
];
