'use client';
import { Button } from 'antd';
import type { StateOf } from '../../../../server/lists/read';
import { useAct } from '../../../../ui/act';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { lookedAtAction } from '../actions';
import { SetupNav } from '../nav';
import css from '../setup.module.css';

type Row = StateOf<'added-codes'>['rows'][number];

const TABLES = { service: 'services', diagnosis: 'diagnoses' } as const;

/** Codes that were added while entering; what was looked at leaves the list. */
export function Added({
  list,
  tables,
}: {
  list: StateOf<'added-codes'>;
  tables: { key: string; title: string }[];
}) {
  const { busy, run } = useAct();
  return (
    <div className={css.setup}>
      <SetupNav tables={tables} at="added" />
      <div className={css.table}>
        <Head
          title="Codes added while entering"
          note="They can be used at once. Look whether words, category and fee are right."
        />
        <List
          list={list}
          label="Codes added while entering"
          hint="Code or words"
          empty="Nothing was added that nobody has looked at"
          cells={{
            code: {
              width: 110,
              render: (row: Row) => (
                <Link href={`/setup/${TABLES[row.kind]}?search=${encodeURIComponent(row.code)}`}>
                  {row.code}
                </Link>
              ),
            },
            kind: { width: 100 },
            description: { ellipsis: true },
            by: { width: 150, ellipsis: true },
          }}
          act={{
            width: 120,
            render: (row: Row) => (
              <Button
                size="small"
                disabled={busy}
                onClick={() =>
                  void run(
                    () => lookedAtAction({ kind: row.kind, code: row.code }),
                    `${row.code} was looked at`,
                  )
                }
              >
                It is right
              </Button>
            ),
          }}
        />
      </div>
    </div>
  );
}
