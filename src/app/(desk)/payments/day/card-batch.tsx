'use client';
import { Alert, Button, Empty } from 'antd';
import { useState } from 'react';
import { ZERO } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { BatchPage, DayPage, MoneyPlace } from '../../../../server/payments/day';
import { useAct } from '../../../../ui/act';
import { Money } from '../../../../ui/figures';
import { LineTable } from '../../../../ui/line-table';
import { compareDayAction } from '../actions';
import css from './day.module.css';

/** The terminal's list of the day against ours. */
export function CardBatch({ place, page }: { place: MoneyPlace; page: DayPage }) {
  const { busy, run } = useAct();
  const [batch, setBatch] = useState<BatchPage | null>(null);
  return (
    <div className={css.drawer} role="group" aria-label={place.name}>
      <div className={css.row}>
        <strong>{place.name}</strong>
        <Button
          loading={busy}
          onClick={() =>
            void run(() => compareDayAction({ placeId: place.id, day: page.day })).then(
              (done) => done && setBatch(done.value),
            )
          }
        >
          Compare with the terminal
        </Button>
        {batch && (
          <span>
            {counted(batch.count, 'row')} there, <Money cents={batch.theirs} />; in our books{' '}
            <Money cents={batch.ours} />
          </span>
        )}
      </div>
      {batch &&
        (batch.differences.length === 0 ? (
          batch.count === 0 && batch.ours === ZERO ? (
            <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="No card was charged on this day" />
          ) : (
            <Alert type="success" title="Row by row the same" />
          )
        ) : (
          <LineTable
            label={`Differences with the terminal of ${place.name}`}
            rows={batch.differences}
            rowKey={(row) => row.key}
            empty=""
            columns={[
              { key: 'words', title: 'What', render: (row) => row.words },
              {
                key: 'card',
                title: 'Card',
                width: 160,
                render: (row) => (row.theirs ? `${row.theirs.brand} ${row.theirs.lastFour}` : ''),
              },
              {
                key: 'authorization',
                title: 'Authorization',
                width: 130,
                render: (row) => row.theirs?.authorization ?? row.ours?.authorization ?? '',
              },
              { key: 'theirs', title: 'There', width: 110, money: (row) => row.theirs?.amount ?? null },
              {
                key: 'ours',
                title: 'Here',
                width: 110,
                money: (row) => row.ours?.amount ?? null,
              },
            ]}
          />
        ))}
    </div>
  );
}
