'use client';
import { Button, Result } from 'antd';

/** What stands in place of a page that failed: what happened in short, and a way on. */
export default function Fault({ error, reset }: { error: Error & { digest?: string }; reset: () => void }) {
  return (
    <Result
      status="warning"
      title="This page could not be shown"
      subTitle={`Nothing was changed. ${error.digest ? `If it happens again, say this number: ${error.digest}` : ''}`}
      extra={
        <Button type="primary" onClick={reset}>
          Try again
        </Button>
      }
    />
  );
}
