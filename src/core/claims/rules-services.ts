/** Rules about diagnoses, lines, the case and dates. */
import { type CalendarDate, addDays, daysBetween, formatDate } from '../calendar';
import { sum } from '../money';
import { CLAIM_LIMITS, MAX_POINTERS } from './build';
import type { ClaimContent, ClaimLineContent } from './content';
import { isNpi } from './npi';
import { type CheckContext, type Rule, perLine, when } from './rule';
import { STATES } from './states';
import { formOf } from './taxonomy';

const TEETH = /^([1-9]|[12]\d|3[0-2]|[A-T])$/;
const professional = (claim: ClaimContent): boolean => claim.form === 'professional';

/** Whether an accident has no date, or one after a service. */
function hasBadAccident({ accident, lines }: ClaimContent): boolean {
  if (!accident) return false;
  const { date } = accident;
  return date === null || lines.some((line) => line.date < date);
}

/**
 * The last day on which a payer takes a claim for a line: so many days after the service; of a next payer, after the one before it
 * first decided, whatever that corrected afterwards. Common practice, no source.
 */
const lastDay = (
  claim: ClaimContent,
  line: ClaimLineContent,
  { timelyFilingDays, laterFilingDays, firstDecided }: CheckContext,
): CalendarDate =>
  claim.coverageOrder > 1 && firstDecided !== null
    ? addDays(firstDecided > line.date ? firstDecided : line.date, laterFilingDays ?? timelyFilingDays)
    : addDays(line.date, timelyFilingDays);

/** Dates of a case that nothing billed for it precedes. */
const AFTER_NONE = {
  onset: 'The onset',
  firstTreated: 'The first treatment',
  acute: 'The acute day',
  lastSeen: 'The day last seen',
  firstContact: 'The first contact',
} as const;

