'use client';
import { Button, Input } from 'antd';
import { useEffect, useRef, useState } from 'react';
import SignaturePad from 'signature_pad';
import { useAct } from '../../../ui/act';
import { acceptAction } from './actions';
import css from './plans.module.css';

/** Accepting a proposed plan: who signs, and a place to draw the signature, which is kept with the agreement. */
export function AcceptPlan({
  planId,
  guarantor,
  done,
}: {
  planId: number;
  guarantor: string;
  done?: () => void;
}) {
  const { busy, run } = useAct();
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<SignaturePad | null>(null);
  const [last = '', first = ''] = guarantor.split(', ');
  const [name, setName] = useState(`${first} ${last}`.trim());
  useEffect(() => {
    pad.current = new SignaturePad(canvas.current!, { penColor: '#1c2321' });
    return () => pad.current?.off();
  }, []);
  const accept = async (): Promise<void> => {
    const signature = pad.current && !pad.current.isEmpty() ? pad.current.toDataURL('image/png') : '';
    const accepted = await run(
      (sure) => acceptAction({ planId, signedBy: name, signature, ...sure }),
      'The plan runs',
    );
    if (accepted) done?.();
  };
  return (
    <section aria-label="Acceptance" className={css.accept}>
      <p>
        The disclosure and the agreement are read first: <strong>print it</strong> or show it. Then it is
        signed on paper, or here.
      </p>
      <div className={css.sign}>
        <label>
          <span>Signed by</span>
          <Input
            aria-label="Signed by"
            value={name}
            onChange={({ target }) => setName(target.value)}
            onPressEnter={() => void accept()}
          />
        </label>
        <div>
          <span>Signature, drawn here or left empty</span>
          <canvas ref={canvas} width={320} height={90} className={css.canvas} aria-label="Signature" />
        </div>
        <Button onClick={() => pad.current?.clear()}>Clear</Button>
        <Button type="primary" loading={busy} disabled={name.trim() === ''} onClick={() => void accept()}>
          Accept the plan
        </Button>
      </div>
    </section>
  );
}
