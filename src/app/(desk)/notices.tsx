'use client';
/** Notices wherever what they are about is met: at its head, and once a day to be read on opening. */
import { Modal } from 'antd';
import { useEffect, useState } from 'react';
import type { Pinned } from '../../server/notes/notes';
import { useAct } from '../../ui/act';
import { Notice } from '../../ui/page';
import { seenAction } from './accounts/actions';

/** What stands at the head; what is to be read on opening lies over the page until somebody says that they have. */
export function Notices({ notices }: { notices: readonly Pinned[] }) {
  const { busy, run } = useAct();
  const opening = notices.filter(({ opens }) => opens);
  // Of another thing that is met on the same page others are to be read.
  const these = opening.map(({ id }) => id).join();
  const [read, setRead] = useState('');
  // What lies over a page is drawn once the page is there.
  const [there, setThere] = useState(false);
  useEffect(() => setThere(true), []);
  const seen = async (): Promise<void> => {
    // It stays until it is known to be read, also by whoever leaves at once.
    const done = await run(() => seenAction({ noteIds: opening.map(({ id }) => id) }));
    if (done) setRead(these);
  };
  const words = ({ whose, words: said }: Pinned): string => (whose ? `${whose}: ${said}` : said);
  return (
    <>
      {notices.map((one) => (
        <Notice key={one.id}>{words(one)}</Notice>
      ))}
      <Modal
        open={there && opening.length > 0 && read !== these}
        title="Read before you go on"
        okText="I have read it"
        confirmLoading={busy}
        onOk={() => void seen()}
        onCancel={() => setRead(these)}
        cancelText="Show it again later"
        width={460}
      >
        {opening.map((one) => (
          <p key={one.id}>{words(one)}</p>
        ))}
      </Modal>
    </>
  );
}
