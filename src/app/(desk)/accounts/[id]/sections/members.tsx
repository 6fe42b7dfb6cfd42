'use client';
import { Button, Segmented } from 'antd';
import dynamic from 'next/dynamic';
import { AUTHORIZATIONS, AUTHORIZATION_STATES } from '../../../../../core/accounts/case-input';
import { ZERO, formatMoneyPlain, minus, most } from '../../../../../core/money';
import type { Authorization } from '../../../../../server/accounts/authorizations';
import { BILL_PATIENT_WHY } from '../../../../../core/accounts/bill-patient';
import { LEDGER_VIEWS, type LedgerView } from '../../../../../core/accounts/ledger-views';
import { formatDate } from '../../../../../core/calendar';
import { counted } from '../../../../../core/words';
import { CASE_KINDS } from '../../../../../core/accounts/cases';
import type { CaseTotals, Member, MemberCase, MemberCoverage } from '../../../../../server/accounts/members';
import { Choose } from '../../../../../ui/choose';
import { Day, Money } from '../../../../../ui/figures';
import { Link } from '../../../../../ui/link';
import { Loaded } from '../../../../../ui/loaded';
import { caseTotalsAction, reopenCaseAction } from '../../actions';
import { Toolbar } from '../../../../../ui/page';
import css from '../account.module.css';
import { type AccountDesk, type AccountSection, useAccount } from '../section';
import { leftWords } from '../left-words';
import { usualOrder } from '../usual-order';

const FixDrawer = dynamic(() => import('../fix-drawer').then((all) => all.FixDrawer));
const NewCaseDrawer = dynamic(() => import('../case-drawer').then((all) => all.NewCaseDrawer));
const CaseDrawer = dynamic(() => import('../case-drawer').then((all) => all.CaseDrawer));
const DischargeDrawer = dynamic(() => import('../case-drawer').then((all) => all.DischargeDrawer));
const ToldDrawer = dynamic(() => import('../case-drawer').then((all) => all.ToldDrawer));
const AuthorizationDrawer = dynamic(() => import('../case-drawer').then((all) => all.AuthorizationDrawer));
const ExhaustedDrawer = dynamic(() => import('../exhausted-drawer').then((all) => all.ExhaustedDrawer));
const TreatmentDrawer = dynamic(() => import('../treatment-drawer').then((all) => all.TreatmentDrawer));
const VisitDrawer = dynamic(() => import('../visit-drawer').then((all) => all.VisitDrawer));
const MoveDrawer = dynamic(() => import('../case-drawer').then((all) => all.MoveDrawer));

const fix =
  (kind: 'person' | 'member' | 'coverage' | 'order' | 'charge') =>
  ({ account, forms, close }: AccountDesk) => (
    <FixDrawer kind={kind} account={account} plans={forms.plans} choices={forms.choices} onClose={close} />
  );

/** The person whom the address names, or the first one. */
const personOf = ({ account, params }: AccountDesk): Member | undefined =>
  account.members.find(({ id }) => id === Number(params.get('patient'))) ?? account.members[0];

