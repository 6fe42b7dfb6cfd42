/** What a payer may ask for that others do not: rules that a manager makes in Setup. A closed list of what can be asked. */
import type { ClaimContent, ClaimLineContent } from './content';
import type { FixPlace, Problem, Rule, Severity } from './rule';
import { perLine, when } from './rule';

interface Need {
  /** What is asked for, as it is offered. */
  words: string;
  place: FixPlace;
  field: string;
  /** Loop and element of the guides, or the box on paper. */
  reference: string;
  missing(claim: ClaimContent): Problem[];
}

/** Something of the claim as a whole. */
const ofClaim = (
  words: string,
  [place, field, reference]: [FixPlace, string, string],
  has: (claim: ClaimContent) => unknown,
): Need => ({
  words,
  place,
  field,
  reference,
  missing: (claim) => when(!has(claim), `${claim.payer.name} asks for: ${words.toLowerCase()}`),
});
/** Something of each line. */
const ofLine = (
  words: string,
  field: string,
  reference: string,
  has: (line: ClaimLineContent) => unknown,
): Need => ({
  words,
  place: 'charge',
  field,
  reference,
  missing: (claim) =>
    perLine(
      claim,
      (line) => !has(line) && `${claim.payer.name} asks for: ${words.toLowerCase()} (${line.code})`,
    ),
});

/** Everything that can be asked for, by the name under which it is kept. */
export const CLAIM_NEEDS = {
  'group-number': ofClaim(
    'Group number',
    ['coverage', 'groupNumber', '2000B SBR03'],
    (c) => c.subscriber.groupNumber,
  ),
  'plan-name': ofClaim(
    'Name of the plan',
    ['coverage', 'planName', '2000B SBR04'],
    (c) => c.subscriber.planName,
  ),
  'injury-number': ofClaim(
    'Number of the injury at the payer',
    ['coverage', 'claimNumber', '2010BA or 2010CA REF*Y4'],
    (c) => c.subscriber.casualtyNumber,
  ),
  'middle-name': ofClaim(
    'Middle name of the patient',
    ['patient', 'middle', '2010BA or 2010CA NM105'],
    (c) => c.patient.middle,
  ),
  'patient-sex': ofClaim(
    'Sex of the patient',
    ['patient', 'sex', '2010BA or 2010CA DMG03'],
    (c) => c.patient.sex !== 'U',
  ),
  'patient-zip': ofClaim(
    'Nine-digit ZIP of the patient',
    ['patient', 'zip', '2010BA or 2010CA N403'],
    (c) => c.patient.address.zip.replace(/\D/g, '').length === 9,
  ),
  referral: ofClaim('Referral number', ['case', 'referralNumber', '2300 REF*9F'], (c) => c.referralNumber),
  authorization: ofClaim(
    'Authorization number',
    ['case', 'authorizationNumber', '2300 REF*G1'],
    (c) => c.authorizationNumber,
  ),
  referring: ofClaim(
    'Who referred',
    ['case', 'referring', '2310A NM1*DN'],
    (c) => c.referring && (c.referring.role ?? 'DN') === 'DN',
  ),
  ordering: ofClaim('Who ordered', ['case', 'referring', '2420E NM1*DK'], (c) => c.referring?.role === 'DK'),
  supervising: ofClaim(
    'Who supervises',
    ['case', 'referring', '2310D NM1*DQ'],
    (c) => c.referring?.role === 'DQ',
  ),
  onset: ofClaim('Date of onset', ['case', 'dates', '2300 DTP*431'], (c) => c.dates?.onset),
  'first-treated': ofClaim(
    'Day of the first treatment',
    ['case', 'dates', '2300 DTP*454'],
    (c) => c.dates?.firstTreated,
  ),
  'last-seen': ofClaim('Day last seen', ['case', 'dates', '2300 DTP*304'], (c) => c.dates?.lastSeen),
  'accident-date': ofClaim(
    'Date of the accident',
    ['case', 'accidentDate', '2300 DTP*439'],
    (c) => c.accident?.date,
  ),
  facility: ofClaim('Where it was done, by name', ['location', 'name', '2310C NM1*77'], (c) => c.facility),
  'billing-number': ofClaim(
    'Number under which it knows who bills',
    ['payer', 'providers', '2010AA or 2010BB REF'],
    (c) =>
      [...(c.billing.references ?? []), ...(c.payer.references ?? [])].some(({ qualifier }) =>
        ['G2', 'LU', '0B', '1G'].includes(qualifier),
      ),
  ),
  'rendering-number': ofClaim(
    'Number under which it knows who did it',
    ['payer', 'providers', '2310B REF'],
    (c) => (c.rendering?.references ?? []).length > 0,
  ),
  attachment: ofClaim(
    'Something sent beside the claim',
    ['claim', 'attachments', '2300 PWK'],
    (c) => (c.attachments ?? []).length > 0,
  ),
  note: ofClaim('A note', ['claim', 'note', '2300 NTE'], (c) => c.note),
  diagnosis: ofClaim(
    'A diagnosis, on dental claims too',
    ['charge', 'diagnoses', '2300 HI'],
    (c) => c.diagnoses.length > 0,
  ),
  modifier: ofLine(
    'A modifier on every line',
    'modifiers',
    '2400 SV101-3',
    (line) => line.modifiers.length > 0,
  ),
  tooth: ofLine('A tooth on every line', 'tooth', '2400 TOO02', (line) => line.tooth),
  area: ofLine('A quadrant or arch on every line', 'area', '2400 SV304', (line) => line.area),
  drug: ofLine('A drug code on every line', 'drug', '2410 LIN03', (line) => line.drug),
} as const satisfies Record<string, Need>;
/** The name of something that can be asked for. */
export type ClaimNeed = keyof typeof CLAIM_NEEDS;
/** All names. */
export const CLAIM_NEED_NAMES = Object.keys(CLAIM_NEEDS) as ClaimNeed[];

/** What a payer asks for as a rule of claims. */
export const needRule = (name: ClaimNeed, severity: Severity): Rule => {
  const { words, place, field, reference, missing } = CLAIM_NEEDS[name];
  return { id: `needs-${name}`, severity, place, field, reference, title: words, check: missing };
};
