'use client';
import { App } from 'antd';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { Sortable } from '../../../../ui/sortable';
import { usualOrder } from './usual-order';
import { isAccident } from '../../../../core/accounts/cases';
import { isOurs } from '../../../../core/claims/life';
import { ORAL_AREAS } from '../../../../core/accounts/oral-areas';
import { formatDate } from '../../../../core/calendar';
import { toDecimal } from '../../../../core/money';
import { counted } from '../../../../core/words';
import { useDesk } from '../../../../ui/desk';
import type { LedgerCharge } from '../../../../server/accounts/ledger';
import type { Member, MemberCase } from '../../../../server/accounts/members';
import type { AccountPage } from '../../../../server/account-page/read';
import type { WentElsewhere } from '../../../../server/accounts/went-elsewhere';
import type { PlanChoice, QuickChoices } from '../../../../server/setup/choices';
import type { Takes } from '../../../../ui/act';
import { FormDrawer, Row } from '../../../../ui/form';
import { Notice } from '../../../../ui/page';
import { AddressFields, CoverageFields, FirstCoverageFields, PersonFields } from '../../../../ui/person-form';
import {
  addCoverageAction,
  orderCoveragesAction,
  addMemberAction,
  changeChargeAction,
  changeCoverageAction,
  changePatientAction,
} from '../actions';

interface Props {
  kind: 'person' | 'member' | 'coverage' | 'order' | 'charge';
  account: AccountPage;
  plans: PlanChoice[];
  choices: QuickChoices;
  onClose: () => void;
}

/** Puts a person, a coverage or a charge right. Opened from a finding, it goes back to the claim when saved. */
export function FixDrawer({ kind, account, plans, choices, onClose }: Props) {
  const params = useSearchParams();
  const router = useRouter();
  const focus = params.get('field') ?? undefined;
  const back = params.get('back');
  const { household: h } = account;
  const shared: Shared = {
    onClose,
    done: () => (back?.startsWith('/claims/') ? router.push(back) : onClose()),
    words: back ? 'Save and go back to the claim' : 'Save',
  };
  if (kind === 'member')
    return (
      <FormDrawer
        {...shared}
        title="New member"
        initial={{ last: h.last, sex: 'F' }}
        along={{ householdId: h.id }}
        once
        action={addMemberAction}
      >
        {(f) => (
          <>
            <PersonFields f={f} focus="first" />
            <FirstCoverageFields f={f} plans={plans} />
          </>
        )}
      </FormDrawer>
    );
  const person =
    account.members.find((item) => item.id === Number(params.get('patient'))) ?? account.members[0];
  if (kind === 'person')
    return person ? (
      <FormDrawer
        {...shared}
        title={`${person.first} ${person.last}`}
        initial={{ ...h, ...person }}
        along={{ patientId: person.id }}
        version={person.version}
        action={changePatientAction}
      >
        {(f) => (
          <>
            <PersonFields f={f} focus={focus ?? 'last'} />
            <AddressFields f={f} focus={focus} />
            <f.Rows
              name="lostTeeth"
              label="Lost teeth"
              adds="Add a lost tooth"
              columns={[
                { name: 'tooth', label: 'Tooth', kind: 'text' },
                { name: 'lostOn', label: 'lost on, if known', kind: 'date' },
              ]}
            />
          </>
        )}
      </FormDrawer>
    ) : null;
  const found = person?.cases.find(({ id }) => id === Number(params.get('case'))) ?? person?.cases[0];
  if (kind === 'coverage')
    return person && found ? (
      <CoverageForm
        shared={shared}
        person={person}
        found={found}
        account={account}
        plans={plans}
        coverageId={Number(params.get('coverage')) || null}
        focus={focus}
      />
    ) : null;
  if (kind === 'order')
    return person && found ? <OrderForm shared={shared} person={person} found={found} /> : null;
  const charge = account.charges.find((item) => item.id === Number(params.get('charge')));
  return charge ? <ChargeForm shared={shared} charge={charge} choices={choices} focus={focus} /> : null;
}

/** What every form of this drawer has. */
interface Shared {
  onClose: () => void;
  done: () => void;
  words: string;
}

/** Says what followed when coverages were changed. */
export function useFollowed(done: () => void) {
  const { message } = App.useApp();
  return ({
    followed,
    left,
    elsewhere,
  }: {
    followed: number;
    left: number;
    elsewhere: readonly WentElsewhere[];
  }): void => {
    if (followed > 0)
      void message.success(`${counted(followed, 'unbilled charge')} moved to the new coverage`);
    if (elsewhere.length > 0)
      void message.warning({
        duration: 12,
        content: `${counted(elsewhere.length, 'claim')} went to another insurer and ${elsewhere.length === 1 ? 'is' : 'are'} to be taken back and billed anew, the first to ${elsewhere[0]!.covers} by ${formatDate(elsewhere[0]!.until)}: see the follow-ups`,
      });
    if (left > 0)
      void message.warning(`${counted(left, 'charge')} stayed: money has moved on them, see the ledger`);
    done();
  };
}

