/** Why a claim is late, as claims say it (2300 CLM20, delay reason code; from memory). */
export const DELAY_REASONS = {
  '1': 'Proof of eligibility was not known or not available',
  '2': 'Litigation',
  '3': 'Authorization was delayed',
  '4': 'The provider’s certification was delayed',
  '5': 'Billing forms were supplied late',
  '6': 'Custom-made appliances were delivered late',
  '7': 'A third party took its time',
  '8': 'Eligibility was determined late',
  '9': 'It was rejected or denied before for a reason that has to do with nothing of its limits',
  '10': 'The administration of prior approval was late',
  '11': 'Other',
  '15': 'Natural disaster',
} as const;
/** A reason for being late. */
export type DelayReason = keyof typeof DELAY_REASONS;
