'use client';
import { Button } from 'antd';
import { Head } from '../../ui/page';

/** What stands in place of a page that failed: what happened in short, and a way on. */
export default function Fault({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <>
      <Head title="This page could not be shown" />
      <p>What was saved is kept. {error.digest && `If it happens again, say this number: ${error.digest}`}</p>
      <Button type="primary" onClick={reset}>
        Try again
      </Button>
    </>
  );
}
