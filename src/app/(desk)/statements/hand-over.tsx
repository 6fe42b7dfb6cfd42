'use client';
import { Alert, Button } from 'antd';
import { useEffect, useState } from 'react';
import { formatDate } from '../../../core/calendar';
import { formatMoneyPlain } from '../../../core/money';
import { UNREACHED, useAct, useOnce } from '../../../ui/act';
import { DeskDrawer } from '../../../ui/drawer';
import { previewStatementAction, statementAction } from './actions';
import css from './hand-over.module.css';

type Preview = Awaited<ReturnType<typeof previewStatementAction>>;

/** A statement as it would be today, shown before anything is recorded; handed over, it is kept and counts. */
export function HandOver({
  householdId,
  patientId = null,
  name,
  onClose,
  done,
}: {
  householdId: number;
  /** The patient alone whose services go to a confidential address. */
  patientId?: number | null;
  name: string;
  onClose: () => void;
  done?: () => void;
}) {
  const { busy, run } = useAct();
  const press = useOnce();
  const [preview, setPreview] = useState<Preview | null>(null);
  useEffect(() => {
    let here = true;
    void previewStatementAction({ householdId, patientId })
      .catch(() => UNREACHED)
      .then((answer) => here && setPreview(answer));
    return () => {
      here = false;
    };
  }, [householdId, patientId]);
  const handOver = async (): Promise<void> => {
    const made = await run((sure) => statementAction({ ...sure, householdId, patientId, key: press.key() }));
    if (!made) return;
    press.next();
    window.open(`/api/statements/${made.value}`, '_blank');
    done?.();
    onClose();
  };
  const pages = `/api/pieces/preview/${householdId}${patientId === null ? '' : `?patientId=${patientId}`}`;
  return (
    <DeskDrawer
      size={720}
      title={`Statement for ${name}`}
      onClose={onClose}
      footer={
        preview?.ok && (
          <div className={css.foot}>
            <Button type="primary" autoFocus loading={busy} onClick={() => void handOver()}>
              Hand it over
            </Button>
            <span className="quiet">
              {preview.value.amount > 0
                ? `${formatMoneyPlain(preview.value.amount)} due by ${formatDate(preview.value.dueDate)}`
                : 'Nothing is due: credit is left'}
              . Nothing is recorded until it is handed over.
            </span>
          </div>
        )
      }
    >
      {preview === null && <p className="quiet">Putting it together …</p>}
      {preview && !preview.ok && <Alert type="warning" title={preview.message} />}
      {preview?.ok && (
        <iframe className={css.pages} title={`Statement for ${name}`} src={`${pages}#view=FitH&toolbar=0`} />
      )}
    </DeskDrawer>
  );
}
