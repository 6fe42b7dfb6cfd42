'use client';
import { Button } from 'antd';
import { useEffect, useState } from 'react';
import { formatDate, parseDate } from '../../../../core/calendar';
import { cents, formatMoneyPlain, parseMoney, sum } from '../../../../core/money';
import type { TermsPage, TermsRule, VisitEstimate } from '../../../../server/estimates/terms';
import type { QuickChoices } from '../../../../server/setup/choices';
import { useAct } from '../../../../ui/act';
import { Choose } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { useDesk, useMay } from '../../../../ui/desk';
import { useDialog } from '../../../../ui/dialog';
import { Money } from '../../../../ui/figures';
import { MoneyInput } from '../../../../ui/form';
import { Link } from '../../../../ui/link';
import { Columns, Panel, Toolbar } from '../../../../ui/page';
import { Tag } from '../../../../ui/tag';
import { Thing } from '../../../../ui/thing';
import { RowDrawer } from '../../setup/[table]/row-drawer';
import { dropOwnRuleAction, sayOwnRuleAction, visitAction } from '../actions';
import css from './terms.module.css';

interface Draft {
  table: TermsPage['tables'][number]['key'];
  values: Record<string, unknown>;
}

/** The rules of a plan or of one person's policy, and beside them a visit that is estimated as a rule is typed. */
export function TermsView({ terms, services }: { terms: TermsPage; services: QuickChoices['services'] }) {
  const { plan, coverage, tables, rules } = terms;
  const may = useMay();
  const mayChange = may(coverage ? 'register people' : 'change setup');
  const { dialog, params, open, close } = useDialog();
  const [draft, setDraft] = useState<Draft | null>(null);
  const table = tables.find(({ key }) => key === dialog);
  const rule = rules.find(({ id }) => id === Number(params.get('rule')));
  const end = (): void => {
    setDraft(null);
    close();
  };
  return (
    <>
      <Thing
        title={coverage ? `What ${coverage.patient}’s policy covers` : `What ${plan.name} covers`}
        note={
          <span>
            {may('read setup') ? <Link href={`/payers/${plan.payerId}`}>{plan.payer}</Link> : plan.payer} ·{' '}
            {plan.name} ·{' '}
            {plan.schedule !== null && may('read setup') ? (
              <Link href={`/fees/${plan.scheduleId}`}>{plan.schedule}</Link>
            ) : (
              (plan.schedule ?? 'no schedule: the office fee is allowed')
            )}
            {coverage && (
              <>
                {' '}
                · <Link href={`/accounts/${coverage.householdId}`}>{coverage.caseName}</Link>
              </>
            )}
          </span>
        }
        back={{
          href: coverage ? `/accounts/${coverage.householdId}` : `/payers/${plan.payerId}`,
          words: coverage ? 'back to the account' : 'back to the payer',
          first: () => {
            if (dialog) end();
            return dialog !== null;
          },
        }}
        acts={[
          coverage === null &&
            may('change setup') && {
              words: 'The plan itself',
              key: 'p',
              kind: 'record',
              rank: 'often',
              does: { href: `/setup/plans?search=${encodeURIComponent(plan.name)}` },
            },
        ]}
      >
        <Columns wide>
          <div>
            {tables.map((one, index) => (
              <Rules
                key={one.key}
                table={one}
                below={index > 0}
                rules={rules.filter((each) => each.table === one.key)}
                ofCoverage={coverage?.id ?? null}
                list={coverage === null ? `/setup/${one.key}?of=${plan.id}` : ''}
                mayChange={mayChange}
                open={open}
              />
            ))}
          </div>
          <Visit terms={terms} services={services} draft={draft} />
        </Columns>
      </Thing>
      {mayChange && table && (
        <RowDrawer
          table={table.key}
          noun={table.noun}
          fields={table.fields}
          // What the plan says is the beginning of what one person's policy says otherwise.
          row={
            coverage
              ? 'new'
              : rule
                ? { key: String(rule.id), version: rule.version, values: rule.values }
                : 'new'
          }
          begins={coverage && rule ? rule.values : undefined}
          along={{ insurance_plan_id: String(plan.id) }}
          size={420}
          clear
          save={
            coverage
              ? (values) => sayOwnRuleAction({ coverageId: coverage.id, table: table.key, values })
              : undefined
          }
          onTyped={(values) => setDraft({ table: table.key, values })}
          onClose={end}
        />
      )}
    </>
  );
}

