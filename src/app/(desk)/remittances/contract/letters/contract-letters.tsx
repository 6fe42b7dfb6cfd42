'use client';
import { Button } from 'antd';
import { counted } from '../../../../../core/words';
import type { StateOf } from '../../../../../server/lists/read';
import { Money } from '../../../../../ui/figures';
import { Link } from '../../../../../ui/link';
import { List } from '../../../../../ui/list';
import { Head } from '../../../../../ui/page';

const EMPTY: Record<string, string> = {
  open: 'Everything that was asked for came back',
  done: 'Nothing came back whole yet',
};

/** Letters to payers, with what came back since. */
export const ContractLetters = ({ list }: { list: StateOf<'contract-letters'> }) => (
  <>
    <Head title="Letters to payers" note={counted(list.count, 'letter')}>
      <Link href="/remittances/contract">
        <Button>Contract check</Button>
      </Link>
    </Head>
    <List
      list={list}
      label="Letters to payers"
      hint="Payer"
      hrefOf={(row) => `/remittances/contract?payer=${row.payerId}`}
      empty={
        list.search ? `No letter found for “${list.search}”` : (EMPTY[list.view] ?? 'No letter was written')
      }
      cells={{
        date: { width: 98 },
        payer: { ellipsis: true },
        by: { width: 110, ellipsis: true },
        lines: { width: 56 },
        below: { width: 106 },
        asked: { width: 84 },
        recovered: { width: 90 },
        left: { width: 84, render: (row) => <Money cents={row.left} strong /> },
      }}
      act={{
        width: 64,
        render: (row) => (
          <a href={`/api/contract-letters?id=${row.id}`} target="_blank" rel="noreferrer">
            Letter
          </a>
        ),
      }}
    />
    <p className="quiet small">
      Asked for is what the payer should have paid beyond what it had; came back is what it paid more since,
      up to that.
    </p>
  </>
);
