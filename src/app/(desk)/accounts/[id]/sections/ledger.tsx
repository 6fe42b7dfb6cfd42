'use client';
import { usePathname } from 'next/navigation';
import { counted } from '../../../../../core/words';
import { Link } from '../../../../../ui/link';
import { Ledger } from '../ledger';
import { type AccountSection, useAccount } from '../section';

/** What was charged, paid and sent, in the order of time. */
export const ledger: AccountSection = { Panel: LedgerPanel };

function LedgerPanel() {
  const path = usePathname();
  const { account } = useAccount();
  return (
    <>
      {account.earlier > 0 && (
        <p className="small">
          {counted(account.earlier, 'earlier charge is', 'earlier charges are')} not shown.{' '}
          <Link href={`${path}?all=1`}>Show all</Link>
        </p>
      )}
      <Ledger />
    </>
  );
}
