'use client';
/** The fields of a person, an address and a coverage, used wherever people are registered or put right. */
import { Form, Input, Select } from 'antd';

const Half = ({ children }: { children: React.ReactNode }) => (
  <div
    style={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(120px, 1fr))', gap: '0 10px' }}
  >
    {children}
  </div>
);

/** `parts` says which groups of fields are shown; `refused` marks the field that the server refused. */
export function PersonFields({
  parts,
  plans,
  refused,
  focus,
}: {
  parts: ('person' | 'address' | 'coverage')[];
  plans?: { value: number | string; label: string }[];
  refused?: { field?: string; message: string } | null;
  focus?: string;
}) {
  const mark = (name: string) =>
    refused?.field === name ? { validateStatus: 'error' as const, help: refused.message } : {};
  const text = (name: string, label: string, needed = false, extra: Record<string, unknown> = {}) => (
    <Form.Item
      name={name}
      label={label}
      rules={needed ? [{ required: true, message: `${label} is missing` }] : []}
      {...mark(name)}
    >
      <Input autoFocus={focus === name} {...extra} />
    </Form.Item>
  );
  return (
    <>
      {parts.includes('person') && (
        <>
          <Half>
            {text('last', 'Last name', true, { maxLength: 80 })}
            {text('first', 'First name', true, { maxLength: 80 })}
          </Half>
          <Half>
            {text('birthDate', 'Birth date', true, { placeholder: 'YYYY-MM-DD' })}
            <Form.Item name="sex" label="Sex" rules={[{ required: true, message: 'Sex is missing' }]}>
              <Select
                options={[
                  { value: 'F', label: 'Female' },
                  { value: 'M', label: 'Male' },
                  { value: 'U', label: 'Unknown' },
                ]}
              />
            </Form.Item>
          </Half>
        </>
      )}
      {parts.includes('address') && (
        <>
          <Half>
            {text('line1', 'Street', true)}
            {text('line2', 'Street, second line')}
          </Half>
          <Half>
            {text('city', 'City', true)}
            {text('state', 'State', true, { placeholder: 'WA', maxLength: 2 })}
            {text('zip', 'ZIP', true)}
          </Half>
          <Half>
            {text('phone', 'Phone')}
            {text('email', 'E-mail')}
          </Half>
        </>
      )}
      {parts.includes('coverage') && (
        <>
          {plans && (
            <Form.Item name="planId" label="Insurance plan" {...mark('planId')}>
              <Select
                allowClear
                showSearch={{ optionFilterProp: 'label' }}
                options={plans}
                placeholder="None: the patient pays"
              />
            </Form.Item>
          )}
          <Half>
            {text('memberId', 'Member id')}
            {text('groupNumber', 'Group number')}
            {text('validFrom', 'In force from', false, { placeholder: 'YYYY-MM-DD' })}
          </Half>
        </>
      )}
    </>
  );
}
