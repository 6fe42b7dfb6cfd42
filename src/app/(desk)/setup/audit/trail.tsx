'use client';
import { useRouter } from 'next/navigation';
import type { StateOf } from '../../../../server/lists/read';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { SetupNav } from '../nav';
import css from '../setup.module.css';

/** Everything that was read and changed, by whom and from where. */
export function Trail({
  list,
  tables,
}: {
  list: StateOf<'audit'>;
  tables: { key: string; title: string }[];
}) {
  const router = useRouter();
  return (
    <div className={css.setup}>
      <SetupNav tables={tables} at="audit" />
      <div className={css.table}>
        <Head
          title="Audit trail"
          note="What was read and changed, by whom and from where. Nobody can change it."
        />
        <List
          list={list}
          label="Audit trail"
          hint="Person, account, user@ or 2026-03-16"
          empty={list.search ? `Nothing found for “${list.search}”` : 'Nothing was done yet'}
          onOpen={(row) => row.householdId !== null && router.push(`/accounts/${row.householdId}`)}
          cells={{
            at: { width: 138 },
            name: { width: 104, ellipsis: true },
            account: { width: 140, ellipsis: true },
            action: { width: 92, ellipsis: true },
            kind: { width: 88, ellipsis: true },
            subject: { width: 78, ellipsis: true },
            about: { width: 122, ellipsis: true },
            detail: { ellipsis: true },
          }}
        />
      </div>
    </div>
  );
}
