'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { type Cents, formatMoneyPlain, toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import type { StatementPage } from '../../../../server/overdue/agency-statement';
import { useAct } from '../../../../ui/act';
import { useDialog } from '../../../../ui/dialog';
import { Money } from '../../../../ui/figures';
import { FormDrawer } from '../../../../ui/form';
import { List } from '../../../../ui/list';
import { Head, Notice, Panel, Toolbar } from '../../../../ui/page';
import { DeskTable } from '../../../../ui/table';
import { approveAction, payFeesAction } from '../actions';
import { OverdueViews } from '../views';

interface Agency {
  id: number;
  name: string;
  feeOwed: Cents;
}

const COLUMNS = {
  placement: 'not in both',
  placed: 'handed over',
  collected: 'collected',
  fee: 'fee',
  paid: 'paid to us',
  balance: 'open',
} as const;

/** Placements, and what is between us and the agencies. */
export function PlacementList({
  list,
  agencies,
  statements,
}: {
  list: StateOf<'placements'>;
  agencies: Agency[];
  statements: StatementPage[];
}) {
  const mayPay = useMay()('post agency money');
  const mayApprove = useMay()('approve placements');
  const { busy, run } = useAct();
  const { dialog, params, open, close } = useDialog();
  const [chosen, setChosen] = useState<number[]>([]);
  const owed = agencies.filter(({ feeOwed }) => feeOwed > 0);
  const paying = agencies.find(({ id }) => id === Number(params.get('of')));
  const proposed = list.rows.filter(({ id, status }) => chosen.includes(id) && status === 'proposed');
  const approve = async (): Promise<void> => {
    const done = await run(
      (sure) => approveAction({ placementIds: proposed.map(({ id }) => id), ...sure }),
      ({ count, left }) =>
        `${counted(count, 'account')} handed over${left.length > 0 ? `; left out: ${left.map(({ number, why }) => `${number}: ${why}`).join('; ')}` : ''}`,
    );
    if (done) setChosen([]);
  };
  return (
    <>
      <Head title="Agencies" note={counted(list.count, 'placement')}>
        <OverdueViews value="/overdue/placements" />
      </Head>
      {owed.map(({ id, name, feeOwed }) => (
        <Notice key={id}>
          {formatMoneyPlain(feeOwed)} of fees are owed to {name}.{' '}
          {mayPay && (
            <Button size="small" onClick={() => open('fees', { of: String(id) })}>
              Pay them
            </Button>
          )}
        </Notice>
      ))}
      {mayApprove && proposed.length > 0 && (
        <Toolbar>
          <Button size="small" type="primary" loading={busy} onClick={() => void approve()}>
            Hand over {counted(proposed.length, 'account')}
          </Button>
          <Button size="small" type="text" onClick={() => setChosen([])}>
            Choose none
          </Button>
        </Toolbar>
      )}
      <List
        list={list}
        label="Placements"
        hint="Placement, guarantor or account"
        hrefOf={(row) => `/overdue/placements/${row.id}`}
        selected={
          mayApprove ? { ids: chosen, set: setChosen, may: ({ status }) => status === 'proposed' } : undefined
        }
        empty="Nothing is with an agency"
        cells={{
          number: {
            width: 84,
            render: (row) => <Link href={`/overdue/placements/${row.id}`}>{row.number}</Link>,
          },
          account: {
            width: 84,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          agency: { width: 150, ellipsis: true },
          state: { width: 150, ellipsis: true },
          why: { ellipsis: true },
          amount: { width: 96 },
          collected: { width: 96 },
          fee: { width: 84 },
          open: { width: 96, render: (row) => <Money cents={row.open} strong /> },
        }}
      />
      {statements.length > 0 && (
        <Panel title="Their monthly statements against our books" below>
          <DeskTable<StatementPage>
            label="Statements of agencies"
            rows={statements}
            rowKey={(row) => row.id}
            empty=""
            columns={[
              { key: 'day', title: 'Received', width: 110, render: (row) => formatDate(row.receivedOn) },
              { key: 'agency', title: 'Agency', width: 220, cut: true, render: (row) => row.agency },
              { key: 'lines', title: 'Lines', width: 70, right: true, render: (row) => row.lines },
              {
                key: 'differences',
                title: 'What differs',
                render: (row) =>
                  row.differences.length === 0 ? (
                    <span className="quiet">agrees with our books</span>
                  ) : (
                    <>
                      {row.differences.slice(0, 20).map(({ placement, column, theirs, ours }) => (
                        <div key={`${placement}-${column}`} className="warn">
                          {placement}, {COLUMNS[column]}: theirs{' '}
                          {theirs === null ? 'none' : formatMoneyPlain(theirs)}, ours{' '}
                          {ours === null ? 'none' : formatMoneyPlain(ours)}
                        </div>
                      ))}
                      {row.differences.length > 20 && (
                        <span className="quiet">and {row.differences.length - 20} more</span>
                      )}
                    </>
                  ),
              },
            ]}
          />
        </Panel>
      )}
      {dialog === 'fees' && paying && (
        <FormDrawer
          title={`Fees of ${paying.name}`}
          initial={{ amount: toDecimal(paying.feeOwed), reference: '' }}
          along={{ connectionId: paying.id }}
          once
          action={payFeesAction}
          done={close}
          words="Note that they are paid"
          onClose={close}
        >
          {(f) => (
            <>
              <f.Money name="amount" label="Paid by transfer" needed focus />
              <f.Text name="reference" label="Reference" needed maxLength={60} />
            </>
          )}
        </FormDrawer>
      )}
    </>
  );
}
