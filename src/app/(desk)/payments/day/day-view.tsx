'use client';
import { useRouter } from 'next/navigation';
import { formatDate } from '../../../../core/calendar';
import { formatMoneyPlain, negate, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { DayPage } from '../../../../server/payments/day';
import { DateInput } from '../../../../ui/date-input';
import { useDesk, useMay } from '../../../../ui/desk';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Head, Panel } from '../../../../ui/page';
import { CardBatch } from './card-batch';
import { Drawer, OpenOne } from './drawer';
import { ToBank } from './to-bank';

/** The end of a day, in the order in which it is done: the drawer, what goes to the bank, the cards, what was taken. */
export function DayView({ page }: { page: DayPage }) {
  const router = useRouter();
  const { today } = useDesk();
  const mayRead = useMay()('read books');
  const came = sum(page.taken.map((row) => row.came));
  const back = negate(sum(page.taken.map((row) => row.back)));
  return (
    <>
      <Head
        title="Day’s end"
        note={`${formatDate(page.day)}: ${formatMoneyPlain(came)} taken${back > 0 ? `, ${formatMoneyPlain(back)} given back` : ''}${page.whole ? '' : ' by you'}`}
      >
        <DateInput
          label="Day"
          value={page.day}
          onChange={(day) => {
            if (/^\d{4}-\d\d-\d\d$/.test(day)) router.push(`/payments/day?day=${day}`);
          }}
        />
      </Head>
      <Panel title="Drawers">
        {page.drawers.length === 0 && (
          <p className="quiet">
            No drawer was opened: cash and checks go to where they wait for the bank, and nobody counts them
            by user.
          </p>
        )}
        {page.drawers.map((drawer) => (
          <Drawer key={drawer.id} drawer={drawer} />
        ))}
        {page.day === today && <OpenOne page={page} />}
      </Panel>
      {page.whole && <ToBank page={page} />}
      {page.merchants.length > 0 && (
        <Panel title="Cards" below>
          {page.merchants.map((place) => (
            <CardBatch key={place.id} place={place} page={page} />
          ))}
        </Panel>
      )}
      <Panel title="Taken" below>
        <LineTable
          label="Taken, by user and tender"
          rows={page.taken}
          rowKey={(row) => `${row.by}/${row.site}/${row.tender}`}
          empty="Nothing was taken on this day"
          words={counted(page.taken.length, 'row')}
          columns={[
            { key: 'by', title: 'Taken by', render: (row) => row.by },
            { key: 'site', title: 'At', width: 180, render: (row) => row.site },
            { key: 'tender', title: 'Tender', width: 140, render: (row) => row.words },
            { key: 'count', title: 'How many', width: 90, right: true, render: (row) => row.count },
            { key: 'came', title: 'Came', width: 110, money: (row) => row.came, sum: true },
            { key: 'back', title: 'Given back', width: 110, money: (row) => row.back, sum: true },
            {
              key: 'surcharge',
              title: 'Surcharges in it',
              width: 120,
              money: (row) => row.surcharge,
              sum: true,
            },
          ]}
        />
        {mayRead && (
          <p>
            <Link href={`/books/reports/takings?from=${page.day}&to=${page.day}`}>
              Each of them: who took what, from whom
            </Link>
          </p>
        )}
      </Panel>
    </>
  );
}
