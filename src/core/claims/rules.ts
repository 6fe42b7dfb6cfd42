/**
 * The rules that a claim is checked against before it leaves. References name the loop and segment of the guides
 * 005010X222A1 (professional) and 005010X224A2 (dental) that ask for it; trade rules without a standard say so.
 */
import type { ClaimContent } from './content';
import { CLAIM_NEEDS, CLAIM_NEED_NAMES, needRule } from './needs';
import type { CheckContext, Finding, Rule, Severity } from './rule';
import { PARTY_RULES } from './rules-parties';
import { PEOPLE_RULES } from './rules-people';
import { SERVICE_RULES } from './rules-services';
import { SITUATION_RULES } from './rules-situations';

/** What a rule is given, and what it finds. */
export type { CheckContext, Finding } from './rule';

/** All rules, in the order in which findings are shown. */
export const RULES: readonly Rule[] = [...PEOPLE_RULES, ...PARTY_RULES, ...SERVICE_RULES, ...SITUATION_RULES];

/** Rules that a payer may have otherwise. */
export const OPEN_RULES: readonly Rule[] = RULES.filter(({ fixed }) => !fixed);

/** How a rule weighs with the payer of a claim: null where it asks nothing. */
function severityOf(rule: Rule, { severities }: CheckContext): Severity | null {
  const own = rule.fixed ? undefined : severities.get(rule.id);
  return own === 'off' ? null : (own ?? rule.severity);
}

/** Checks a claim against all rules, as its payer has them, and against what it asks for beside them. */
export function checkClaim(claim: ClaimContent, context: CheckContext): Finding[] {
  const needs = [...context.needs].map(([name, severity]) => needRule(name, severity));
  return [...RULES, ...needs].flatMap((rule) => {
    const severity = severityOf(rule, context);
    if (severity === null) return [];
    return rule.check(claim, context).map((problem) => ({
      rule: rule.id,
      severity,
      place: rule.place,
      field: rule.field,
      reference: rule.reference,
      ...(typeof problem === 'string' ? { words: problem } : problem),
    }));
  });
}

/** Whether a claim may be sent. */
export const maySend = (findings: readonly Finding[]): boolean =>
  findings.every((finding) => finding.severity !== 'stop');

const HEAD = `# The rules of claims

Made from the code by \`./wergeld types\`; not edited by hand. A claim is checked against all of them before it leaves: what stops
keeps it here, what warns asks for a look; a payer may have those without a star
otherwise. References name the loop and segment of the guides 005010X222A1 (professional) and 005010X224A2 (dental).
`;

/** What can be asked for, as a page of the documents says it. */
const NEEDS_HEAD = `## What a payer may ask for beside them

Made in Setup, at the payer: each is a rule that stops or warns there.
`;

/** All rules as a page of the documents, by the form on which a finding is mended. */
export function rulesPage(): string {
  const places = [...new Set(RULES.map(({ place }) => place))];
  const cell = (text: string): string => text.replaceAll('|', '\\|');
  return [
    HEAD,
    ...places.map((place) =>
      [
        `## ${place.charAt(0).toUpperCase()}${place.slice(1)}\n`,
        '| rule | | what is asked for | reference | of whom |',
        '| --- | --- | --- | --- | --- |',
        ...RULES.filter((rule) => rule.place === place).map(
          ({ id, severity, title, reference, fixed, payers = 'all payers' }) =>
            `| \`${id}\`${fixed ? ' *' : ''} | ${severity === 'stop' ? 'stops' : 'warns'} | ${cell(title)} | ${cell(reference)} | ${payers} |`,
        ),
        '',
      ].join('\n'),
    ),
    [
      NEEDS_HEAD,
      '| rule | what is asked for | reference |',
      '| --- | --- | --- |',
      ...CLAIM_NEED_NAMES.map(
        (name) => `| \`needs-${name}\` | ${CLAIM_NEEDS[name].words} | ${CLAIM_NEEDS[name].reference} |`,
      ),
      '',
    ].join('\n'),
  ].join('\n');
}
