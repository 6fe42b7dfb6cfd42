'use client';
import { useMay } from '../../../ui/desk';
import { Button, Input, Segmented } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { HOUSEHOLD_DELIVERIES } from '../../../core/mail/pieces';
import { formatMoneyPlain } from '../../../core/money';
import type { SelectionRow } from '../../../core/statements/selection';
import { counted } from '../../../core/words';
import type { ChosenRow, RunPreview } from '../../../server/statements/choosing';
import type { StatementSet } from '../../../server/setup/statement-policies';
import type { RunChoices } from '../../../server/statements/run-choices';
import { UNREACHED, useAct, useOnce } from '../../../ui/act';
import { Choose } from '../../../ui/choose';
import { Money } from '../../../ui/figures';
import { useAddress } from '../../../ui/filters';
import { useKeys } from '../../../ui/keys';
import { Head, Panel, Toolbar } from '../../../ui/page';
import { useNarrow } from '../../../ui/narrow';
import { type Column, DeskTable } from '../../../ui/table';
import { draftAction, previewAction, saveSetAction } from './actions';
import css from './choose.module.css';
import { REASON_WORDS, Rows } from './rows';
import { StationViews } from './views';

/** Milliseconds after the last change before the effect is asked for. */
const PAUSE = 250;

/**
 * Who gets a statement: the rows at the left, what they do at the right, for each household left out every reason with the
 * way to mend it.
 */
