/** Rules about payer, biller, provider and place. */
import { isNpi } from './npi';
import { type Rule, when } from './rule';

/** Rules about the parties, in the order in which findings are shown. */
export const PARTY_RULES: readonly Rule[] = [
  {
    id: 'payer-id',
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
    id: 'payer-connection',
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
    severity: 'stop',
    place: 'payer',
    field: 'accepts',
    reference: 'common practice, no source',
    title: 'The payer’s claims are not on hold or on paper',
    check: (_c, x) =>
      when(
        x.payerAccepts !== 'electronic',
        x.payerAccepts === 'paper'
          ? 'This payer takes paper claims only'
          : 'Claims to this payer are on hold',
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
  {
    id: 'billing-address',
    severity: 'stop',
    place: 'practice',
    field: 'address',
    reference: '2010AA N301; no post office box',
    title: 'The billing address is a street address',
    check: (c) =>
      when(
        !c.billing.address.line1 || /\b(p\.?\s*o\.?\s*box|lock\s*box)\b/i.test(c.billing.address.line1),
        'The billing address must be a street, not a post office box',
      ),
  },
  {
    id: 'billing-zip',
    severity: 'stop',
    place: 'practice',
    field: 'zip',
    reference: '2010AA N403, nine digits',
    title: 'The billing ZIP has nine digits',
    check: (c) =>
      when(!/^\d{5}-?\d{4}$/.test(c.billing.address.zip), 'The billing address needs a nine-digit ZIP'),
  },
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
    id: 'place-of-service',
    severity: 'stop',
    place: 'location',
    field: 'placeOfService',
    reference: '2300 CLM05-1, CMS place of service codes',
    title: 'The place of service has two digits',
    check: (c) =>
      when(!/^\d{2}$/.test(c.placeOfService), 'The location’s place of service code must have two digits'),
  },
];