/** Another order of the coverages that are in force, from a day on; it begins with what the usual rules propose. */
function OrderForm({ shared, person, found }: { shared: Shared; person: Member; found: MemberCase }) {
  const { today } = useDesk();
  const done = useFollowed(shared.done);
  const now = found.coverages.filter((item) => item.now);
  const usual = usualOrder(found);
  const [order, setOrder] = useState(() => usual?.order ?? now.map(({ id }) => id));
  return (
    <FormDrawer
      {...shared}
      title={`Order of the coverages of ${person.first} ${person.last}`}
      initial={{ from: today }}
      along={{ patientId: person.id, caseId: found.id }}
      action={(sent: Omit<Takes<typeof orderCoveragesAction>, 'first' | 'second'>) =>
        orderCoveragesAction({ ...sent, first: order[0]!, second: order[1] ?? null })
      }
      done={done}
      words="Change the order"
    >
      {(f) => (
        <>
          <p className="quiet small">
            What was billed before keeps its place; what is unbilled from that day on follows.
            {usual && ` Proposed is the usual order: ${usual.why}.`}
          </p>
          <f.Date name="from" label="From" needed />
          <Sortable
            label="Coverages in their order"
            items={order.map((id) => {
              const item = now.find((one) => one.id === id)!;
              return { id, words: `${item.payer}, ${item.plan}` };
            })}
            onOrder={setOrder}
          />
        </>
      )}
    </FormDrawer>
  );
}

/** A coverage of a person: a further one, or one that is put right or ended. */
function CoverageForm({
  shared,
  person,
  found,
  account,
  plans,
  coverageId,
  focus,
}: {
  shared: Shared;
  person: Member;
  /** The case of which it is. */
  found: MemberCase;
  account: AccountPage;
  plans: Props['plans'];
  coverageId: number | null;
  focus: string | undefined;
}) {
  const done = useFollowed(shared.done);
  const [notice, setNotice] = useState('');
  const coverage = found.coverages.find((item) => item.id === coverageId);
  const members = account.members
    .filter((item) => item.id !== person.id)
    .map((item) => ({ value: item.id, label: `${item.first} ${item.last}` }));
  if (!coverage)
    return (
      <FormDrawer
        {...shared}
        title={`Coverage of ${person.first} ${person.last}${found.standing ? '' : `, ${found.name}`}`}
        initial={{
          relationship: 'self',
          position: found.coverages.some((item) => item.now) ? 2 : 1,
          billPatient: 'yes',
          assigned: true,
          signed: true,
        }}
        along={{ patientId: person.id, caseId: found.id }}
        once
        action={addCoverageAction}
        onTyped={(values) =>
          setNotice(plans.find(({ value }) => value === values.insurancePlanId)?.notice ?? '')
        }
        done={done}
      >
        {(f) => (
          <>
            <p className="quiet small">
              Another plan in the same order takes the place of the one before from the day it is in force.
            </p>
            <CoverageFields
              f={f}
              members={members}
              focus={focus}
              injury={isAccident(found.kind)}
              plan={
                <>
                  <f.Choice
                    name="insurancePlanId"
                    label="Insurance plan"
                    empty="Its payer is not in the list"
                    options={plans}
                    focus={focus === undefined || focus === 'insurancePlanId'}
                  />
                  {notice && <Notice>{notice}</Notice>}
                  <details>
                    <summary>A payer that is not in the list</summary>
                    <p className="quiet small">
                      It is marked as not set up, and its claims say what is missing.
                    </p>
                    <Row>
                      <f.Text name="payerName" label="Payer" maxLength={60} />
                      <f.Text name="payerPlan" label="Plan" maxLength={60} />
                    </Row>
                    <Row>
                      <f.Text name="payerCity" label="City" maxLength={30} />
                      <f.Text name="payerState" label="State" maxLength={2} placeholder="WA" />
                      <f.Text name="payerZip" label="ZIP" />
                    </Row>
                  </details>
                </>
              }
              order={
                <f.Choice
                  name="position"
                  label="Order"
                  needed
                  options={['First', 'Second', 'Third'].map((label, index) => ({ value: index + 1, label }))}
                />
              }
            />
          </>
        )}
      </FormDrawer>
    );
  // A person who holds it and is nobody's patient here.
  const outside = coverage.holder?.organization ? null : coverage.holder;
  return (
    <FormDrawer
      {...shared}
      title={`${coverage.payer}, ${coverage.plan}`}
      initial={{
        ...coverage,
        subscriberId: coverage.relationship === 'self' ? null : coverage.subscriberId,
        validFrom: coverage.validFrom ?? '',
        validTo: coverage.validTo ?? '',
        billPatientWhy: coverage.billPatientWhy || null,
        basis: coverage.basis || null,
        holderLast: outside?.last ?? '',
        holderFirst: outside?.first ?? '',
        holderBirthDate: outside?.birthDate ?? '',
        holderSex: outside?.sex ?? null,
        holderOrganization: coverage.holder?.organization ? coverage.holder.last : '',
        holderLine1: coverage.holder?.line1 ?? '',
        holderCity: coverage.holder?.city ?? '',
        holderState: coverage.holder?.state ?? '',
        holderZip: coverage.holder?.zip ?? '',
      }}
      along={{ coverageId: coverage.id }}
      version={coverage.version}
      action={changeCoverageAction}
      done={done}
    >
      {(f) => (
        <CoverageFields
          f={f}
          members={members}
          outside={coverage.holder !== null}
          injury={coverage.claimNumber !== '' || coverage.adjuster !== ''}
          focus={focus ?? 'memberId'}
        />
      )}
    </FormDrawer>
  );
}