/** One kind of rules: those that hold, and folded those that are over or said otherwise. */
function Rules({
  table,
  rules,
  below,
  ofCoverage,
  list,
  mayChange,
  open,
}: {
  table: TermsPage['tables'][number];
  rules: readonly TermsRule[];
  below: boolean;
  /** The coverage of one person, where it is of that. */
  ofCoverage: number | null;
  /** Where they stand as a list, of a plan. */
  list: string;
  mayChange: boolean;
  open: (name: string, more?: Record<string, string>) => void;
}) {
  const { run } = useAct();
  const shown = table.fields.filter(({ name }) => name !== 'insurance_plan_id');
  const words = ({ values }: TermsRule): string =>
    shown
      .flatMap(({ name, label, kind, choices }) => {
        const value = values[name];
        if (value === '' || value === undefined || value === false) return [];
        if (value === true) return [label.toLowerCase()];
        const said = choices?.find((one) => one.value === value)?.label ?? value;
        if (kind === 'day') return [`${label.toLowerCase()} ${formatDate(said as never)}`];
        if (kind === 'money') return [formatMoneyPlain(parseMoney(said) ?? cents(0))];
        return [kind === 'choice' || kind === 'percent' ? said : `${label.toLowerCase()} ${said}`];
      })
      .join(' · ') || '–';
  const line = (rule: TermsRule) => (
    <li key={rule.id} className={rule.holds ? undefined : 'quiet'}>
      <span>
        {words(rule)}{' '}
        {ofCoverage !== null && rule.owner !== 'plan' && <Tag tone="look">this policy alone</Tag>}
      </span>
      {mayChange && (
        <span>
          <Button
            type="link"
            size="small"
            onClick={() =>
              open(table.key, {
                rule: String(rule.id),
                ...(ofCoverage ? { coverage: String(ofCoverage) } : {}),
              })
            }
          >
            {ofCoverage === null ? 'change' : rule.owner === 'plan' ? 'say otherwise' : 'put right'}
          </Button>
          {ofCoverage !== null && rule.owner === 'coverage' && (
            <Button
              type="link"
              size="small"
              onClick={() =>
                void run(
                  () => dropOwnRuleAction({ coverageId: ofCoverage, ruleId: rule.id }),
                  'The plan’s word holds',
                )
              }
            >
              as the plan says
            </Button>
          )}
        </span>
      )}
    </li>
  );
  const holding = rules.filter(({ holds }) => holds);
  const others = rules.filter(({ holds }) => !holds);
  return (
    <Panel title={table.title} below={below}>
      {rules.length === 0 && <p className="quiet small">{table.about}</p>}
      {holding.length > 0 && <ul className={css.rules}>{holding.map(line)}</ul>}
      {others.length > 0 && (
        <details>
          <summary className="small quiet">{others.length} of other times, or said otherwise</summary>
          <ul className={css.rules}>{others.map(line)}</ul>
        </details>
      )}
      {mayChange && (
        <Button
          size="small"
          onClick={() => open(table.key, ofCoverage ? { coverage: String(ofCoverage) } : {})}
        >
          Add {table.noun}
        </Button>
      )}
      {list && (
        <>
          {' '}
          <Link className="small" href={list}>
            {table.title} as a list
          </Link>
        </>
      )}
    </Panel>
  );
}

interface Service {
  code: string;
  fee: string;
}

/** A visit of one's choice, by the rules and by what is being typed. */
function Visit({
  terms,
  services,
  draft,
}: {
  terms: TermsPage;
  services: QuickChoices['services'];
  draft: Draft | null;
}) {
  const { today } = useDesk();
  const [day, setDay] = useState<string>(today);
  const [chosen, setChosen] = useState<readonly Service[]>(() =>
    services.slice(0, 1).map(({ code }) => ({ code, fee: '' })),
  );
  const [found, setFound] = useState<VisitEstimate | null>(null);
  const [wrong, setWrong] = useState('');
  const asked = JSON.stringify([day, chosen, draft, terms.rules]);
  useEffect(() => {
    const known = parseDate(day);
    if (!known) return;
    let here = true;
    const timer = setTimeout(() => {
      void visitAction({
        planId: terms.plan.id,
        coverageId: terms.coverage?.id ?? null,
        day: known,
        services: [...chosen],
        draft: draft && {
          table: draft.table,
          values: Object.fromEntries(
            Object.entries(draft.values).map(([name, value]) => [
              name,
              typeof value === 'boolean' ? value : String(value ?? ''),
            ]),
          ),
        },
      }).then((answer) => {
        if (!here) return;
        setWrong(answer.ok ? '' : answer.message);
        if (answer.ok) setFound(answer.value);
      });
    }, 200);
    return () => {
      here = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [asked]);
  const change = (at: number, part: Partial<Service>): void =>
    setChosen(chosen.map((one, index) => (index === at ? { ...one, ...part } : one)));
  return (
    <div className={css.visit}>
      <Panel title="A visit of your choice">
        <Toolbar>
          <DateInput label="Day of the visit" value={day} onChange={setDay} />
        </Toolbar>
        {chosen.map((one, at) => (
          <div key={at} className={css.service}>
            <Choose
              aria-label={`Service ${at + 1}`}
              value={one.code}
              showSearch={{ optionFilterProp: 'label' }}
              options={services.map(({ code, description }) => ({
                value: code,
                label: `${code} ${description}`,
              }))}
              onChange={(code) => change(at, { code, fee: '' })}
            />
            <MoneyInput
              label={`Fee of service ${at + 1}`}
              value={one.fee}
              onChange={(fee) => change(at, { fee })}
            />
            <Button
              type="text"
              size="small"
              aria-label={`Take service ${at + 1} away`}
              onClick={() => setChosen(chosen.filter((_, index) => index !== at))}
            >
              ×
            </Button>
          </div>
        ))}
        <Button
          size="small"
          disabled={chosen.length >= 20 || services.length === 0}
          onClick={() => setChosen([...chosen, { code: services[0]!.code, fee: '' }])}
        >
          Add a service
        </Button>
        {wrong && <p className="warn">{wrong}</p>}
        {found && (
          <div role="status" aria-label="Estimate">
            {draft && (
              <p className="small quiet">
                {found.draft ? 'With what is being typed.' : 'What is being typed says nothing whole yet.'}
              </p>
            )}
            {found.services.map((one) => (
              <dl key={one.id} className={css.steps}>
                {one.steps.map((step, index) => {
                  const last = index === one.steps.length - 1;
                  return (
                    <div key={index}>
                      <dt>{index === 0 ? `${one.code} ${one.description}` : step.words}</dt>
                      <dd>
                        <Money cents={step.amount} strong={last} />
                      </dd>
                    </div>
                  );
                })}
              </dl>
            ))}
            {found.services.length > 1 && (
              <dl className={css.steps}>
                <div>
                  <dt>Together the patient</dt>
                  <dd>
                    <Money cents={sum(found.services.map(({ patient }) => patient))} strong />
                  </dd>
                </div>
              </dl>
            )}
          </div>
        )}
      </Panel>
    </div>
  );
}
