import { STATE_RULES } from '../../../core/payments/surcharge';
import { amount, choice, percent, reference, state, text, whole, yesNo } from '../../../core/setup/fields';
import { Refused } from '../../access';
import { setupTable } from '../table';

/** How patients' money is taken, for the practice and for sites that do otherwise. */
export const paymentPolicy = setupTable({
  key: 'payment-policy',
  title: 'Taking money',
  noun: ['policy', 'policies'],
  about:
    'Surcharges, drawers, checks that come back, refunds. The row without a site is for the whole practice; a site’s own row takes its place there.',
  table: 'payment_policy',
  keys: ['id'],
  order: 'id',
  fields: {
    location_id: reference('Site', { open: true, fixed: true, hint: 'empty: the whole practice' }),
    surcharge_rate: percent('Surcharge on credit cards', {
      hint: 'zero: none. Credit cards alone, never above the cost, the brand’s most and what the state allows',
    }),
    card_cost: percent('What a credit card costs'),
    drawer_opening: amount('In a drawer when it opens'),
    returned_check: amount('Charge for a returned check'),
    credit_by_night: yesNo('Credit pays by night', {
      hint: 'what is open of the same account, oldest first; of the whole practice',
    }),
    refund_most: amount('Refund without a manager, most', { hint: 'zero: any' }),
  },
  refers: { location_id: 'location' },
  verify: async (_, parsed) => {
    if (Number(parsed.surcharge_rate) > Number(parsed.card_cost))
      throw new Refused('limit', 'A surcharge is not more than what the card costs', 'surcharge_rate');
  },
});

/** What brands of cards let one add. */
export const cardBrands = setupTable({
  key: 'card-brands',
  title: 'Brands of cards',
  noun: ['brand', 'brands'],
  about:
    'The most that a brand lets one add for paying by its credit card. A brand that is not here bears no surcharge.',
  table: 'card_brand',
  keys: ['name'],
  order: 'name',
  fields: {
    name: text('Brand', { needed: true, fixed: true, hint: 'as the terminal says it' }),
    most: percent('Most'),
  },
});

/** What states say of surcharges. */
export const surchargeStates = setupTable({
  key: 'surcharge-states',
  title: 'Surcharges by state',
  noun: ['state', 'states'],
  about:
    'Whether a state allows a surcharge on credit cards, up to how much, and what must be said beside it. In a state that is not here none is taken.',
  table: 'surcharge_state',
  keys: ['state'],
  order: 'state',
  fields: {
    state: state('State', { needed: true, fixed: true }),
    rule: choice('Rule', STATE_RULES),
    most: percent('Most', { hint: 'where it is capped' }),
    words: text('What must be said'),
  },
});

/** How long credit rests whose owner is not heard of. */
export const dormancy = setupTable({
  key: 'dormancy',
  title: 'Unclaimed credit by state',
  noun: ['state', 'states'],
  about:
    'How long credit rests whose owner is not heard of, by the state of the owner’s last address, and when a letter goes out before it is handed over to that state. Brought in by the practice; in a state that is not here it rests.',
  table: 'dormancy',
  keys: ['state'],
  order: 'state',
  fields: {
    state: state('State', { needed: true, fixed: true }),
    months: whole('Months from the last contact', 1, 360),
    letter_days: whole('Letter, days before', 0, 730),
    least: amount('Letter from an amount of', { hint: 'below it none is asked for' }),
    source: text('Where it says so'),
  },
});
