'use client';
import { Alert, Button, Form, Input } from 'antd';
import { useState } from 'react';
import { Notice } from '../../ui/page';
import css from './sign-in.module.css';

/** The sign-in form. `to` is where one goes from it; `idle` says why one is here. */
export function SignIn({ idle, to }: { idle: boolean; to: string }) {
  const [fault, setFault] = useState('');
  const [busy, setBusy] = useState(false);
  const enter = async (values: { email: string; password: string }): Promise<void> => {
    setBusy(true);
    setFault('');
    try {
      const response = await fetch('/api/auth/sign-in/email', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(values),
      });
      if (response.ok) window.location.assign(to);
      else
        setFault(
          response.status === 429
            ? 'Too many attempts: wait a minute and try again.'
            : 'E-mail or password is wrong.',
        );
    } catch {
      setFault('The server could not be reached: try again.');
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className={css.signIn}>
      <h1>Wergeld</h1>
      {idle && <Notice>You were signed out after half an hour without use.</Notice>}
      <Form
        layout="vertical"
        onFinish={(values: { email: string; password: string }) => void enter(values)}
        requiredMark={false}
      >
        <Form.Item name="email" label="E-mail" rules={[{ required: true, message: 'E-mail is missing' }]}>
          <Input autoFocus autoComplete="username" />
        </Form.Item>
        <Form.Item
          name="password"
          label="Password"
          rules={[{ required: true, message: 'Password is missing' }]}
        >
          <Input.Password autoComplete="current-password" />
        </Form.Item>
        {fault && <Alert type="error" title={fault} className={css.fault} />}
        <Button type="primary" htmlType="submit" loading={busy} block>
          Sign in
        </Button>
      </Form>
    </main>
  );
}
