/** What the form of a payment needs beside the account: what credit cards bear at each site, and whether a terminal reads cards there. */
import { sql } from 'kysely';
import type { BasisPoints } from '../../core/money';
import { idField } from '../../core/fields';
import type { SpreadCharge } from '../../core/payments/spread';
import type { SurchargeRule } from '../../core/payments/surcharge';
import type { CalendarDate } from '../../core/calendar';
import { type Context, allow } from '../access';
import { envelopeOf, openCharges } from '../books/open-lines';
import { allowOpen } from '../closed';
import { parseInput } from '../input';
import { bearingNone, householdBearsNone, readSurchargeRule } from './surcharge';
import { waitingCards } from './tenders';
import { terminalUrl } from './terminal';

/** A rule as it goes to a browser: its brands as pairs. */
export type SentRule = Omit<SurchargeRule, 'brands'> & { brands: [string, BasisPoints][] };

/** A site at which money is taken. */
export interface TakingSite {
  id: number;
  name: string;
  /** A terminal reads cards here. */
  terminal: boolean;
  rule: SentRule;
  /** Who asks has a drawer open here. */
  drawer: boolean;
}

/** What the form of a payment needs. */
export interface TakingForm {
  sites: TakingSite[];
  /** The account's own site, else the only one, else the first. */
  siteId: number;
  /** What is open of the account, as money is spread over it, and whose it is kept apart for. */
  open: (SpreadCharge & { apart: number | null })[];
  /** Charges on which a card bears no surcharge, of all accounts of its envelope. */
  bearNone: number[];
  /** Nor does anything else that this household pays. */
  allBearNone: boolean;
  noChecksSince: CalendarDate | null;
  /** Cards of the account for which the terminal has not answered, in words. */
  waiting: string[];
}

/** Reads what the form of a payment needs. */
export async function readTakingForm(context: Context, id: unknown): Promise<TakingForm> {
  allow(context, 'take payments');
  const householdId = parseInput(idField, id);
  await allowOpen(context, { householdId });
  const { db } = context;
  const [sites, household, open, allBearNone, waiting] = await Promise.all([
    db
      .selectFrom('location as l')
      .select([
        'l.id',
        'l.name',
        sql<boolean>`
          exists (
            select
            from place p
            where p.kind = 'clearing'
              and p.merchant <> ''
              and (p.location_id is null or p.location_id = l.id)
              and (p.closed_on is null or p.closed_on > ${context.today}::date)
          )`.as('merchant'),
        sql<boolean>`
          exists (
            select from drawer d where d.location_id = l.id and d.user_id = ${context.user.id} and d.closed_at is null
          )`.as('drawer'),
      ])
      .orderBy('l.id')
      .execute(),
    db
      .selectFrom('household')
      .select(['location_id', 'no_checks_on'])
      .where('id', '=', householdId)
      .executeTakeFirst(),
    envelopeOf(db, householdId).then((households) => openCharges(context, households)),
    householdBearsNone(db, householdId, context.today),
    waitingCards(db, householdId),
  ]);
  const none = await bearingNone(
    db,
    open.map((charge) => charge.id),
  );
  const rules = await Promise.all(sites.map((site) => readSurchargeRule(db, site.id)));
  return {
    sites: sites.map(({ merchant, ...site }, at) => ({
      ...site,
      terminal: merchant && terminalUrl() !== null,
      rule: { ...rules[at]!, brands: [...rules[at]!.brands] },
    })),
    siteId: household?.location_id ?? sites[0]?.id ?? 0,
    open: open
      .filter((charge) => charge.householdId === householdId)
      .map(({ id: chargeId, date, owed, left, patientId, apart }) => ({
        id: chargeId,
        date,
        owed,
        left,
        patientId,
        apart,
      })),
    bearNone: [...none],
    allBearNone,
    noChecksSince: household?.no_checks_on ?? null,
    waiting,
  };
}
