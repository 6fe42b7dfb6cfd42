/**
 * The rules that a claim is checked against before it leaves. References name the loop and segment of the guides
 * 005010X222A1 (professional) and 005010X224A2 (dental) that ask for it; trade rules without a standard say so.
 */
import type { ClaimContent } from './content';
import type { CheckContext, Finding, Rule } from './rule';
import { PARTY_RULES } from './rules-parties';
import { PEOPLE_RULES } from './rules-people';
import { SERVICE_RULES } from './rules-services';

/** What a rule is given, and what it finds. */
export type { CheckContext, Finding } from './rule';

/** All rules, in the order in which findings are shown. */
export const RULES: readonly Rule[] = [...PEOPLE_RULES, ...PARTY_RULES, ...SERVICE_RULES];

/** Checks a claim against all rules. */
export function checkClaim(claim: ClaimContent, context: CheckContext): Finding[] {
  return RULES.flatMap((rule) =>
    rule.check(claim, context).map((problem) => ({
      rule: rule.id,
      severity: rule.severity,
      place: rule.place,
      field: rule.field,
      reference: rule.reference,
      ...(typeof problem === 'string' ? { words: problem } : problem),
    })),
  );
}

/** Whether a claim may be sent. */
export const maySend = (findings: readonly Finding[]): boolean =>
  findings.every((finding) => finding.severity !== 'stop');

const HEAD = `# The rules of claims

Made from the code by \`./wergeld types\`; not edited by hand. A claim is checked against all of them before it leaves: what stops
keeps it here, what warns asks for a look. References name the loop and segment of the guides 005010X222A1 (professional) and
005010X224A2 (dental).
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
        '| rule | | what is asked for | reference |',
        '| --- | --- | --- | --- |',
        ...RULES.filter((rule) => rule.place === place).map(
          ({ id, severity, title, reference }) =>
            `| \`${id}\` | ${severity === 'stop' ? 'stops' : 'warns'} | ${cell(title)} | ${cell(reference)} |`,
        ),
        '',
      ].join('\n'),
    ),
  ].join('\n');
}
