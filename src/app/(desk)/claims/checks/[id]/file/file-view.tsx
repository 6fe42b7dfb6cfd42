'use client';
import { Button, Tabs } from 'antd';
import { useRouter } from 'next/navigation';
import { formatMoneyPlain } from '../../../../../../core/money';
import { counted } from '../../../../../../core/words';
import type { FilePage } from '../../../../../../server/claims/check-only';
import { useAct } from '../../../../../../ui/act';
import { useKeys } from '../../../../../../ui/keys';
import { LineTable } from '../../../../../../ui/line-table';
import { Link } from '../../../../../../ui/link';
import { Columns, Head, Panel } from '../../../../../../ui/page';
import { Segments } from '../../../../../../ui/segments';
import { sendClaimsAction } from '../../../actions';

interface Props {
  checkId: number;
  files: FilePage[];
  at: number;
  /** The claim that is looked at. */
  claim: string;
  text: string;
}

const FORMS = { professional: 'professional', dental: 'dental' } as const;

/** The file before it is sent: its claims, and what each says, segment by segment. */
export function FileView({ checkId, files, at, claim, text }: Props) {
  const router = useRouter();
  const { busy, run } = useAct();
  const file = files[at];
  const here = `/claims/checks/${checkId}`;
  const look = (number: string): void =>
    router.replace(`${here}/file?file=${at}&claim=${number}`, { scroll: false });
  const index = file?.claims.findIndex(({ controlNumber }) => controlNumber === claim) ?? -1;
  const step = (by: number) => (): void => {
    const other = file?.claims[index + by];
    if (other) look(other.controlNumber);
  };
  const send = async (): Promise<void> => {
    if (!file) return;
    const sent = await run(
      () => sendClaimsAction({ claimIds: file.claims.map(({ id }) => id), ready: true }),
      (made) =>
        made.length === 0
          ? 'Nothing was sent'
          : `Sent ${counted(
              made.reduce((all, { claims }) => all + claims, 0),
              'claim',
            )} in ${made.map((one) => one.file).join(', ')}`,
    );
    if (sent) router.push(here);
  };
  useKeys([
    { key: 'ArrowDown', words: 'next claim', run: step(1) },
    { key: 'ArrowUp', words: 'claim before', run: step(-1) },
    ...(file ? [{ key: 's', words: 'send this file', run: () => void send() }] : []),
    { key: 'Escape', words: 'back to the check', run: () => router.push(here) },
  ]);
  return (
    <>
      <Head
        title="The file"
        note={
          file
            ? `${file.connection}, ${FORMS[file.form]}: ${counted(file.claims.length, 'claim')}, ${formatMoneyPlain(file.total)}`
            : 'nothing is ready'
        }
      >
        <Link href={here}>back to the check</Link>
        {file && (
          <>
            <Button href={`/api/claims/checks/${checkId}?connection=${file.connectionId}&form=${file.form}`}>
              Save
            </Button>
            <Button type="primary" loading={busy} onClick={() => void send()}>
              Send {counted(file.claims.length, 'claim')} (S)
            </Button>
          </>
        )}
      </Head>
      {files.length > 1 && (
        <Tabs
          size="small"
          activeKey={String(at)}
          onChange={(key) => router.replace(`${here}/file?file=${key}`)}
          items={files.map(({ connection, form, claims }, key) => ({
            key: String(key),
            label: `${connection}, ${FORMS[form]} (${claims.length})`,
          }))}
        />
      )}
      {file && (
        <Columns>
          <LineTable
            label="Claims of the file"
            fills="list"
            rows={file.claims}
            rowKey={({ controlNumber }) => controlNumber}
            lit={claim}
            onRow={({ controlNumber }) => look(controlNumber)}
            empty="No claims"
            columns={[
              { key: 'number', title: 'Claim', width: 110, render: ({ controlNumber }) => controlNumber },
              { key: 'patient', title: 'Patient', render: ({ patient }) => patient },
              { key: 'total', title: 'Charge', money: ({ total }) => total, sum: true },
            ]}
            words={counted(file.claims.length, 'claim')}
          />
          <Panel title={`What ${claim} says`}>
            <Segments text={text} />
          </Panel>
        </Columns>
      )}
    </>
  );
}