/** Who belongs to the household, with their coverages, and whose part of the account is shown. */
export const members: AccountSection = {
  Panel: Members,
  dialogs: {
    person: { draw: fix('person') },
    member: { draw: fix('member') },
    coverage: { draw: fix('coverage') },
    order: { draw: fix('order') },
    charge: { draw: fix('charge') },
    'new-case': {
      may: 'register people',
      draw: (desk) => {
        const person = personOf(desk);
        return person && <NewCaseDrawer desk={desk} person={person} />;
      },
    },
    case: {
      may: 'register people',
      draw: (desk) => desk.shownCase && <CaseDrawer desk={desk} found={desk.shownCase} />,
    },
    discharge: {
      may: 'register people',
      draw: (desk) => desk.shownCase && <DischargeDrawer desk={desk} found={desk.shownCase} />,
    },
    authorization: {
      may: 'register people',
      draw: (desk) => {
        const found = desk.shownCase ?? personOf(desk)?.cases[0];
        return found && <AuthorizationDrawer desk={desk} found={found} />;
      },
    },
    exhausted: {
      may: 'register people',
      draw: (desk) => {
        const id = Number(desk.params.get('coverage'));
        const found = desk.account.members
          .flatMap(({ cases }) => cases.flatMap(({ coverages }) => coverages))
          .find((coverage) => coverage.id === id);
        return found && <ExhaustedDrawer desk={desk} coverage={found} />;
      },
    },
    told: {
      may: 'register people',
      draw: (desk) => {
        const found = desk.shownCase ?? personOf(desk)?.cases[0];
        return found && <ToldDrawer desk={desk} found={found} />;
      },
    },
    treatment: {
      draw: (desk) => {
        const found = desk.shownCase ?? personOf(desk)?.cases[0];
        return found && <TreatmentDrawer desk={desk} found={found} />;
      },
    },
    visit: {
      draw: (desk) => <VisitDrawer desk={desk} chargeId={Number(desk.params.get('charge'))} />,
    },
    move: {
      may: 'reverse entries',
      draw: (desk) => <MoveDrawer desk={desk} chargeId={Number(desk.params.get('charge'))} />,
    },
  },
};

/** Lines of so many people stand on the page. */
const FEW = 3;

function Members() {
  const { account, member, shownCase, view, set, may, open } = useAccount();
  const shown = account.members.filter((item) => member === 0 || item.id === member);
  const cases = shown.flatMap((person) => person.cases.map((one) => ({ person, one })));
  return (
    <>
      <Toolbar>
        <Segmented
          aria-label="Member"
          value={member}
          onChange={(value) => set('member', value ? String(value) : '', 'case')}
          options={[
            { value: 0, label: 'Whole household' },
            ...account.members.map((item) => ({ value: item.id, label: item.first })),
          ]}
        />
        {may('register people') && (
          <Button type="link" className={css.link} onClick={() => open('member')}>
            Add member
          </Button>
        )}
        {cases.length > shown.length && (
          <div className={css.cases}>
            <Choose
              aria-label="Case"
              value={shownCase?.id ?? 0}
              onChange={(id) => set('case', id ? String(id) : '')}
              options={[
                { value: 0, label: 'All cases' },
                ...cases.map(({ person, one }) => ({
                  value: one.id,
                  label: `${shown.length > 1 ? `${person.first}: ` : ''}${one.name}${one.dischargedOn ? ', closed' : ''}`,
                })),
              ]}
            />
          </div>
        )}
        <Segmented
          aria-label="Filter"
          value={view}
          onChange={(value) => set('view', value === 'all' ? '' : value)}
          options={(Object.keys(LEDGER_VIEWS) as LedgerView[])
            .filter((one) => one !== 'planned' || account.charges.some(LEDGER_VIEWS.planned.holds))
            .map((value) => ({ value, label: LEDGER_VIEWS[value].label }))}
        />
      </Toolbar>
      {shown.slice(0, FEW).map((item) => (
        <PersonLine
          key={item.id}
          person={item}
          found={shownCase ?? item.cases[0]}
          alone={account.members.length === 1 || member !== 0}
          mayChange={may('register people')}
          open={open}
        />
      ))}
      {shown.length > FEW && <p className="small quiet">Choose a member to see the others.</p>}
      {shownCase && <CaseLine found={shownCase} />}
    </>
  );
}

const TOTALS: readonly (readonly [key: keyof CaseTotals, words: string])[] = [
  ['charged', 'Charged'],
  ['reduced', 'Written off'],
  ['paid', 'Paid'],
  ['withPayers', 'With payers'],
  ['withPatient', 'With the patient'],
];