/** Rules about services, in the order in which findings are shown. */
export const SERVICE_RULES: readonly Rule[] = [
  {
    id: 'has-lines',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'lines',
    reference: '2400 LX',
    title: 'There is at least one line',
    check: (c) => when(c.lines.length === 0, 'The claim has no service lines'),
  },
  {
    id: 'line-limit',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'lines',
    reference: '2400, 50 repeats',
    title: 'Lines are within the form’s limit',
    check: (c) =>
      when(
        c.lines.length > CLAIM_LIMITS[c.form].lines,
        `A ${c.form} claim holds ${CLAIM_LIMITS[c.form].lines} lines`,
      ),
  },
  {
    id: 'total',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'total',
    reference: '2300 CLM02',
    title: 'The total is the sum of the lines',
    check: (c) =>
      when(sum(c.lines.map((line) => line.charge)) !== c.total, 'The total is not the sum of the lines'),
  },
  {
    id: 'provider-kind',
    severity: 'warn',
    place: 'charge',
    field: 'providerId',
    reference: 'NUCC Health Care Provider Taxonomy, grouping Dental Providers (from memory)',
    title: 'Who rendered the services fits their form',
    check: (c) => {
      const who = c.rendering ?? c.billing;
      return when(
        !!who.taxonomy && !!who.last && formOf(who.taxonomy) !== c.form,
        `${who.first ?? ''} ${who.last} renders ${formOf(who.taxonomy)} services, and this claim is ${c.form}`.trim(),
      );
    },
  },
  {
    id: 'diagnosis-present',
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: '837P 2300 HI01',
    title: 'A professional claim has a diagnosis',
    check: (c) =>
      when(professional(c) && c.diagnoses.length === 0, 'A professional claim needs at least one diagnosis'),
  },
  {
    id: 'diagnosis-limit',
    fixed: true,
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: '2300 HI, 12 professional, 4 dental',
    title: 'Diagnoses are within the form’s limit',
    check: (c) =>
      when(
        c.diagnoses.length > CLAIM_LIMITS[c.form].diagnoses,
        `At most ${CLAIM_LIMITS[c.form].diagnoses} diagnoses on a ${c.form} claim`,
      ),
  },
  {
    id: 'diagnosis-valid',
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: '2300 HI, ICD-10-CM code set valid on the date',
    title: 'Each diagnosis is known and valid on the date',
    check: (c, x) =>
      c.diagnoses.flatMap((code) => {
        const known = x.diagnoses.get(code);
        const day = c.lines[0]?.date;
        if (!known) return [`Diagnosis ${code} is not in the code list`];
        return when(
          !!day && ((known.from !== null && day < known.from) || (known.to !== null && day > known.to)),
          `Diagnosis ${code} is not valid on ${day}`,
        );
      }),
  },
  {
    id: 'line-pointer',
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: '837P 2400 SV107',
    title: 'Every professional line points to a diagnosis',
    check: (c) =>
      perLine(
        c,
        (line) => professional(c) && line.pointers.length === 0 && `${line.code} points to no diagnosis`,
      ),
  },
  {
    id: 'pointer-valid',
    fixed: true,
    severity: 'stop',
    place: 'charge',
    field: 'diagnoses',
    reference: '2400 SV107 / SV311, up to 4',
    title: 'Pointers lead to diagnoses of the claim',
    check: (c) =>
      perLine(
        c,
        (line) =>
          (line.pointers.length > MAX_POINTERS ||
            line.pointers.some((p) => p < 1 || p > c.diagnoses.length)) &&
          `${line.code} points to a diagnosis that is not on the claim`,
      ),
  },
  {
    id: 'line-date',
    severity: 'stop',
    place: 'charge',
    field: 'date',
    reference: '2400 DTP*472',
    title: 'No service lies in the future',
    check: (c, x) => perLine(c, (line) => line.date > x.today && `${line.code} is dated in the future`),
  },
  {
    id: 'service-code',
    severity: 'stop',
    place: 'charge',
    field: 'code',
    reference: '2400 SV101-2 / SV301-2',
    title: 'Codes have the form of their code list',
    check: (c) =>
      perLine(
        c,
        (line) =>
          !(professional(c) ? /^[A-Z0-9]\d{3}[A-Z0-9]$/ : /^D\d{4}$/).test(line.code) &&
          `${line.code} does not look like a ${professional(c) ? 'procedure' : 'dental procedure'} code`,
      ),
  },
  {
    id: 'modifiers',
    severity: 'stop',
    place: 'charge',
    field: 'modifiers',
    reference: '2400 SV101-3 to -6, two characters, up to 4',
    title: 'Modifiers have two characters',
    check: (c) =>
      perLine(
        c,
        (line) =>
          (line.modifiers.length > 4 || line.modifiers.some((mod) => !/^[A-Z0-9]{2}$/.test(mod))) &&
          `${line.code} has a malformed modifier`,
      ),
  },
  {
    id: 'modifier-repeat',
    severity: 'warn',
    place: 'charge',
    field: 'modifiers',
    reference: 'common practice, no source',
    title: 'A modifier stands once on a line',
    check: (c) =>
      perLine(
        c,
        (line) => new Set(line.modifiers).size < line.modifiers.length && `${line.code} repeats a modifier`,
      ),
  },
  {
    id: 'units',
    severity: 'stop',
    place: 'charge',
    field: 'units',
    reference: '2400 SV104 / SV306',
    title: 'Units are whole and more than zero',
    check: (c) =>
      perLine(
        c,
        (line) =>
          (!Number.isInteger(line.units) || line.units < 1 || line.units > 999) &&
          `${line.code} has ${line.units} units`,
      ),
  },
  {
    id: 'fee-zero',
    severity: 'stop',
    place: 'charge',
    field: 'fee',
    reference: '2400 SV102 / SV302, common practice',
    title: 'Each line has a fee',
    check: (c) => perLine(c, (line) => line.charge <= 0 && `${line.code} has no fee`),
  },
  {
    id: 'tooth',
    severity: 'stop',
    place: 'charge',
    field: 'tooth',
    reference: '837D 2400 TOO02',
    title: 'The tooth is stated where the service needs it',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          c.form === 'dental' &&
          (x.services.get(line.code)?.needsTooth ?? false) &&
          !TEETH.test(line.tooth) &&
          `${line.code} needs a tooth (1–32 or A–T)`,
      ),
  },
  {
    id: 'clia',
    severity: 'stop',
    place: 'location',
    field: 'clia',
    reference: '837P 2300 REF X4',
    title: 'The number of the laboratory (CLIA) is stated where a service needs it',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          c.form === 'professional' &&
          (x.services.get(line.code)?.needsClia ?? false) &&
          !c.clia &&
          `${line.code} needs the number of the laboratory, which the site does not have`,
      ),
  },
  {
    id: 'surface',
    severity: 'stop',
    place: 'charge',
    field: 'surfaces',
    reference: '837D 2400 TOO03',
    title: 'Surfaces are stated where the service needs them',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          c.form === 'dental' &&
          (((x.services.get(line.code)?.needsSurface ?? false) && line.surfaces === '') ||
            !/^[MODBLFI]{0,5}$/.test(line.surfaces)) &&
          `${line.code} needs tooth surfaces (letters of M O D B L F I)`,
      ),
  },
  {
    id: 'authorization',
    payers: 'those that demand one',
    severity: 'stop',
    place: 'case',
    field: 'authorizationNumber',
    reference: '2300 REF*G1',
    title: 'The authorization number is there where the payer demands one',
    check: (c, x) =>
      when(
        x.requiresAuthorization && !c.authorizationNumber,
        'This payer demands an authorization number on the case',
      ),
  },
  {
    id: 'referring',
    payers: 'those that demand one',
    severity: 'stop',
    place: 'case',
    field: 'referring',
    reference: '2310A NM109',
    title: 'The referring provider is there where the payer demands one',
    check: (c, x) =>
      when(x.requiresReferring && !c.referring, 'This payer demands a referring provider on the case'),
  },
  {
    id: 'referring-npi',
    severity: 'stop',
    place: 'case',
    field: 'referring',
    reference: '2310A NM109; CMS NPI check digit',
    title: 'The referring NPI passes its check digit',
    check: (c) =>
      when(
        !!c.referring && !isNpi(c.referring.npi),
        'The referring provider’s NPI does not pass its check digit',
      ),
  },
  {
    id: 'accident-date',
    severity: 'stop',
    place: 'case',
    field: 'accidentDate',
    reference: '2300 DTP*439',
    title: 'An accident case has its date, not after the service',
    check: (c) => when(hasBadAccident(c), 'The accident date is missing or after the service'),
  },
  {
    id: 'accident-state',
    severity: 'stop',
    place: 'case',
    field: 'accidentState',
    reference: '2300 CLM11-4',
    title: 'A car accident has its state',
    check: (c) =>
      when(
        c.accident?.kind === 'AA' && !STATES.has(c.accident.state),
        'A car accident needs the state where it happened',
      ),
  },
  {
    id: 'case-dates',
    severity: 'stop',
    place: 'case',
    field: 'dates',
    reference: '2300 DTP*431, 454, 453, 304, 444, 360',
    title: 'No date of the case lies after the services',
    check: (c) =>
      Object.entries(AFTER_NONE).flatMap(([name, words]) => {
        const date = c.dates?.[name as keyof typeof AFTER_NONE];
        return when(
          date !== undefined && c.lines.length > 0 && c.lines.every((line) => line.date < date),
          `${words} of the case, ${date && formatDate(date)}, lies after the service`,
        );
      }),
  },
  {
    id: 'prior-placement',
    severity: 'stop',
    place: 'charge',
    field: 'priorPlacement',
    reference: '2400 DTP*441',
    title: 'A prosthesis that replaces one says when that was placed',
    check: (c) =>
      perLine(c, (line) =>
        line.prosthesis === 'R' && line.priorPlacement === null
          ? `${line.code} replaces a prosthesis: when was that placed?`
          : line.priorPlacement !== null &&
            line.priorPlacement >= line.date &&
            `The prosthesis before was placed on ${line.priorPlacement}, which is not before ${line.date}`,
      ),
  },
  {
    id: 'timely-filing-past',
    severity: 'stop',
    place: 'claim',
    field: 'date',
    reference: 'payer’s filing limit, common practice',
    title: 'The payer’s filing limit is not past',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          c.frequency === '1' &&
          !c.delayReason &&
          lastDay(c, line, x) < x.today &&
          `The filing limit for ${line.date} passed on ${lastDay(c, line, x)}`,
      ),
  },
  {
    id: 'timely-filing-late',
    severity: 'warn',
    place: 'claim',
    field: 'delayReason',
    reference: '2300 CLM20',
    title: 'A claim that is late says why',
    check: (c, x) =>
      when(
        c.frequency === '1' && !!c.delayReason && c.lines.some((line) => lastDay(c, line, x) < x.today),
        'The filing limit is past; the claim says why it is late',
      ),
  },
  {
    id: 'timely-filing-correction',
    severity: 'warn',
    place: 'claim',
    field: 'date',
    reference: 'payer’s limit for corrections, common practice',
    title: 'A correction is not later than first claims may be',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          c.frequency !== '1' &&
          lastDay(c, line, x) < x.today &&
          `The limit for first claims of ${line.date} passed on ${lastDay(c, line, x)}: ask the payer for its limit for corrections`,
      ),
  },
  {
    id: 'timely-filing-near',
    severity: 'warn',
    place: 'claim',
    field: 'date',
    reference: 'payer’s filing limit, common practice',
    title: 'The filing limit is not near',
    check: (c, x) =>
      perLine(c, (line) => {
        const left = daysBetween(x.today, lastDay(c, line, x));
        return left >= 0 && left <= 14 && `Only ${left} days are left to file ${line.date}`;
      }),
  },
  {
    id: 'duplicate',
    severity: 'warn',
    place: 'claim',
    field: 'lines',
    reference: 'common practice, no source',
    title: 'No sent claim has the same service',
    check: (c, x) =>
      perLine(
        c,
        (line) =>
          x.duplicates.has(line.number) &&
          `${line.code} on ${line.date} was already sent on claim ${x.duplicates.get(line.number)}`,
      ),
  },
  {
    id: 'replacement-number',
    fixed: true,
    severity: 'stop',
    place: 'claim',
    field: 'payerClaimNumber',
    reference: '2300 REF*F8',
    title: 'A replacement or void carries the payer’s claim number',
    check: (c) =>
      when(
        c.frequency !== '1' && !c.payerClaimNumber,
        'A replacement or void needs the payer’s own claim number',
      ),
  },
];
