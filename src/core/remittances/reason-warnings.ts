/** What is said of reason codes while they are used: codes of our own do not travel as themselves, others are of other days. */
import { type CalendarDate, formatDate } from '../calendar';
import type { Adjustment } from '../x12/adjustments';
import { codeOf } from './decide';

/** What Setup says of a code: whose it is, as what it goes on, and of services of which days it is said. */
export interface ReasonUseRule {
  group: string;
  code: string;
  standard: boolean;
  travelsAs: string;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
}

/**
 * Warnings about the codes of a line, each once. A row of the group comes before the one for every group.
 * @param date of the service; null where it is not known
 */
export function reasonWarnings(
  used: readonly Pick<Adjustment, 'group' | 'reason'>[],
  rules: readonly ReasonUseRule[],
  date: CalendarDate | null,
): string[] {
  const said = used.flatMap((item): string[] => {
    const of = (group: string) => rules.find((rule) => rule.group === group && rule.code === item.reason);
    const rule = of(item.group) ?? of('*');
    if (!rule) return [];
    const name = codeOf(item);
    const own = rule.standard
      ? []
      : [
          rule.travelsAs === ''
            ? `${name} is a code of our own and names no standard one: the next payer’s claim stops at it`
            : `${name} is a code of our own: it goes on to the next payer as ${rule.travelsAs}`,
        ];
    const early = date !== null && rule.validFrom !== null && date < rule.validFrom;
    const late = date !== null && rule.validTo !== null && date > rule.validTo;
    return [
      ...own,
      ...(early ? [`${name} is valid for services from ${formatDate(rule.validFrom!)}`] : []),
      ...(late ? [`${name} is valid for services until ${formatDate(rule.validTo!)}`] : []),
    ];
  });
  return [...new Set(said)];
}
