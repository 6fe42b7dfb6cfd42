'use client';
import { App, Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { Intake } from '../../../server/outcome';

/** Brings in a remittance file, whatever its size; what came of it is said in words. */
export function Upload() {
  const { message } = App.useApp();
  const router = useRouter();
  const field = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const send = async (file: File): Promise<void> => {
    setBusy(true);
    try {
      const response = await fetch(`/api/remittances?name=${encodeURIComponent(file.name)}`, {
        method: 'POST',
        headers: { 'content-type': 'application/octet-stream' },
        body: file,
      });
      const intake = (await response.json()) as Partial<Intake> & { message?: string };
      const words =
        intake.outcomes?.map((item) => `${item.kind} ${item.trace}: ${item.why}`).join('; ') ??
        intake.message ??
        'The file could not be read';
      if (response.ok) void message.success({ content: words, duration: 6 });
      else
        void message.error({
          content: `${file.name} was not taken in. ${words}. Nothing was changed.`,
          duration: 10,
        });
      router.refresh();
    } catch {
      void message.error('The server could not be reached: try again.');
    } finally {
      setBusy(false);
      if (field.current) field.current.value = '';
    }
  };
  return (
    <>
      <input
        ref={field}
        type="file"
        hidden
        aria-label="Remittance file"
        onChange={(event) => event.target.files?.[0] && void send(event.target.files[0])}
      />
      <Button loading={busy} onClick={() => field.current?.click()}>
        Bring in a file
      </Button>
    </>
  );
}
