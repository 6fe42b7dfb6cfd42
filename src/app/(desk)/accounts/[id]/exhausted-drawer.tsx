'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { Answer, Refusal } from '../../../../core/answer';
import { formatDate } from '../../../../core/calendar';
import type { MemberCoverage } from '../../../../server/accounts/members';
import type { WentElsewhere } from '../../../../server/accounts/went-elsewhere';
import { DeskDrawer } from '../../../../ui/drawer';
import { FormDrawer } from '../../../../ui/form';
import { notExhaustedAction } from '../actions';
import css from './account.module.css';
import { useFollowed } from './fix-drawer';
import { type AccountDesk, useAccount } from './section';

/** What followed, as the server answers. */
interface Followed {
  followed: number;
  left: number;
  elsewhere: readonly WentElsewhere[];
}

/** That a payer has nothing left, by the letter that is kept; or the letter, and that it has after all. */
export function ExhaustedDrawer({ desk, coverage }: { desk: AccountDesk; coverage: MemberCoverage }) {
  const router = useRouter();
  const { run, busy } = useAccount();
  const field = useRef<HTMLInputElement>(null);
  const [name, setName] = useState('');
  const done = useFollowed(() => {
    desk.close();
    router.refresh();
  });
  if (coverage.exhaustedFrom)
    return (
      <DeskDrawer title={`Nothing left at ${coverage.payer}`} onClose={desk.close}>
        <p>
          For services from {formatDate(coverage.exhaustedFrom)} on the next insurer is asked in its place.
          Its{' '}
          <a href={`/api/coverages/${coverage.id}`} target="_blank" rel="noreferrer">
            letter
          </a>{' '}
          is kept.
        </p>
        <Button
          disabled={busy}
          onClick={() =>
            void run(() => notExhaustedAction({ coverageId: coverage.id }), 'Something is left').then(
              desk.close,
            )
          }
        >
          Something is left after all
        </Button>
      </DeskDrawer>
    );
  const send = async ({ from }: { from: string }): Promise<Answer<Followed>> => {
    const file = field.current?.files?.[0];
    if (!file)
      return { ok: false, code: 'missing', message: 'Choose the letter: a PDF or a picture', fields: {} };
    const response = await fetch(`/api/coverages/${coverage.id}?from=${encodeURIComponent(from)}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    });
    const body: unknown = await response.json();
    return response.ok
      ? { ok: true, value: body as Followed }
      : { ok: false, fields: {}, ...(body as Pick<Refusal, 'code' | 'message'>) };
  };
  return (
    <FormDrawer
      title={`Nothing left at ${coverage.payer}`}
      onClose={desk.close}
      initial={{ from: desk.today }}
      action={send}
      done={done}
      words="Ask the next insurer"
    >
      {(f) => (
        <>
          <p className="quiet small">
            As the payer says in a letter. What it was billed for goes on until it decides; what nobody was
            billed for yet, and what is entered from now on, goes to the next insurer, or to the patient where
            there is none.
          </p>
          <f.Date name="from" label="Nothing left for services from" needed />
          <p>
            <input
              ref={field}
              type="file"
              className={css.none}
              tabIndex={-1}
              accept="application/pdf,image/png,image/jpeg"
              aria-label="Letter of the payer"
              onChange={(event) => setName(event.target.files?.[0]?.name ?? '')}
            />
            <Button onClick={() => field.current?.click()}>
              {name === '' ? 'Choose its letter' : `Letter: ${name}`}
            </Button>
          </p>
        </>
      )}
    </FormDrawer>
  );
}