/** The case that is shown: what it is, what can be done with it, and its totals beside those of person and household. */
function CaseLine({ found }: { found: MemberCase }) {
  const { account, may, open, run, busy } = useAccount();
  const mayChange = may('register people');
  const facts = [
    found.kind !== 'general' && CASE_KINDS[found.kind],
    found.accidentDate &&
      `on ${formatDate(found.accidentDate)}${found.accidentState && ` in ${found.accidentState}`}`,
    found.openedOn && `open since ${formatDate(found.openedOn)}`,
    found.diagnoses.length > 0 && found.diagnoses.map(({ code }) => code).join(' '),
    found.referringLast && `referred by ${found.referringFirst} ${found.referringLast}`,
    found.cameBy && `came by ${found.cameBy}${found.cameByNote && ` (${found.cameByNote})`}`,
    found.limits && `limits: ${found.limits}`,
    !found.claims && 'sends no claims',
    !found.statements && 'not on statements',
    !found.lateCharges && 'no late charges',
  ].filter(Boolean);
  const act = (words: string, does: () => void) =>
    mayChange && (
      <>
        {' '}
        <Button type="link" className={css.link} disabled={busy} onClick={does}>
          {words}
        </Button>
      </>
    );
  const of = { patient: String(found.patientId), case: String(found.id) };
  return (
    <section className={css.case} aria-label="Case">
      <div className="small quiet">
        <strong>{found.name}</strong>
        {facts.length > 0 && ` · ${facts.join(' · ')}`}
        {act('change', () => open('case', of))}
        {found.dischargedOn ? (
          <>
            {' · '}
            <span className="warn">
              closed on <Day date={found.dischargedOn} />: {found.dischargeWhy}
            </span>
            {act('open it again', () => void run(() => reopenCaseAction({ caseId: found.id }), 'Open again'))}
          </>
        ) : (
          !found.standing && act('close', () => open('discharge', of))
        )}
      </div>
      {/* What was posted meanwhile counts. */}
      <Loaded
        of={`${found.id}/${account.charges.map(({ id, withPayer, withPatient }) => `${id}.${withPayer}.${withPatient}`).join()}`}
        read={() => caseTotalsAction({ caseId: found.id })}
      >
        {(totals) => (
          <table className={css.totals} aria-label="Totals of the case">
            <thead>
              <tr>
                <th scope="col" />
                {TOTALS.map(([key, words]) => (
                  <th key={key} scope="col">
                    {words}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {(
                [
                  ['This case', totals.case],
                  ['The person', totals.person],
                  ['The household', totals.household],
                ] as const
              ).map(([words, row]) => (
                <tr key={words}>
                  <th scope="row">{words}</th>
                  {TOTALS.map(([key]) => (
                    <td key={key}>
                      <Money cents={row[key]} />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </Loaded>
    </section>
  );
}

const ORDER = ['', 'first', 'second', 'third'];

/** What a coverage is, in words: order, payer, plan, whose, and its dates where it has some. */
const coverageWords = (coverage: MemberCoverage, alone: boolean): string =>
  [
    `${alone ? '' : `${ORDER[coverage.position]}: `}${coverage.payer}, ${coverage.plan}, member ${coverage.memberId}`,
    coverage.relationship !== 'self' && `of ${coverage.subscriber}`,
    coverage.validFrom && `from ${formatDate(coverage.validFrom)}`,
    coverage.validTo && `until ${formatDate(coverage.validTo)}`,
    coverage.exhaustedFrom && `nothing left from ${formatDate(coverage.exhaustedFrom)} on`,
    coverage.billPatient !== 'yes' &&
      `${coverage.billPatient === 'never' ? 'never bill the patient' : 'bill the patient the copay only'} (${coverage.billPatientWhy && BILL_PATIENT_WHY[coverage.billPatientWhy]})`,
  ]
    .filter(Boolean)
    .join(', ');

/** What a payer allows beforehand, and what of it is left. */
function authorizationWords(one: Authorization): string {
  const left = (
    [
      [one.visits, one.used.visits, 'visits'],
      [one.units, one.used.units, 'units'],
    ] as const
  ).flatMap(([all, used, what]) =>
    all === null ? [] : [`${Math.max(0, all - used)} of ${all} ${what} left`],
  );
  if (one.amount !== null)
    left.push(
      `${formatMoneyPlain(most(ZERO, minus(one.amount, one.used.amount)))} of ${formatMoneyPlain(one.amount)} left`,
    );
  return [
    `${AUTHORIZATIONS[one.kind].toLowerCase()} ${one.number || `of ${one.payer}`} ${AUTHORIZATION_STATES[one.state]}`,
    ...(one.state === 'approved' || one.state === 'in-part' ? left : []),
    one.codes.length > 0 && `for ${one.codes.join(' ')}`,
    one.validTo && `until ${formatDate(one.validTo)}`,
  ]
    .filter(Boolean)
    .join(', ');
}

/** One person: birth date, coverages, what of the first is left. Those that are not in force are unfolded. */
function PersonLine({
  person,
  found,
  alone,
  mayChange,
  open,
}: {
  person: Member;
  /** The case whose coverages are shown. */
  found: MemberCase;
  /** Nobody else is shown, so that there is room for all that is counted. */
  alone: boolean;
  mayChange: boolean;
  open: (name: string, more?: Record<string, string>) => void;
}) {
  const patient = String(person.id);
  const ofCase: Record<string, string> = found.standing ? {} : { case: String(found.id) };
  const act = (words: string, name: string, more: Record<string, string> = {}) =>
    mayChange && (
      <>
        {' '}
        <Button type="link" className={css.link} onClick={() => open(name, { patient, ...more })}>
          {words}
        </Button>
      </>
    );
  const coverage = (item: MemberCoverage) => (
    <span key={item.id}>
      {' · '}
      {coverageWords(item, found.coverages.length === 1)}
      {act('change', 'coverage', { coverage: String(item.id), ...ofCase })}{' '}
      <Link className={css.covers} href={`/terms/${item.planId}?coverage=${item.id}`}>
        what it covers
      </Link>
      {act(item.exhaustedFrom ? 'its letter' : 'mark used up', 'exhausted', {
        coverage: String(item.id),
        ...ofCase,
      })}
    </span>
  );
  const now = found.coverages.filter((item) => item.now);
  const others = found.coverages.filter((item) => !item.now);
  const usual = usualOrder(found);
  // Beside others only what is used up.
  const shown = found.counts.filter(({ left, most }) => alone || (left === 0 && most > 0));
  return (
    <div className={`small quiet ${css.person}`}>
      {person.first} {person.last}, born <Day date={person.birthDate} />
      {act('change', 'person')}
      {now.length === 0 ? ' · no coverage today' : now.map(coverage)}
      {act('add coverage', 'coverage', ofCase)}
      {now.length > 1 && act('change the order', 'order', ofCase)}
      {found.standing && act('open a case', 'new-case')}
      {act('planned treatment', 'treatment', ofCase)}
      {shown.length > 0 && ` · left: ${shown.map(leftWords).join(', ')}`}
      {alone && found.counts.length > 0 && act('told by the payer', 'told', ofCase)}
      {(alone || found.authorizations.length > 0) && found.coverages.length > 0 && (
        <>
          {found.authorizations.map((one) => (
            <span key={one.id}>
              {' · '}
              {authorizationWords(one)}
              {act('change', 'authorization', { authorization: String(one.id), ...ofCase })}
            </span>
          ))}
          {act('add authorization', 'authorization', ofCase)}
        </>
      )}
      {usual && (
        <div className="warn">
          The usual order is another one: {usual.why}.{act('look at it', 'order', ofCase)}
        </div>
      )}
      {now.some(({ assigned }) => !assigned) && (
        <div className="warn">
          {now
            .filter(({ assigned }) => !assigned)
            .map(({ payer }) => payer)
            .join(' and ')}{' '}
          pays the patient, and not us: ask for what it pays.
        </div>
      )}
      {others.length > 0 && (
        <details>
          <summary>{counted(others.length, 'coverage')} of other times</summary>
          {others.map(coverage)}
        </details>
      )}
    </div>
  );
}
