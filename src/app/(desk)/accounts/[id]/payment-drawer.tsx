'use client';
import { Alert, Button, Drawer, Input, Segmented, Table } from 'antd';
import { useRef, useState } from 'react';
import type { CalendarDate } from '../../../../core/calendar';
import {
  type Cents,
  ZERO,
  formatMoneyPlain,
  minus,
  parseMoney,
  sum,
  toDecimal,
} from '../../../../core/money';
import { oldestFirst, spreadByHand, spreadInOrder } from '../../../../core/payments/spread';
import type { AccountPage } from '../../../../server/accounts/read';
import { useAct } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { takeReceiptAction } from '../../../actions';

/** Takes a payment; the effect on each open charge shows before it is saved. */
export function PaymentDrawer({ account, onClose }: { account: AccountPage; onClose: () => void }) {
  const { busy, run } = useAct();
  const open = oldestFirst(
    account.charges
      .filter((charge) => charge.withPatient > 0)
      .map((charge) => ({ id: charge.id, date: charge.date as CalendarDate, owed: charge.withPatient })),
  );
  const owed = sum(open.map((charge) => charge.owed));
  const [text, setText] = useState(owed > 0 ? toDecimal(owed) : '');
  const [tender, setTender] = useState('check');
  const [reference, setReference] = useState('');
  const [byHand, setByHand] = useState(false);
  const [parts, setParts] = useState<Record<string, string>>({});
  const key = useRef(`receipt-${crypto.randomUUID()}`);
  const amount = parseMoney(text);
  const wanted = new Map(
    Object.entries(parts)
      .filter(([, part]) => part.trim() !== '')
      .map(([id, part]) => [Number(id), parseMoney(part) ?? (-1 as Cents)]),
  );
  const spread =
    amount === null || amount <= 0
      ? null
      : byHand
        ? spreadByHand(amount, open, wanted)
        : spreadInOrder(amount, open);
  const part = (id: number): Cents =>
    spread && typeof spread !== 'string'
      ? (spread.parts.find((item) => item.id === id)?.amount ?? ZERO)
      : ZERO;
  const fault =
    amount === null
      ? 'Amount is not an amount such as 12.50'
      : amount <= 0
        ? 'Amount must be more than zero'
        : tender === 'check' && !reference.trim()
          ? 'Check number is missing'
          : typeof spread === 'string'
            ? spread
            : '';
  const save = async (): Promise<void> => {
    const done = await run(
      () =>
        takeReceiptAction({
          householdId: account.household.id,
          amount: text,
          tender,
          reference,
          key: key.current,
          ...(byHand
            ? { parts: Object.fromEntries(Object.entries(parts).filter(([, value]) => value.trim() !== '')) }
            : {}),
        }),
      `${formatMoneyPlain(amount ?? ZERO)} taken`,
    );
    if (done) onClose();
  };
  return (
    <Drawer
      open
      size={600}
      title={`Payment from ${account.household.first} ${account.household.last}`}
      onClose={onClose}
      footer={
        <div style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
          <Button type="primary" loading={busy} disabled={!!fault} onClick={() => void save()}>
            Take {amount !== null && amount > 0 ? formatMoneyPlain(amount) : 'payment'}
          </Button>
          <span className="quiet">{fault}</span>
        </div>
      }
    >
      <div style={{ display: 'flex', gap: 10, marginBottom: 10, alignItems: 'end' }}>
        <label>
          Amount
          <Input
            autoFocus
            value={text}
            aria-label="Amount"
            style={{ width: 130, textAlign: 'right' }}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setText(event.target.value)}
            onKeyDown={(event) => event.key === 'Enter' && !fault && !busy && void save()}
          />
        </label>
        <Segmented
          aria-label="Tender"
          value={tender}
          onChange={(value) => setTender(String(value))}
          options={[
            { value: 'check', label: 'Check' },
            { value: 'cash', label: 'Cash' },
          ]}
        />
        <label>
          {tender === 'check' ? 'Check number' : 'Note number'}
          <Input
            aria-label="Check number"
            value={reference}
            style={{ width: 130 }}
            onChange={(event) => setReference(event.target.value)}
            onKeyDown={(event) => event.key === 'Enter' && !fault && !busy && void save()}
          />
        </label>
        <Segmented
          aria-label="Spread"
          value={byHand ? 'hand' : 'oldest'}
          onChange={(value) => setByHand(value === 'hand')}
          options={[
            { value: 'oldest', label: 'Oldest first' },
            { value: 'hand', label: 'By hand' },
          ]}
        />
      </div>
      <Table
        size="small"
        pagination={false}
        rowKey="id"
        dataSource={open}
        locale={{ emptyText: 'Nothing is owed now: the payment is held as credit' }}
        columns={[
          { title: 'Date', dataIndex: 'date', render: (date: string) => <Day date={date} /> },
          {
            title: 'Service',
            key: 'service',
            render: (_, row) => account.charges.find((charge) => charge.id === row.id)?.description,
          },
          {
            title: 'Owed',
            dataIndex: 'owed',
            align: 'right',
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Pays',
            key: 'pays',
            align: 'right',
            width: 110,
            render: (_, row) =>
              byHand ? (
                <Input
                  size="small"
                  aria-label={`Part of charge ${row.id}`}
                  style={{ textAlign: 'right' }}
                  value={parts[row.id] ?? ''}
                  onChange={(event) => setParts({ ...parts, [row.id]: event.target.value })}
                />
              ) : (
                <Money cents={part(row.id)} />
              ),
          },
          {
            title: 'Left',
            key: 'left',
            align: 'right',
            render: (_, row) => <Money cents={minus(row.owed, part(row.id))} />,
          },
        ]}
      />
      {spread && typeof spread !== 'string' && spread.left > 0 && (
        <Alert
          type="info"
          style={{ marginTop: 10 }}
          title={<>What is left, {formatMoneyPlain(spread.left)}, is held as credit of this household.</>}
        />
      )}
    </Drawer>
  );
}
