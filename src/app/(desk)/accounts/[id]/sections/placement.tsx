'use client';
import { formatMoneyPlain } from '../../../../../core/money';
import { Link } from '../../../../../ui/link';
import { type AccountSection, useAccount } from '../section';

/** What of the account is proposed for, or with, an agency. */
export const placement: AccountSection = { Panel: PlacementLine };

function PlacementLine() {
  const { placement: own } = useAccount().account;
  if (!own) return null;
  return (
    <p className="small">
      <Link href={`/overdue/placements/${own.id}`}>Placement {own.number}</Link>{' '}
      {own.proposed
        ? `is proposed for ${own.agency}`
        : `with ${own.agency}: ${formatMoneyPlain(own.open)} open`}
    </p>
  );
}
