'use client';
import { App } from 'antd';
import { usePathname, useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import {
  REFERRING_ROLES,
  CASE_DATES,
  CASE_KINDS,
  CASE_PARTS,
  type CaseDate,
  type CaseDates,
  type CaseKind,
  DISCHARGED,
  isAccident,
  paperDates,
} from '../../../../core/accounts/cases';
import { AUTHORIZATIONS, AUTHORIZATION_STATES } from '../../../../core/accounts/case-input';
import { TOLD_BY } from '../../../../core/accounts/input';
import { toDecimal } from '../../../../core/money';
import { parseDate } from '../../../../core/calendar';
import { counted } from '../../../../core/words';
import type { Member, MemberCase } from '../../../../server/accounts/members';
import { useDesk } from '../../../../ui/desk';
import { type Fields, FormDrawer, Row } from '../../../../ui/form';
import {
  changeCaseAction,
  dischargeCaseAction,
  moveChargeAction,
  openCaseAction,
  tellBenefitAction,
  addAuthorizationAction,
  changeAuthorizationAction,
} from '../actions';
import type { AccountDesk } from './section';

/** The fields of the form that hold the dates of a case. */
const DATE_FIELDS: Readonly<Record<CaseDate, keyof MemberCase & `${string}Date`>> = {
  onset: 'onsetDate',
  firstTreated: 'firstTreatedDate',
  accident: 'accidentDate',
  acute: 'acuteDate',
  lastSeen: 'lastSeenDate',
  firstContact: 'firstContactDate',
};
/** A closed list, as choices. */
const optionsOf = (list: Readonly<Record<string, string>>) =>
  Object.entries(list).map(([value, label]) => ({ value, label }));
const words = (name: CaseDate): string => CASE_DATES[name].words.toLowerCase();

/** Which of the dates find room on a paper claim, in words; nothing where all of them do. */
function PaperRoom({ values }: { values: Readonly<Record<string, unknown>> }) {
  const dates = Object.fromEntries(
    Object.entries(DATE_FIELDS).flatMap(([name, field]) => {
      const date = parseDate(String(values[field] ?? ''));
      return date ? [[name, date]] : [];
    }),
  ) as CaseDates;
  const { box15, left } = paperDates(dates);
  if (!box15 || left.length === 0) return null;
  return (
    <p className="small quiet" role="status">
      A paper claim has room for one of these: box 15 says {words(box15)}, and not{' '}
      {left.map(words).join(', ')}.
    </p>
  );
}

type CaseFields = Fields<
  Exclude<keyof MemberCase, 'id' | 'version'> & keyof Parameters<typeof changeCaseAction>[0]
>;

/** What every case says. */
function CaseForm({
  f,
  values,
  desk,
  focus,
  standing = false,
}: {
  f: CaseFields;
  /** What the form holds now. */
  values: Readonly<Record<string, unknown>>;
  desk: AccountDesk;
  focus: string;
  standing?: boolean;
}) {
  const { choices, sites } = desk.forms;
  const kind = (values.kind as CaseKind | undefined) ?? 'general';
  const on = <Name extends string>(name: Name) => ({ name, focus: focus === name });
  return (
    <>
      <Row>
        <f.Text {...on('name')} label="Name" needed maxLength={80} placeholder="Left knee" />
        {!standing && <f.Choice name="kind" label="Kind" needed options={optionsOf(CASE_KINDS)} />}
        {!standing && <f.Date name="openedOn" label="Open since" />}
      </Row>
      {isAccident(kind) && (
        <Row>
          <f.Date {...on('accidentDate')} label="Accident on" />
          <f.Text {...on('accidentState')} label="State of the accident" maxLength={2} placeholder="WA" />
        </Row>
      )}
      <Row>
        <f.Date {...on('onsetDate')} label="Onset" />
        <f.Date name="firstTreatedDate" label="First treated" />
        <f.Date name="acuteDate" label="Acute again" />
      </Row>
      <Row>
        <f.Date name="lastSeenDate" label="Last seen" />
        <f.Date name="firstContactDate" label="First contact" />
        <span />
      </Row>
      <PaperRoom values={values} />
      <Row>
        <f.Date name="disabledFrom" label="Unable to work from" />
        <f.Date name="disabledTo" label="until" />
      </Row>
      <Row>
        <f.Date {...on('admittedOn')} label="Admitted on" />
        <f.Date name="releasedOn" label="Released on" />
      </Row>
      <f.Rows
        name="diagnoses"
        label="Diagnoses, the principal one first"
        adds="Add a diagnosis"
        columns={[
          {
            name: 'code',
            label: 'Diagnosis',
            width: '2fr',
            kind: choices.diagnoses.map(({ code, description }) => ({
              value: code,
              label: `${code} ${description}`,
            })),
          },
          { name: 'since', label: 'since', kind: 'date' },
          { name: 'until', label: 'until', kind: 'date' },
        ]}
      />
      <Row>
        <f.Choice
          name="providerId"
          label="Provider in charge"
          empty="Nobody yet"
          options={choices.providers}
        />
        <f.Choice
          name="billProviderId"
          label="Provider on bills"
          empty="Who did it"
          options={choices.providers}
        />
      </Row>
      <Row>
        <f.Choice name="siteId" label="Billed under" empty="The provider’s site" options={sites} />
        <f.Choice name="serviceSiteId" label="Done at" empty="The same site" options={sites} />
      </Row>
      <Row>
        <f.Text {...on('referringLast')} label="Referred by, last name" maxLength={60} />
        <f.Text name="referringFirst" label="First name" maxLength={35} />
      </Row>
      <Row>
        <f.Text {...on('referringNpi')} label="NPI of who referred" maxLength={10} />
        <f.Choice
          name="referringRole"
          label="As what"
          options={Object.entries(REFERRING_ROLES).map(([value, label]) => ({ value, label }))}
        />
        <f.Date name="referredOn" label="Referred on" />
      </Row>
      <Row>
        <f.Choice
          name="cameBy"
          label="How the patient came"
          empty="Not said"
          options={choices.referralSources.map((value) => ({ value, label: value }))}
        />
        <f.Text name="cameByNote" label="By whom" maxLength={120} />
      </Row>
      <f.Text name="limits" label="Limits in function" maxLength={500} />
      <f.Rows
        name="services"
        label="Usual services"
        adds="Add a service"
        columns={[
          {
            name: 'code',
            label: 'Service',
            width: '2fr',
            kind: choices.services.map(({ code, description }) => ({
              value: code,
              label: `${code} ${description}`,
            })),
          },
          { name: 'fee', label: 'Own price', kind: 'money' },
          { name: 'minutes', label: 'Minutes', width: '70px', kind: 'text' },
        ]}
      />
      <Row>
        <f.YesNo name="statements" label="On statements" />
        <f.YesNo name="lateCharges" label="Late charges" />
        <f.YesNo name="claims" label="Sends claims" />
      </Row>
    </>
  );
}

/** A form field that was left empty is nothing. */
const minutesOf = <Sent extends { services?: unknown }>(sent: Sent): Sent => ({
  ...sent,
  services: ((sent.services ?? []) as { minutes?: unknown }[]).map((one) => ({
    ...one,
    minutes: one.minutes === '' ? null : one.minutes,
  })),
});

/** A new case of a person, with what of another one is taken over. */
export function NewCaseDrawer({ desk, person }: { desk: AccountDesk; person: Member }) {
  const router = useRouter();
  const path = usePathname();
  const begins = {
    kind: 'illness',
    openedOn: desk.today,
    statements: true,
    lateCharges: true,
    claims: true,
    fromCaseId: person.cases[0].id,
    take: ['people', 'sites'],
    diagnoses: [],
    services: [],
  };
  const [values, setValues] = useState<Readonly<Record<string, unknown>>>(begins);
  return (
    <FormDrawer
      title={`New case of ${person.first} ${person.last}`}
      size={620}
      onClose={desk.close}
      initial={begins}
      along={{ patientId: person.id }}
      once
      onTyped={setValues}
      action={(sent: Parameters<typeof openCaseAction>[0]) => openCaseAction(minutesOf(sent))}
      done={(id) => router.push(`${path}?member=${person.id}&case=${id}`, { scroll: false })}
      words="Open the case"
    >
      {(f) => (
        <>
          <CaseForm f={f} values={values} desk={desk} focus="name" />
          <Row>
            <f.Choice
              name="fromCaseId"
              label="Take over from"
              options={person.cases.map(({ id, name }) => ({ value: id, label: name }))}
            />
            <f.Choice name="take" label="what is left empty here" several options={optionsOf(CASE_PARTS)} />
          </Row>
        </>
      )}
    </FormDrawer>
  );
}

/** A case that is there, put right. Opened from a finding, it goes back to the claim when saved. */
export function CaseDrawer({ desk, found }: { desk: AccountDesk; found: MemberCase }) {
  const params = useSearchParams();
  const router = useRouter();
  const back = params.get('back');
  const field = params.get('field') ?? 'name';
  const [values, setValues] = useState<Readonly<Record<string, unknown>>>({ ...found });
  return (
    <FormDrawer
      title={found.standing ? `${found.name} of everybody` : found.name}
      size={620}
      onClose={desk.close}
      initial={{ ...found }}
      along={{ caseId: found.id, ...(found.standing ? { kind: 'general' } : {}) }}
      version={found.version}
      onTyped={setValues}
      action={(sent: Parameters<typeof changeCaseAction>[0]) => changeCaseAction(minutesOf(sent))}
      done={() => (back?.startsWith('/claims/') ? router.push(back) : desk.close())}
      words={back ? 'Save and go back to the claim' : 'Save'}
    >
      {(f) => (
        <CaseForm
          f={f}
          values={values}
          desk={desk}
          standing={found.standing}
          focus={field === 'referring' ? 'referringNpi' : field === 'dates' ? 'onsetDate' : field}
        />
      )}
    </FormDrawer>
  );
}

/** Closes a case. */
export function DischargeDrawer({ desk, found }: { desk: AccountDesk; found: MemberCase }) {
  const { today } = useDesk();
  return (
    <FormDrawer
      title={`Close “${found.name}”`}
      onClose={desk.close}
      initial={{ on: today }}
      along={{ caseId: found.id }}
      action={dischargeCaseAction}
      done={desk.close}
      words="Close the case"
    >
      {(f) => (
        <>
          <p className="quiet small">
            Nothing later is entered for it. What is owed of it, its claims and its insurers live on, and it
            can be opened again.
          </p>
          <f.Date name="on" label="Closed on" needed />
          <f.Code
            name="why"
            label="Why"
            needed
            focus
            options={DISCHARGED.map((value) => ({ value, label: value }))}
          />
        </>
      )}
    </FormDrawer>
  );
}

/** Moves a service to another case or person of the account. */
export function MoveDrawer({ desk, chargeId }: { desk: AccountDesk; chargeId: number }) {
  const { message } = App.useApp();
  const charge = desk.account.charges.find(({ id }) => id === chargeId);
  if (!charge) return null;
  const targets = desk.account.members.flatMap(({ id, first, cases }) =>
    cases
      .filter((one) => one.id !== charge.caseId)
      .map((one) => ({ value: `${id}/${one.id}`, label: `${first}: ${one.name}` })),
  );
  return (
    <FormDrawer
      title={`Move ${charge.code} ${charge.description}`}
      onClose={desk.close}
      along={{ chargeId }}
      action={({ to, ...sent }: { to: string; chargeId: number; why: string }) => {
        const [patientId, caseId] = to.split('/').map(Number);
        return moveChargeAction({ ...sent, patientId: patientId!, caseId: caseId! });
      }}
      done={() => {
        void message.success(`${charge.code} moved`);
        desk.close();
      }}
      words="Move the service"
    >
      {(f) => (
        <>
          <p className="quiet small">
            It is taken back where it stands and entered there, with its fee, for the insurer of that case.
            What the patient paid of it pays it there. {counted(targets.length, 'other case')} on this
            account.
          </p>
          <f.Choice name="to" label="To" needed focus options={targets} />
          <f.Text name="why" label="Why" needed maxLength={200} />
        </>
      )}
    </FormDrawer>
  );
}

/** What the payer of a case's first coverage told of what was used. */
export function ToldDrawer({ desk, found }: { desk: AccountDesk; found: MemberCase }) {
  const coverage = found.coverages.find(({ now }) => now);
  if (!coverage) return null;
  return (
    <FormDrawer
      title={`What ${coverage.payer} tells`}
      onClose={desk.close}
      initial={{ asOf: desk.today, rule: found.counts[0]?.rule, source: 'call' }}
      along={{ coverageId: coverage.id }}
      action={tellBenefitAction}
      done={desk.close}
      words="Write it down"
    >
      {(f) => (
        <>
          <p className="quiet small">
            All that it had decided by that day, whoever was paid. What is decided of ours later comes on top
            by itself. Left empty, nothing is told of that day any more.
          </p>
          <f.Choice
            name="rule"
            label="Of what"
            needed
            options={found.counts.map(({ rule, words }) => ({ value: rule, label: words }))}
          />
          <Row>
            <f.Text name="quantity" label="Used so far" focus />
            <f.Date name="asOf" label="By" needed />
          </Row>
          <f.Choice name="source" label="Known from" needed options={optionsOf(TOLD_BY)} />
        </>
      )}
    </FormDrawer>
  );
}

/** What a payer allows beforehand for a case: a new one, or one put right. */
export function AuthorizationDrawer({ desk, found }: { desk: AccountDesk; found: MemberCase }) {
  const params = useSearchParams();
  const there = found.authorizations.find(({ id }) => id === Number(params.get('authorization')));
  if (there)
    return (
      <FormDrawer
        title={`${AUTHORIZATIONS[there.kind]} ${there.number}`}
        onClose={desk.close}
        initial={{
          ...there,
          coverageId: found.coverages.find(({ payer }) => payer === there.payer)?.id,
          amount: there.amount === null ? '' : toDecimal(there.amount),
        }}
        along={{ authorizationId: there.id }}
        version={there.version}
        action={changeAuthorizationAction}
        done={desk.close}
        words="Save"
      >
        {(f) => <AuthorizationForm f={f} desk={desk} found={found} />}
      </FormDrawer>
    );
  return (
    <FormDrawer
      title={`Authorization for ${found.name}`}
      onClose={desk.close}
      initial={{
        coverageId: (found.coverages.find(({ now }) => now) ?? found.coverages[0])?.id,
        kind: 'prior-authorization',
        state: 'approved',
        answeredOn: desk.today,
        codes: [],
      }}
      along={{ caseId: found.id }}
      once
      action={addAuthorizationAction}
      done={desk.close}
      words="Write it down"
    >
      {(f) => <AuthorizationForm f={f} desk={desk} found={found} />}
    </FormDrawer>
  );
}

type AuthorizationFields = Fields<
  keyof Parameters<typeof addAuthorizationAction>[0] & keyof Parameters<typeof changeAuthorizationAction>[0]
>;

function AuthorizationForm({
  f,
  desk,
  found,
}: {
  f: AuthorizationFields;
  desk: AccountDesk;
  found: MemberCase;
}) {
  const insurers = found.coverages.map(({ id, payer, plan }) => ({ value: id, label: `${payer}, ${plan}` }));
  return (
    <>
      <p className="quiet small">Its number goes on the claims of its days. What is used is counted.</p>
      <f.Choice name="coverageId" label="Of which insurer" needed options={insurers} />
      <Row>
        <f.Choice name="kind" label="Kind" needed options={optionsOf(AUTHORIZATIONS)} />
        <f.Choice name="state" label="State" needed options={optionsOf(AUTHORIZATION_STATES)} />
      </Row>
      <f.Text name="number" label="Number" focus maxLength={50} />
      <Row>
        <f.Date name="askedOn" label="Asked on" />
        <f.Date name="answeredOn" label="Answered on" />
      </Row>
      <Row>
        <f.Date name="validFrom" label="Valid from" />
        <f.Date name="validTo" label="until" />
      </Row>
      <f.Choice
        name="codes"
        label="For these services alone"
        several
        options={desk.forms.choices.services.map(({ code, description }) => ({
          value: code,
          label: `${code} ${description}`,
        }))}
      />
      <Row>
        <f.Text name="visits" label="Visits" />
        <f.Text name="units" label="Units" />
        <f.Money name="amount" label="Amount" />
      </Row>
    </>
  );
}