/** What a charge says; what stands in the books of it can be changed while it is on no claim. */
function ChargeForm({
  shared,
  charge,
  choices,
  focus,
}: {
  shared: Shared;
  charge: LedgerCharge;
  choices: QuickChoices;
  focus: string | undefined;
}) {
  const unbilled = charge.payers.every((payer) => payer.claimId === null);
  // On a claim that corrects one that the payer has, day, units and fee are corrected too; who did it, on the claim as a whole.
  const corrected =
    !unbilled &&
    charge.payers.every(
      ({ claimId, claimStatus, corrects }) =>
        claimId === null || (corrects && claimStatus !== null && isOurs(claimStatus)),
    );
  return (
    <FormDrawer
      {...shared}
      title={`${charge.code} ${charge.description}`}
      initial={{
        diagnoses: charge.diagnoses,
        tooth: charge.tooth,
        surfaces: charge.surfaces,
        area: charge.area || null,
        prosthesis: charge.prosthesis || null,
        priorPlacement: charge.priorPlacement ?? '',
        modifiers: charge.modifiers.join(' '),
        ...(unbilled || corrected
          ? { units: String(charge.units), fee: toDecimal(charge.fee), serviceDate: charge.date }
          : {}),
        ...(unbilled ? { providerId: charge.providerId } : {}),
      }}
      along={{ chargeId: charge.id }}
      version={charge.version}
      action={(values: Takes<typeof changeChargeAction>) =>
        changeChargeAction({
          ...values,
          modifiers: String(values.modifiers ?? '')
            .toUpperCase()
            .split(/[\s,]+/)
            .filter(Boolean),
        })
      }
    >
      {(f) => (
        <>
          {(unbilled || corrected) && (
            <Row>
              <f.Date name="serviceDate" label="Date" needed focus={unbilled && focus === undefined} />
              {unbilled ? (
                <f.Choice name="providerId" label="Provider" needed options={choices.providers} />
              ) : (
                <span />
              )}
            </Row>
          )}
          {(unbilled || corrected) && (
            <Row>
              <f.Text name="units" label="Units" needed focus={corrected && focus === undefined} />
              <f.Money name="fee" label="Fee" needed />
            </Row>
          )}
          <f.Choice
            name="diagnoses"
            label="Diagnoses, the principal one first"
            several
            most={4}
            focus={focus === 'diagnoses' || (!unbilled && !corrected && focus === undefined)}
            options={choices.diagnoses.map((item) => ({
              value: item.code,
              label: `${item.code} ${item.description}`,
            }))}
          />
          <f.Text name="modifiers" label="Modifiers" placeholder="25 59" focus={focus === 'modifiers'} />
          <Row>
            <f.Text name="tooth" label="Tooth" focus={focus === 'tooth'} />
            <f.Text name="surfaces" label="Surfaces" focus={focus === 'surfaces'} />
          </Row>
          {charge.form === 'dental' && (
            <>
              <f.Choice
                name="area"
                label="Quadrant or arch"
                empty="None"
                options={Object.entries(ORAL_AREAS).map(([value, words]) => ({
                  value,
                  label: `${value} ${words}`,
                }))}
              />
              <Row>
                <f.Choice
                  name="prosthesis"
                  label="Prosthesis"
                  empty="None"
                  options={[
                    { value: 'I', label: 'the first one' },
                    { value: 'R', label: 'a replacement' },
                  ]}
                />
                <f.Date name="priorPlacement" label="Placed before" focus={focus === 'priorPlacement'} />
              </Row>
            </>
          )}
        </>
      )}
    </FormDrawer>
  );
}
