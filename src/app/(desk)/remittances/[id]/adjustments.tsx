'use client';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import { negate } from '../../../../core/money';
import { adjustmentWords, isInterest } from '../../../../core/remittances/adjustment-words';
import { counted } from '../../../../core/words';
import type { AdjustmentRow, AdjustmentUse } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { LineTable, type SubLine } from '../../../../ui/line-table';
import { undoCreditAction } from '../actions';
import { SettleCredit } from '../settle-credit';
import css from './adjustments.module.css';

type Row = AdjustmentRow & { key: string };

/** What a remittance says of the provider and not of a claim, what is open of it, and what was done with it. */
export function Adjustments({
  rows,
  maySettle,
  mayUndo,
}: {
  rows: readonly AdjustmentRow[];
  maySettle: boolean;
  mayUndo: boolean;
}) {
  const [settling, setSettling] = useState<string | null>(null);
  const keyed: Row[] = rows.map((row, index) => ({ ...row, key: String(index) }));
  const row = keyed.find(({ key }) => key === settling);
  return (
    <div className={css.adjustments}>
      <LineTable<Row>
        label="Provider adjustments"
        rows={keyed}
        rowKey={({ key }) => key}
        empty="No provider adjustments"
        unfolded={new Set(keyed.filter(({ credit }) => credit?.uses.length).map(({ key }) => key))}
        lines={({ credit }) => (credit?.uses ?? []).map((use) => lineOf(use, mayUndo))}
        words={rows.length > 1 ? counted(rows.length, 'provider adjustment') : undefined}
        columns={[
          {
            key: 'what',
            title: 'Provider adjustment',
            width: 210,
            render: ({ code }) => adjustmentWords(code),
          },
          {
            key: 'reference',
            title: 'Reference',
            render: ({ claim, reference, provider, period }) => (
              <>
                {claim ? <Link href={`/claims/${claim.id}`}>{reference}</Link> : reference}
                {(provider || period) && (
                  <div className="quiet small">
                    {provider && `provider ${provider}`}
                    {provider && period && ' · '}
                    {period && (
                      <>
                        year to <Day date={period} />
                      </>
                    )}
                  </div>
                )}
              </>
            ),
          },
          {
            key: 'act',
            title: 'What can be done',
            width: 190,
            render: (item) =>
              isInterest(item) ? (
                <span className="quiet">interest, income</span>
              ) : item.credit && item.credit.open !== 0 && maySettle ? (
                <Button size="small" onClick={() => setSettling(item.key)}>
                  Settle
                </Button>
              ) : (
                item.credit && item.credit.open === 0 && <span className="quiet">settled</span>
              ),
          },
          { key: 'amount', title: 'Paid', width: 100, money: ({ amount }) => negate(amount), sum: true },
          {
            key: 'open',
            title: 'Open',
            width: 100,
            money: ({ credit }) => credit?.open ?? null,
            sum: true,
            strong: true,
          },
        ]}
      />
      {row?.credit && (
        <SettleCredit
          key={row.credit.id}
          item={{ ...row, id: row.credit.id, open: row.credit.open }}
          onClose={() => setSettling(null)}
        />
      )}
    </div>
  );
}

/** One thing that was done with it, with the way back. */
const lineOf = (use: AdjustmentUse, mayUndo: boolean): SubLine => ({
  key: String(use.entryId),
  cells: {
    what: <Day date={use.date} />,
    reference: <span className={use.undone ? 'quiet' : ''}>{use.words}</span>,
    act: use.undone ? <span className="quiet">undone</span> : mayUndo && <Undo entryId={use.entryId} />,
    open: <Money cents={use.undone ? 0 : negate(use.amount)} />,
  },
});

function Undo({ entryId }: { entryId: number }) {
  const { run } = useAct();
  return (
    <WithReason
      words="Undo"
      ask="Why is it undone?"
      act={(why) => run(() => undoCreditAction({ entryId, why }), 'Open again')}
    />
  );
}
