'use client';
import { Link } from '../../../../../ui/link';
import type { StateOf } from '../../../../../server/lists/read';
import { List } from '../../../../../ui/list';
import { Head } from '../../../../../ui/page';

/** Who saw or changed the record of a household, the newest first; its file is what a person is given who asks. */
export function Seen({ list, title, id }: { list: StateOf<'seen'>; title: string; id: string }) {
  return (
    <>
      <Head title="Who saw this record" note={title}>
        <Link href={`/accounts/${id}`}>Back to the account</Link>
      </Head>
      <List
        list={list}
        label="Who saw this record"
        empty="Nobody yet"
        cells={{
          at: { width: 150 },
          name: { width: 160, ellipsis: true },
          account: { width: 200, ellipsis: true },
          action: { width: 150 },
          kind: { width: 120 },
          about: { ellipsis: true },
        }}
      />
      <p className="small quiet">
        Lists and searches that named many people stand on the audit trail and not here.
      </p>
    </>
  );
}
