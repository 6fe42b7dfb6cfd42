'use client';
import { Button, Drawer, Form, Input, Select, Switch, Table } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { SetupRow, SetupTable } from '../../../../server/setup/tables';
import { useAct } from '../../../../ui/act';
import { SearchField } from '../../../../ui/filters';
import { saveSetupAction } from '../../../actions';

interface Props {
  name: string;
  table: SetupTable;
  rows: SetupRow[];
  search: string;
  pages: { name: string; title: string }[];
  mayChange: boolean;
}

/** One of Setup's tables with its form. */
export function SetupView({ name, table, rows, search, pages, mayChange }: Props) {
  const router = useRouter();
  const { busy, run } = useAct();
  const [open, setOpen] = useState<SetupRow | 'new' | null>(null);
  const keyOf = (row: SetupRow): string => table.keys.map((key) => row[key]).join('/');
  const save = async (values: Record<string, unknown>): Promise<void> => {
    const kept = open === 'new' || open === null ? {} : open;
    const clean = Object.fromEntries(
      Object.entries({ ...kept, ...values }).map(([key, value]) => [key, value ?? '']),
    );
    const done = await run(() => saveSetupAction(name, clean, open !== 'new'), 'Saved');
    if (done) setOpen(null);
  };
  const shown = table.fields.slice(0, 8);
  return (
    <>
      <div className="head">
        <h1>Setup</h1>
        <Select
          aria-label="Part of Setup"
          value={name}
          style={{ width: 200 }}
          options={pages.map((page) => ({ value: page.name, label: page.title }))}
          onChange={(next) => router.push(`/setup/${next}`)}
        />
        <span className="quiet">{table.about}</span>
        {mayChange && !(table.single && rows.length > 0) && (
          <span className="push">
            <Button type="primary" onClick={() => setOpen('new')}>
              Add
            </Button>
          </span>
        )}
      </div>
      {!table.single && (
        <div className="toolbar">
          <SearchField value={search} hint="Find in this table" />
          <span className="quiet">{rows.length} rows</span>
        </div>
      )}
      <Table<SetupRow>
        size="small"
        rowKey={keyOf}
        dataSource={rows}
        pagination={rows.length > 50 ? { pageSize: 50, showSizeChanger: false } : false}
        scroll={{ x: 'max-content' }}
        onRow={(row) => (mayChange ? { onDoubleClick: () => setOpen(row) } : {})}
        columns={[
          ...shown.map((field) => ({
            title: field.label,
            dataIndex: field.name,
            key: field.name,
            align: (field.kind === 'money' || field.kind === 'number' ? 'right' : 'left') as 'right' | 'left',
            render: (value: string | boolean) => (
              <span style={{ maxWidth: 300, display: 'inline-block' }}>
                {typeof value === 'boolean'
                  ? value
                    ? 'yes'
                    : '–'
                  : (field.choices?.find((choice) => choice.value === value)?.label ?? (value || '–'))}
              </span>
            ),
          })),
          ...(mayChange
            ? [
                {
                  title: '',
                  key: 'act',
                  width: 80,
                  render: (_: unknown, row: SetupRow) => (
                    <Button size="small" onClick={() => setOpen(row)}>
                      Change
                    </Button>
                  ),
                },
              ]
            : []),
        ]}
      />
      {open && (
        <Drawer
          open
          size={460}
          title={open === 'new' ? `${table.title}: new` : `${table.title}: change`}
          onClose={() => setOpen(null)}
        >
          <Form
            layout="vertical"
            initialValues={open === 'new' ? {} : open}
            onFinish={(values: Record<string, unknown>) => void save(values)}
          >
            {table.fields.map((field) => (
              <Form.Item
                key={field.name}
                name={field.name}
                label={field.label}
                extra={
                  field.hint ??
                  (field.kind === 'percentages'
                    ? 'like: office 80 %, preventive 100 %'
                    : field.kind === 'list'
                      ? 'with commas'
                      : undefined)
                }
                valuePropName={field.kind === 'yes-no' ? 'checked' : 'value'}
              >
                {field.kind === 'yes-no' ? (
                  <Switch />
                ) : field.kind === 'choice' ? (
                  <Select
                    options={field.choices}
                    allowClear
                    disabled={open !== 'new' && field.fixed}
                    showSearch={{ optionFilterProp: 'label' }}
                  />
                ) : (
                  <Input disabled={open !== 'new' && field.fixed} />
                )}
              </Form.Item>
            ))}
            <Button type="primary" htmlType="submit" loading={busy}>
              Save
            </Button>
          </Form>
        </Drawer>
      )}
    </>
  );
}
