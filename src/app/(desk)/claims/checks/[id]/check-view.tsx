'use client';
import { Button } from 'antd';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain } from '../../../../../core/money';
import { counted } from '../../../../../core/words';
import type { CheckPage, CheckedFinding, FindingGroup } from '../../../../../server/claims/check-only';
import { useAct } from '../../../../../ui/act';
import { fieldWords, fixLink } from '../../../../../ui/claims';
import { useMay } from '../../../../../ui/desk';
import { useKeys } from '../../../../../ui/keys';
import { LineTable } from '../../../../../ui/line-table';
import { useNarrow } from '../../../../../ui/narrow';
import { Link } from '../../../../../ui/link';
import { Head } from '../../../../../ui/page';
import { Tag } from '../../../../../ui/tag';
import { checkOnceMoreAction } from '../../actions';
import css from './check.module.css';

type Row = CheckedFinding & { key: string; group: FindingGroup; first: boolean };

/** What mends it, in words. */
const groupWords = ({ place, field }: Pick<FindingGroup, 'place' | 'field'>): string =>
  field === 'answer'
    ? 'what the payer answered'
    : `${fieldWords(field)}${place === 'claim' || place === 'charge' ? '' : ` of the ${place}`}`;

const keyOf = ({ claimId, finding }: CheckedFinding): string =>
  `${claimId}-${finding.rule}-${finding.line ?? 0}`;

/** A check: what was found stays in its place while it is mended, one press after the other. */
export function CheckView({ check }: { check: CheckPage }) {
  const may = useMay();
  const router = useRouter();
  const params = useSearchParams();
  const { busy, run } = useAct();
  const rows = check.groups.flatMap((group) =>
    group.found.map((one, index): Row => ({ ...one, key: keyOf(one), group, first: index === 0 })),
  );
  const asked = rows.findIndex(({ key }) => key === params.get('at'));
  const open = rows.findIndex(({ mended }) => !mended);
  const narrow = useNarrow();
  const [at, setAt] = useState(asked >= 0 ? asked : Math.max(open, 0));
  const row = rows[at];
  const here = `/claims/checks/${check.id}`;
  const mend = (one: Row | undefined): void => {
    if (one) router.push(placeOf(one, here));
  };
  const next = (): void => {
    const after = rows.findIndex(({ mended }, index) => index > at && !mended);
    const again = after === -1 ? rows.findIndex(({ mended }) => !mended) : after;
    if (again >= 0) setAt(again);
  };
  const again = (): void => void run(() => checkOnceMoreAction({ checkId: check.id }), 'Checked once more');
  // Coming back from where it was mended, the list says so at once.
  const back = params.get('at') !== null;
  useEffect(() => {
    if (back && may('work claims')) void checkOnceMoreAction({ checkId: check.id });
    // Once, on coming back.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  useKeys([
    { key: 'ArrowDown', words: 'next line', run: () => setAt(Math.min(at + 1, rows.length - 1)) },
    { key: 'ArrowUp', words: 'line before', run: () => setAt(Math.max(at - 1, 0)) },
    { key: 'n', words: 'next that is not mended', run: next },
    {
      key: 'Enter',
      words: 'go where it is mended',
      run: (event) => {
        event.preventDefault();
        mend(row);
      },
    },
    ...(may('work claims') ? [{ key: 'r', words: 'check once more', run: again }] : []),
    ...(check.ready > 0
      ? [{ key: 'l', words: 'look at the file', run: () => router.push(`${here}/file`) }]
      : []),
    { key: 'Escape', words: 'back to the claims', run: () => router.push('/claims') },
  ]);
  return (
    <>
      <Head
        title={`Check of ${counted(check.claims, 'claim')}`}
        note={[
          `${check.by}, ${formatDate(check.on)}`,
          `${check.ready} ready${check.ready > 0 ? `, ${formatMoneyPlain(check.readyTotal)}` : ''}`,
          check.toPrint > 0 && `${check.toPrint} to print`,
          `${check.stopped} to fix`,
          check.gone > 0 && `${check.gone} not here any more`,
        ]
          .filter(Boolean)
          .join(' · ')}
      >
        {may('work claims') && (
          <Button loading={busy} onClick={again}>
            Check once more (R)
          </Button>
        )}
        {check.ready > 0 && (
          <Button type="primary" onClick={() => router.push(`${here}/file`)}>
            Look at the file (L)
          </Button>
        )}
      </Head>
      {check.groups.length > 0 && (
        <ul className={css.groups} aria-label="By what mends it">
          {check.groups.map((group) => (
            <li key={`${group.place}/${group.field}`} className={group.left === 0 ? css.done : undefined}>
              <button
                type="button"
                onClick={() =>
                  setAt(rows.findIndex((one) => one.group === group && (group.left === 0 || !one.mended)))
                }
              >
                {groupWords(group)}: {counted(group.claims, 'claim')}
                {group.left < group.claims && (group.left === 0 ? ', all mended' : `, ${group.left} left`)}
              </button>
            </li>
          ))}
        </ul>
      )}
      <LineTable
        label="What was found"
        fills="list"
        rows={rows}
        rowKey={({ key }) => key}
        lit={row?.key}
        onRow={(one) => setAt(rows.indexOf(one))}
        rowClass={({ mended }) => (mended ? css.mended! : '')}
        empty="Every rule holds: nothing to mend"
        columns={[
          {
            key: 'group',
            title: 'What mends it',
            width: narrow ? 132 : 190,
            render: (one) => (one.first ? <strong>{groupWords(one.group)}</strong> : null),
          },
          {
            key: 'claim',
            title: 'Claim',
            width: 100,
            render: ({ claimId, controlNumber }) => <Link href={`/claims/${claimId}`}>{controlNumber}</Link>,
          },
          { key: 'patient', title: 'Patient', width: narrow ? 120 : 150, render: ({ patient }) => patient },
          // On a narrow screen the words need the room.
          ...(narrow
            ? []
            : [{ key: 'payer', title: 'Payer', width: 150, render: ({ payer }: Row) => payer }]),
          {
            key: 'words',
            title: 'What is missing',
            render: ({ finding, late }) => (
              <span title={finding.reference}>
                {finding.line ? `Line ${finding.line}: ` : ''}
                {finding.words}
                {late && <span className="quiet"> (found since)</span>}
              </span>
            ),
          },
          {
            key: 'state',
            title: 'State',
            width: 90,
            render: ({ mended, finding }) =>
              mended ? (
                <Tag>mended</Tag>
              ) : (
                <Tag tone={finding.severity === 'stop' ? 'stop' : 'look'}>{finding.severity}</Tag>
              ),
          },
          {
            key: 'act',
            title: '',
            width: 80,
            render: (one) => !one.mended && <Link href={placeOf(one, here)}>Mend</Link>,
          },
        ]}
      />
    </>
  );
}

/** Where a thing is mended; from there the way leads back to its line. */
const placeOf = (one: Row, here: string): string =>
  fixLink(one.finding, one.ids, `${here}?at=${encodeURIComponent(one.key)}`);