export function ChooseHouseholds({
  choices,
  set,
  first,
}: {
  choices: RunChoices;
  set: StatementSet | null;
  first: RunPreview;
}) {
  const maySave = useMay()('change setup');
  const router = useRouter();
  const setPart = useAddress();
  const { busy, run } = useAct();
  const press = useOnce();
  const [rows, setRows] = useState<SelectionRow[] | null>(set?.rows ?? null);
  const [shown, setShown] = useState<RunPreview | null>(first);
  const [refused, setRefused] = useState('');
  const [side, setSide] = useState<'in' | 'out'>('in');
  const [only, setOnly] = useState('');
  const began = useRef(true);
  useEffect(() => {
    // What the page came with is shown already.
    if (began.current && only === '') {
      began.current = false;
      return;
    }
    let here = true;
    const timer = setTimeout(
      () =>
        void previewAction(rows ? { rows } : {}, only || undefined)
          .catch(() => UNREACHED)
          .then((answer) => {
            if (!here) return;
            setShown(answer.ok ? answer.value : null);
            setRefused(answer.ok ? '' : answer.message);
          }),
      PAUSE,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [rows, only]);
  const change = (next: SelectionRow[]): void => {
    setShown(null);
    setRows(next);
  };
  const count = shown?.in.count ?? 0;
  const draft = async (): Promise<void> => {
    const changed = set && JSON.stringify(rows) !== JSON.stringify(set.rows);
    const made = await run(
      () =>
        draftAction({
          ...(rows && (changed || !set) ? { rows } : {}),
          ...(set && !changed ? { setId: set.id } : {}),
          title: set
            ? `${set.name}${changed ? ', changed' : ''}`
            : rows
              ? 'Statements'
              : 'Each site by its own',
          key: press.key(),
        }),
      ({ pieces }) => `Preparing ${counted(pieces, 'draft')}`,
    );
    if (!made) return;
    press.next();
    router.push(`/statements/batches/${made.value.batchId}`);
  };
  useKeys(count > 0 ? [{ key: 'd', words: 'prepare the drafts', run: () => void draft() }] : []);
  const list = shown?.[side];
  return (
    <>
      <Head title="Statements" note={shown ? `${count} get one` : ''}>
        <Button type="primary" loading={busy} disabled={count === 0} onClick={() => void draft()}>
          Prepare {counted(count, 'draft')} (D)
        </Button>
      </Head>
      <Toolbar>
        <StationViews value="choose" mayPrepare />
      </Toolbar>
      <div className={css.columns}>
        <Panel title="Who gets one">
          <label className={css.label} htmlFor="set">
            By
          </label>
          <Choose<number>
            id="set"
            className={css.set}
            value={set?.id ?? 0}
            onChange={(value) => setPart('set', value ? String(value) : '')}
            options={[
              { value: 0, label: 'Each site’s standard rows' },
              ...choices.sets.map(({ id, name }) => ({ value: id, label: name })),
            ]}
          />
          {rows ? (
            <>
              <Rows side="take" rows={rows} choices={choices} onChange={change} />
              <Rows side="leave" rows={rows} choices={choices} onChange={change} />
              {maySave && <SaveSet set={set} rows={rows} choices={choices} />}
            </>
          ) : (
            <>
              <ul className={css.standard}>
                {choices.sets
                  .filter(({ standard }) => standard)
                  .map(({ id, name, siteId }) => (
                    <li key={id}>
                      {choices.site.find(({ value }) => value === String(siteId))?.label ??
                        'Every other site'}
                      : {name}
                    </li>
                  ))}
              </ul>
              <Button
                size="small"
                onClick={() =>
                  change([
                    ...(choices.sets.find(({ standard, siteId }) => standard && siteId === null)?.rows ?? []),
                  ])
                }
              >
                Other rows for once
              </Button>
            </>
          )}
        </Panel>
        <div>
          <Toolbar>
            <Segmented
              aria-label="Those shown"
              value={side}
              onChange={(value) => setSide(value as 'in' | 'out')}
              options={[
                { value: 'in', label: shown ? `Get one ${shown.in.count}` : 'Get one' },
                { value: 'out', label: shown ? `Left out ${shown.out.count}` : 'Left out' },
              ]}
            />
            {side === 'out' && (
              <Choose<string>
                aria-label="Reason"
                className={css.reason}
                value={only}
                onChange={setOnly}
                options={[
                  { value: '', label: 'Every reason' },
                  ...(shown?.out.byReason ?? []).map(({ id, count: many }) => ({
                    value: id,
                    label: `${REASON_WORDS[id]} ${many}`,
                  })),
                ]}
              />
            )}
            {list && <span className={css.sum}>{formatMoneyPlain(list.due)} due</span>}
          </Toolbar>
          {refused && <p role="alert">{refused}</p>}
          <Chosen rows={list?.rows ?? []} side={side} reading={shown === null && refused === ''} />
          {list && list.rows.length < list.count && only === '' && (
            <p className="quiet small">The first {list.rows.length} are shown.</p>
          )}
        </div>
      </div>
    </>
  );
}

/** The households of one side. */
function Chosen({
  rows,
  side,
  reading,
}: {
  rows: readonly ChosenRow[];
  side: 'in' | 'out';
  reading: boolean;
}) {
  const narrow = useNarrow();
  return (
    <DeskTable<ChosenRow>
      label={side === 'in' ? 'Households that get one' : 'Households left out'}
      rows={rows}
      rowKey={(row) => `${row.householdId}/${row.patientId ?? 0}`}
      empty={reading ? 'Weighing …' : side === 'in' ? 'Nobody gets one by these rows' : 'Nobody is left out'}
      columns={[
        {
          key: 'account',
          title: 'Account',
          width: 84,
          render: (row) => !row.closed && <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
        },
        {
          key: 'name',
          title: 'Guarantor',
          width: 150,
          cut: true,
          render: (row) => (row.patientId === null ? row.name : `${row.name} (confidential)`),
        },
        {
          key: 'reasons',
          title: 'Why',
          render: (row) => (
            <ul className={css.reasons}>
              {row.reasons.map(({ id, words, mend }) => (
                <li key={id}>
                  {words}
                  {side === 'out' && mend && (
                    <>
                      {' '}
                      <Link href={mend}>Mend</Link>
                    </>
                  )}
                </li>
              ))}
            </ul>
          ),
        },
        ...(narrow ? [] : [delivery]),
        { key: 'due', title: 'Due', width: 96, right: true, render: (row) => <Money cents={row.due} /> },
      ]}
    />
  );
}

/** How it would go out; where there is little room, why matters more. */
const delivery: Column<ChosenRow> = {
  key: 'delivery',
  title: 'How',
  width: 110,
  render: (row) => HOUSEHOLD_DELIVERIES[row.delivery].replace('printed and mailed here', 'printed here'),
};

/** Saving the rows: over the set that they came from, or under a new name. */
function SaveSet({
  set,
  rows,
  choices,
}: {
  set: StatementSet | null;
  rows: readonly SelectionRow[];
  choices: RunChoices;
}) {
  const setPart = useAddress();
  const { busy, run } = useAct();
  const [name, setName] = useState(set?.name ?? '');
  const save = async (over: boolean): Promise<void> => {
    const saved = await run(
      () =>
        saveSetAction({
          ...(over && set ? { setId: set.id, version: set.version } : {}),
          name: over && set ? set.name : name,
          siteId: set?.siteId ?? null,
          standard: over ? (set?.standard ?? false) : false,
          rows: [...rows],
        }),
      'Saved',
    );
    if (saved) setPart('set', String(saved.value));
  };
  const other = name.trim() !== '' && !choices.sets.some((item) => item.name === name.trim());
  return (
    <div className={css.save}>
      {set && (
        <Button size="small" loading={busy} onClick={() => void save(true)}>
          Save “{set.name}”
        </Button>
      )}
      <Input
        size="small"
        aria-label="Name of the rows"
        value={name}
        maxLength={60}
        placeholder="Another name"
        onChange={(event) => setName(event.target.value)}
      />
      <Button size="small" loading={busy} disabled={!other} onClick={() => void save(false)}>
        Save as new
      </Button>
    </div>
  );
}
