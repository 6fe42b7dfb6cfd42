/** What payers want otherwise than the guides say: each changes one element of its claims. A closed list. */
import type { ClaimContent } from '../claims/content';

interface Setting {
  /** What it does. */
  words: string;
  /** Loop and element of both guides (005010X222A1, 005010X224A2). */
  place: string;
  apply(claim: ClaimContent): ClaimContent;
}

/** Every setting, by the name under which it is kept. */
export const PAYER_SETTINGS = {
  'no-billing-taxonomy': {
    words: 'No taxonomy of who bills',
    place: '2000A PRV03',
    apply: (claim) => ({ ...claim, billing: { ...claim.billing, taxonomy: '' } }),
  },
  'no-rendering-taxonomy': {
    words: 'No taxonomy of who did it',
    place: '2310B PRV03',
    apply: (claim) =>
      claim.rendering ? { ...claim, rendering: { ...claim.rendering, taxonomy: '' } } : claim,
  },
  'no-group-number': {
    words: 'No group number',
    place: '2000B SBR03',
    apply: (claim) => ({ ...claim, subscriber: { ...claim.subscriber, groupNumber: '' } }),
  },
  'no-plan-name': {
    words: 'No name of the plan',
    place: '2000B SBR04',
    apply: (claim) => ({ ...claim, subscriber: { ...claim.subscriber, planName: '' } }),
  },
  'no-referring': {
    words: 'Nobody who referred',
    place: '2310A NM1',
    apply: ({ referring: _, ...claim }) => claim,
  },
  'no-facility': {
    words: 'No place of service by name',
    place: '2310C NM1',
    apply: ({ facility: _, ...claim }) => claim,
  },
} as const satisfies Record<string, Setting>;
/** The name of a setting. */
export type PayerSetting = keyof typeof PAYER_SETTINGS;

const isSetting = (name: string): name is PayerSetting => Object.hasOwn(PAYER_SETTINGS, name);

/** A claim as its payer wants it. @param names of the settings; one that is not known changes nothing */
export const asWanted = (claim: ClaimContent, names: readonly string[]): ClaimContent =>
  names.filter(isSetting).reduce((changed, name) => PAYER_SETTINGS[name].apply(changed), claim);
