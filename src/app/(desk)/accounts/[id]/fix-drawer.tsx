'use client';
import { Alert, Button, Drawer, Form, Input, Select } from 'antd';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import type { AccountPage } from '../../../../server/accounts/read';
import type { QuickChoices } from '../../../../server/setup/choices';
import { PersonFields } from '../../../../ui/person-form';
import { addMemberAction, changeChargeAction, changePatientAction } from '../../../actions';
import type { Answer } from '../../../session';

interface Props {
  kind: 'person' | 'member' | 'charge';
  account: AccountPage;
  plans: { value: number | string; label: string }[];
  choices: QuickChoices;
  onClose: () => void;
}

/** Puts a person, a coverage or a charge right. Opened from a finding, it goes back to the claim when saved. */
export function FixDrawer({ kind, account, plans, choices, onClose }: Props) {
  const params = useSearchParams();
  const router = useRouter();
  const [refused, setRefused] = useState<{ field?: string; message: string } | null>(null);
  const [busy, setBusy] = useState(false);
  const person =
    account.members.find((item) => item.id === Number(params.get('patient'))) ?? account.members[0]!;
  const charge = account.charges.find((item) => item.id === Number(params.get('charge')));
  const focus = params.get('field') ?? undefined;
  const back = params.get('back');
  const { household: h } = account;
  const save = async (values: Record<string, unknown>): Promise<void> => {
    setBusy(true);
    setRefused(null);
    const act = async (): Promise<Answer<unknown>> =>
      kind === 'person'
        ? changePatientAction(h.id, person.id, values)
        : kind === 'member'
          ? addMemberAction(h.id, values)
          : changeChargeAction(charge?.id, {
              ...values,
              modifiers: String(values.modifiers ?? '')
                .toUpperCase()
                .split(/[\s,]+/)
                .filter(Boolean),
            });
    const result = await act().catch(() => ({
      ok: false as const,
      message: 'The server could not be reached: try again.',
      field: undefined,
    }));
    setBusy(false);
    if (!result.ok) setRefused(result);
    else if (back?.startsWith('/claims')) router.push(back);
    else onClose();
  };
  const initial =
    kind === 'person'
      ? { ...h, ...person, phone: h.phone, email: h.email, validFrom: person.validFrom ?? '' }
      : kind === 'charge' && charge
        ? {
            diagnoses: charge.diagnoses,
            tooth: charge.tooth,
            surfaces: charge.surfaces,
            modifiers: charge.modifiers.join(' '),
          }
        : { last: h.last, sex: 'F' };
  const title =
    kind === 'person'
      ? `${person.first} ${person.last}`
      : kind === 'member'
        ? 'New member'
        : `${charge?.code ?? ''} ${charge?.description ?? 'Charge'}`;
  return (
    <Drawer open size={480} title={title} onClose={onClose}>
      <Form
        layout="vertical"
        initialValues={initial}
        onFinish={(values: Record<string, unknown>) => void save(values)}
      >
        {kind === 'person' && (
          <PersonFields
            parts={person.payer ? ['person', 'address', 'coverage'] : ['person', 'address']}
            refused={refused}
            focus={focus}
          />
        )}
        {kind === 'member' && (
          <PersonFields parts={['person', 'coverage']} plans={plans} refused={refused} focus="first" />
        )}
        {kind === 'charge' && (
          <>
            <Form.Item name="diagnoses" label="Diagnoses, the principal one first">
              <Select
                mode="multiple"
                maxCount={4}
                autoFocus={focus === 'diagnoses'}
                showSearch={{ optionFilterProp: 'label' }}
                options={choices.diagnoses.map((item) => ({
                  value: item.code,
                  label: `${item.code} ${item.description}`,
                }))}
              />
            </Form.Item>
            <Form.Item name="modifiers" label="Modifiers">
              <Input autoFocus={focus === 'modifiers'} placeholder="25 59" />
            </Form.Item>
            <Form.Item name="tooth" label="Tooth">
              <Input autoFocus={focus === 'tooth'} />
            </Form.Item>
            <Form.Item name="surfaces" label="Surfaces">
              <Input autoFocus={focus === 'surfaces'} />
            </Form.Item>
          </>
        )}
        {refused && <Alert type="error" title={refused.message} style={{ marginBottom: 10 }} />}
        <Button type="primary" htmlType="submit" loading={busy}>
          {back ? 'Save and go back to the claim' : 'Save'}
        </Button>
      </Form>
    </Drawer>
  );
}
