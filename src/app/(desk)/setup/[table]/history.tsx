'use client';
import { useEffect, useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { rowHistoryAction } from '../actions';
import css from '../setup.module.css';

type Change = Extract<Awaited<ReturnType<typeof rowHistoryAction>>, { ok: true }>['value'][number];

/** What happened to a row, newest first. */
export function History({ table, row }: { table: string; row: string }) {
  const [changes, setChanges] = useState<Change[] | null>(null);
  useEffect(() => {
    let here = true;
    void rowHistoryAction({ table, row }).then((answer) => here && answer.ok && setChanges(answer.value));
    return () => {
      here = false;
    };
  }, [table, row]);
  if (!changes || changes.length === 0) return null;
  return (
    <section className={css.history} aria-label="History">
      <h2>History</h2>
      {changes.map((change, index) => (
        <div key={index}>
          <strong>{formatDate(change.at.slice(0, 10))}</strong> {change.by} {change.action}
          {change.changes.map((item) => (
            <div key={item.label} className="quiet">
              {item.label}: {change.action === 'added' ? item.to : `${item.from} → ${item.to}`}
            </div>
          ))}
        </div>
      ))}
    </section>
  );
}
