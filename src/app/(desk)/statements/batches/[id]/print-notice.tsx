'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { counted } from '../../../../../core/words';
import type { BatchPage } from '../../../../../server/batches/read';
import { useAct } from '../../../../../ui/act';
import { Notice } from '../../../../../ui/page';
import { printAnewAction, printedAction, refreshPiecesAction, sendAgainAction } from '../../actions';
import css from './batch.module.css';

/** From one number to another, as typed. */
function Numbers({
  from,
  to,
  setFrom,
  setTo,
  focus,
}: {
  from: string;
  to: string;
  setFrom: (text: string) => void;
  setTo: (text: string) => void;
  focus?: boolean;
}) {
  const field = (value: string, set: (text: string) => void, autoFocus?: boolean) => (
    <Input
      size="small"
      autoFocus={autoFocus}
      className={css.number}
      inputMode="numeric"
      value={value}
      onChange={(event) => set(event.target.value)}
    />
  );
  return (
    <>
      <label>From no. {field(from, setFrom, focus)}</label>
      <label>to {field(to, setTo)}</label>
    </>
  );
}

/** Whether these are numbers of pieces, the first not after the last. */
const areNumbers = (from: string, to: string): boolean =>
  [from, to].every((text) => /^[1-9]\d{0,6}$/.test(text)) && Number(from) <= Number(to);

/** What waits to be printed here: from one number to another it is opened as one paper, and then said to be in the mail. */
export function PrintNotice({
  batchId,
  toPrint,
  notAsMade,
}: {
  batchId: number;
  toPrint: NonNullable<BatchPage['toPrint']>;
  /** Those that are not as they were made. */
  notAsMade: BatchPage['notAsMade'];
}) {
  const { busy, run } = useAct();
  const [from, setFrom] = useState(String(toPrint.first));
  const [to, setTo] = useState(String(toPrint.last));
  const good = areNumbers(from, to);
  return (
    <Notice>
      <div className={css.print}>
        <span>{counted(toPrint.count, 'piece waits', 'pieces wait')} to be printed here.</span>
        <Numbers from={from} to={to} setFrom={setFrom} setTo={setTo} />
        <Button
          size="small"
          disabled={!good}
          href={`/api/batches/${batchId}?what=waiting&from=${from}&to=${to}`}
          target="_blank"
        >
          Open to print
        </Button>
        <Button
          size="small"
          type="primary"
          loading={busy}
          disabled={!good}
          onClick={() =>
            void run(
              (sure) => printedAction({ batchId, from, to, ...sure }),
              (many) => `${counted(many, 'piece is', 'pieces are')} in the mail`,
            )
          }
        >
          They are in the mail
        </Button>
      </div>
      {notAsMade.length > 0 && (
        <div className={css.print}>
          <span className="warn">
            {counted(notAsMade.length, 'of them is', 'of them are')} not as made and not printed:{' '}
            {notAsMade
              .slice(0, 3)
              .map(({ words }) => words)
              .join('; ')}
            {notAsMade.length > 3 && ` and ${notAsMade.length - 3} more`}.
          </span>
          <Button
            size="small"
            loading={busy}
            onClick={() =>
              void run(
                () => refreshPiecesAction({ pieceIds: notAsMade.map(({ id }) => id) }),
                (many) => `${counted(many, 'draft')} made anew`,
              )
            }
          >
            Make {notAsMade.length} anew
          </Button>
        </div>
      )}
    </Notice>
  );
}

/** The same pieces once more, from one number to another: printed again, or handed over again under their ids. */
export function AgainForm({
  batchId,
  last,
  failed,
  close,
}: {
  batchId: number;
  last: number;
  /** How many failed or came back. */
  failed: number;
  close: () => void;
}) {
  const { busy, run } = useAct();
  const [from, setFrom] = useState('1');
  const [to, setTo] = useState(String(last));
  const good = areNumbers(from, to);
  return (
    <div className={css.print}>
      <Numbers from={from} to={to} setFrom={setFrom} setTo={setTo} focus />
      <Button
        size="small"
        disabled={!good}
        href={`/api/batches/${batchId}?from=${from}&to=${to}`}
        target="_blank"
      >
        Print again
      </Button>
      <Button
        size="small"
        loading={busy}
        disabled={!good}
        onClick={() =>
          void run(
            (sure) => sendAgainAction({ batchId, from, to, ...sure }),
            (many) => `${counted(many, 'piece')} handed over again`,
          ).then((done) => done && close())
        }
      >
        Hand over again
      </Button>
      {failed > 0 && (
        <>
          <Button
            size="small"
            loading={busy}
            disabled={!good}
            onClick={() =>
              void run(
                () => printAnewAction({ batchId, from, to }),
                ({ made, left }) =>
                  [`${counted(made, 'new paper waits', 'new papers wait')} to be printed`, ...left].join(
                    '; ',
                  ),
              ).then((done) => done && close())
            }
          >
            New papers for what came back
          </Button>
        </>
      )}
      <Button size="small" type="text" onClick={close}>
        Close
      </Button>
    </div>
  );
}
