'use client';
import { Alert, Button, Form } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { PersonFields } from '../../../../ui/person-form';
import { registerAction } from '../../../actions';

/** Registers a household, its guarantor as patient, and one coverage. */
export function NewHousehold({ plans }: { plans: { value: number | string; label: string }[] }) {
  const router = useRouter();
  const [refused, setRefused] = useState<{ field?: string; message: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const save = async (values: Record<string, unknown>): Promise<void> => {
    setBusy(true);
    const result = await registerAction(values).catch(() => ({
      ok: false as const,
      message: 'The server could not be reached: try again.',
      field: undefined,
    }));
    setBusy(false);
    if (result.ok) router.push(`/accounts/${result.value.householdId}`);
    else setRefused(result);
  };
  return (
    <>
      <div className="head">
        <h1>New household</h1>
      </div>
      <Form
        layout="vertical"
        style={{ maxWidth: 640 }}
        initialValues={{ state: 'WA', sex: 'F' }}
        onFinish={(values: Record<string, unknown>) => void save(values)}
        scrollToFirstError
      >
        <div className="panel">
          <h2>Guarantor and patient</h2>
          <PersonFields parts={['person', 'address']} refused={refused} focus="last" />
        </div>
        <div className="panel" style={{ marginTop: 10 }}>
          <h2>Coverage</h2>
          <PersonFields parts={['coverage']} plans={plans} refused={refused} />
        </div>
        {refused && <Alert type="error" title={refused.message} style={{ marginTop: 10 }} />}
        <div style={{ marginTop: 10, display: 'flex', gap: 8 }}>
          <Button type="primary" htmlType="submit" loading={busy}>
            Register household
          </Button>
          <Button onClick={() => router.back()}>Leave</Button>
        </div>
      </Form>
    </>
  );
}
