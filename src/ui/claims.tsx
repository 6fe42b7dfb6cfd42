/** How claims look, wherever they stand. */

import { Link } from './link';
import type { ClaimStatus as Status } from '../core/claims/life';
import type { Finding } from '../core/claims/rules';
import { FIELD_WORDS } from '../core/words';
import css from './claims.module.css';
import { Tag, type Tone } from './tag';

const STATUS: Record<Status, { words: string; tone?: Tone }> = {
  draft: { words: 'needs fixing', tone: 'look' },
  ready: { words: 'ready' },
  sent: { words: 'sent' },
  accepted: { words: 'accepted' },
  rejected: { words: 'rejected', tone: 'stop' },
  decided: { words: 'decided, money open', tone: 'look' },
  closed: { words: 'settled' },
  held: { words: 'on hold', tone: 'look' },
  withdrawn: { words: 'withdrawn' },
};

/** A claim's status in words. */
export const claimWords = (status: Status): string => STATUS[status].words;

/** A claim's status in words, as a tag. */
export function ClaimStatus({ status }: { status: Status }) {
  const found = STATUS[status];
  return <Tag tone={found.tone}>{found.words}</Tag>;
}

/** Where a finding is mended. */
export function fixLink(
  finding: Pick<Finding, 'place' | 'field' | 'line'>,
  claim: {
    id: number;
    householdId: number;
    patientId?: number;
    coverageId?: number;
    caseId?: number;
    payerId?: number;
    lines?: { number: number; chargeId: number }[];
  },
  back = `/claims/${claim.id}`,
): string {
  const own = `/claims/${claim.id}`;
  const query = (values: Record<string, string>): string =>
    new URLSearchParams({ ...values, field: finding.field, back }).toString();
  const person: Record<string, string> = claim.patientId ? { patient: String(claim.patientId) } : {};
  if (finding.place === 'coverage' && claim.coverageId)
    return `/accounts/${claim.householdId}?${query({ show: 'coverage', ...person, coverage: String(claim.coverageId) })}`;
  if (finding.place === 'patient' || finding.place === 'coverage')
    return `/accounts/${claim.householdId}?${query({ show: 'person', ...person })}`;
  if (finding.place === 'payer' && claim.payerId) return `/payers/${claim.payerId}?${query({})}`;
  if (finding.place === 'case' && claim.caseId)
    return `/accounts/${claim.householdId}?${query({ show: 'case', case: String(claim.caseId) })}`;
  if (finding.place === 'charge') {
    const line = claim.lines?.find((item) => item.number === (finding.line ?? 1)) ?? claim.lines?.[0];
    return line
      ? `/accounts/${claim.householdId}?${query({ show: 'charge', charge: String(line.chargeId) })}`
      : own;
  }
  const setup: Record<string, string> = {
    provider: 'providers',
    practice: 'practice',
    location: 'locations',
    reason: 'reasons',
  };
  return setup[finding.place] ? `/setup/${setup[finding.place]}` : own;
}

/** What a finding's field is called in a sentence. */
export const fieldWords = (field: string): string =>
  field === 'zip' || field === 'npi'
    ? field.toUpperCase()
    : (FIELD_WORDS[field] ?? field.replace(/([A-Z])/g, ' $1')).toLowerCase();

/** Findings with their severity, rule and the place to fix them. */
export function Findings({
  findings,
  claim,
  rejected,
}: {
  findings: Finding[];
  rejected?: string;
  claim: Parameters<typeof fixLink>[1];
}) {
  if (findings.length === 0 && rejected) {
    return (
      <p>
        Our rules find nothing, but the payer refused it: {rejected}.{' '}
        <Link href={fixLink({ place: 'coverage', field: 'memberId' }, claim)}>Check the coverage</Link>, then
        send again.
      </p>
    );
  }
  if (findings.length === 0) return <p className="good">Every rule holds: nothing to fix.</p>;
  return (
    <ul className={css.findings}>
      {findings.map((finding, index) => (
        <li key={index}>
          <span className={finding.severity}>{finding.severity === 'stop' ? '■ stop' : '▲ warn'}</span>{' '}
          {finding.line ? `Line ${finding.line}: ` : ''}
          {finding.words}. {/* What is wrong with the claim as a whole is put right nowhere else. */}
          {finding.place !== 'claim' && (
            <Link href={fixLink(finding, claim)}>Fix {fieldWords(finding.field)}</Link>
          )}
          <div className="quiet small">{finding.reference}</div>
        </li>
      ))}
    </ul>
  );
}
