'use client';
import { useMay } from '../../../../../ui/desk';
import { Button, Input, Switch } from 'antd';
import { Link } from '../../../../../ui/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { formatDate } from '../../../../../core/calendar';
import { formatMoneyPlain } from '../../../../../core/money';
import {
  BLOCKS,
  type Block,
  type BlockKind,
  FIRST_LETTERS,
  type LetterContent,
  brokenParts,
} from '../../../../../core/overdue/letters';
import { VARIABLES, VARIABLE_NAMES } from '../../../../../core/statements/variables';
import type { LetterRow } from '../../../../../server/overdue/letters';
import { useAct } from '../../../../../ui/act';
import { Choose } from '../../../../../ui/choose';
import { useUnsaved } from '../../../../../ui/form';
import { useKeys } from '../../../../../ui/keys';
import { Head, Notice } from '../../../../../ui/page';
import { previewLetterAction, saveLetterAction } from '../../actions';
import css from '../../overdue.module.css';

/** Writes a letter out of parts, beside how it looks for a real account. */
export function LetterEditor({
  letter,
  accounts,
}: {
  letter: LetterRow | null;
  accounts: { value: number; label: string }[];
}) {
  const mayChange = useMay()('change setup');
  const router = useRouter();
  const { busy, run } = useAct();
  const begin = letter ?? { ...FIRST_LETTERS[0]!, name: '', active: true };
  const [name, setName] = useState(begin.name);
  const [active, setActive] = useState(begin.active);
  const [subject, setSubject] = useState(begin.subject);
  const [blocks, setBlocks] = useState<Block[]>([...begin.blocks]);
  const [at, setAt] = useState(-1);
  const [saved, setSaved] = useState(true);
  useUnsaved(!saved);
  const [accountId, setAccountId] = useState(accounts[0]?.value ?? 0);
  const broken = brokenParts(subject, blocks);
  const shown = usePreview(accountId, subject, blocks, broken.length > 0);
  useKeys([{ key: 'Escape', words: 'back to the letters', run: () => router.push('/overdue/letters') }]);
  const change = (next: Block[]): void => {
    setBlocks(next);
    setSaved(false);
  };
  const put = (index: number, part: Partial<Block>): void =>
    change(blocks.map((block, other) => (other === index ? { ...block, ...part } : block)));
  const move = (index: number, by: number): void => {
    const next = [...blocks];
    const [one] = next.splice(index, 1);
    next.splice(index + by, 0, one!);
    change(next);
  };
  const save = async (): Promise<void> => {
    const done = await run(
      () =>
        saveLetterAction({
          templateId: letter?.id ?? null,
          name,
          active,
          subject,
          blocks,
          ...(letter ? { version: letter.version } : {}),
        }),
      'Saved; letters that went out keep their words',
    );
    if (!done) return;
    setSaved(true);
    if (!letter) router.push(`/overdue/letters/${done.value}`);
  };
  const insert = (variable: string): void => {
    if (at < 0) setSubject((now) => `${now}{${variable}}`);
    else put(at, { text: `${blocks[at]!.text}{${variable}}` });
    setSaved(false);
  };
  return (
    <>
      <Head
        title={letter?.name ?? 'A new letter'}
        note={
          letter
            ? `version ${letter.number} · sent ${letter.sent} times · ${letter.stages.join(', ') || 'no stage'}`
            : ''
        }
      >
        <Link href="/overdue/letters">All letters</Link>
        {mayChange && (
          <Button
            type="primary"
            loading={busy}
            disabled={broken.length > 0 || name.trim() === ''}
            onClick={() => void save()}
          >
            Save the letter
          </Button>
        )}
      </Head>
      {broken.length > 0 && <Notice>{broken.map(({ message }) => message).join('. ')}.</Notice>}
      <div className={css.editor}>
        <section aria-label="Parts">
          <fieldset disabled={!mayChange} className={css.fields}>
            <div className={css.block}>
              <label htmlFor="letter-name">Name</label>
              <Input
                id="letter-name"
                value={name}
                maxLength={60}
                onChange={({ target }) => {
                  setName(target.value);
                  setSaved(false);
                }}
              />
              <span>
                <Switch
                  size="small"
                  aria-label="In use"
                  checked={active}
                  onChange={(yes) => {
                    setActive(yes);
                    setSaved(false);
                  }}
                />{' '}
                in use
              </span>
            </div>
            <div className={css.block}>
              <label htmlFor="letter-subject">Subject</label>
              <Input
                id="letter-subject"
                value={subject}
                maxLength={200}
                status={broken.some(({ part }) => part === 0) ? 'error' : ''}
                onFocus={() => setAt(-1)}
                onChange={({ target }) => {
                  setSubject(target.value);
                  setSaved(false);
                }}
              />
              <span />
            </div>
            {blocks.map((block, index) => (
              <div key={index} className={css.block}>
                <Choose<BlockKind>
                  aria-label={`Part ${index + 1} is`}
                  value={block.kind}
                  onChange={(kind) => put(index, { kind, text: BLOCKS[kind].text ? block.text : '' })}
                  options={(Object.keys(BLOCKS) as BlockKind[]).map((value) => ({
                    value,
                    label: BLOCKS[value].words,
                  }))}
                />
                {BLOCKS[block.kind].text ? (
                  <Input.TextArea
                    aria-label={`Words of part ${index + 1}`}
                    autoSize={{ minRows: 1, maxRows: 8 }}
                    value={block.text}
                    status={broken.some(({ part }) => part === index + 1) ? 'error' : ''}
                    onFocus={() => setAt(index)}
                    onChange={({ target }) => put(index, { text: target.value })}
                  />
                ) : (
                  <span className="quiet">made from the account</span>
                )}
                <span>
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Part ${index + 1} up`}
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    ↑
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Part ${index + 1} down`}
                    disabled={index === blocks.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    ↓
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Remove part ${index + 1}`}
                    onClick={() => change(blocks.filter((_, other) => other !== index))}
                  >
                    ×
                  </Button>
                </span>
              </div>
            ))}
            <Button size="small" onClick={() => change(addPart(blocks))}>
              Add a part
            </Button>
            <p className="small quiet">Variables, put where the cursor was last:</p>
            <div className={css.variables}>
              {VARIABLE_NAMES.map((variable) => (
                <Button
                  key={variable}
                  size="small"
                  title={VARIABLES[variable].words}
                  onClick={() => insert(variable)}
                >
                  {`{${variable}}`}
                </Button>
              ))}
            </div>
          </fieldset>
        </section>
        <section aria-label="How it looks">
          <div className={css.shown}>
            <Choose<number>
              aria-label="Shown for"
              showSearch={{ optionFilterProp: 'label' }}
              value={accountId}
              onChange={setAccountId}
              options={accounts.length > 0 ? accounts : [{ value: 0, label: 'No account is past due' }]}
            />
          </div>
          {shown ? (
            <OnPaper content={shown} />
          ) : (
            <p className="quiet">
              {accountId === 0 ? 'Once an account is past due, the letter shows here.' : 'Reading …'}
            </p>
          )}
        </section>
      </div>
    </>
  );
}

/** One more paragraph, before the part to send with a payment. */
function addPart(blocks: readonly Block[]): Block[] {
  const part: Block = { kind: 'paragraph', text: '' };
  const last = blocks.at(-1);
  return last?.kind === 'slip' ? [...blocks.slice(0, -1), part, last] : [...blocks, part];
}

/** The letter for an account, read anew a moment after the last key. */
function usePreview(
  householdId: number,
  subject: string,
  blocks: readonly Block[],
  broken: boolean,
): LetterContent | null {
  const [shown, setShown] = useState<LetterContent | null>(null);
  const words = JSON.stringify({ subject, blocks });
  useEffect(() => {
    if (broken || householdId === 0) return;
    let here = true;
    const timer = setTimeout(
      () =>
        void previewLetterAction({
          householdId,
          ...(JSON.parse(words) as { subject: string; blocks: Block[] }),
        })
          .then((answer) => here && answer.ok && setShown(answer.value))
          .catch(() => undefined),
      250,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [householdId, words, broken]);
  return shown;
}

/** A letter as it stands on paper. */
const OnPaper = ({ content }: { content: LetterContent }) => (
  <div className={css.paper} data-testid="letter">
    <p className="quiet small">
      {content.practice.name} · {content.practice.line1}, {content.practice.city} · {content.practice.phone}
    </p>
    <p>
      {content.to.name}
      <br />
      {content.to.line1}
      <br />
      {content.to.city}, {content.to.state} {content.to.zip}
    </p>
    <h2>{content.subject}</h2>
    {content.blocks.map(({ kind, text }, index) =>
      kind === 'paragraph' ? (
        <p key={index}>{text}</p>
      ) : kind === 'heading' ? (
        <h3 key={index}>{text}</h3>
      ) : kind === 'charges' ? (
        <table key={index}>
          <tbody>
            {content.charges.map((charge) => (
              <tr key={charge.chargeId}>
                <td>{formatDate(charge.date)}</td>
                <td>{charge.title}</td>
                <td>{charge.patient}</td>
                <td>{formatMoneyPlain(charge.amount)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p key={index} className={css.slip}>
          Account {content.account} · past due {formatMoneyPlain(content.pastDue)} · {content.remit.name},{' '}
          {content.remit.line1}, {content.remit.city}
        </p>
      ),
    )}
  </div>
);
