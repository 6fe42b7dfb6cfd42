'use client';
/** The fields of a person, an address and a coverage, used wherever people are registered or put right. */
import { BILL_PATIENT, BILL_PATIENT_WHY } from '../core/accounts/bill-patient';
import { RELATIONSHIPS } from '../core/accounts/input';
import { BASES, SECONDARY_TYPES } from '../core/accounts/order';
import { type Fields, Row } from './form';

type Choices = { value: number | string; label: string }[];

const SEXES = [
  { value: 'F', label: 'Female' },
  { value: 'M', label: 'Male' },
  { value: 'U', label: 'Unknown' },
];

type PolicyName =
  | 'memberId'
  | 'groupNumber'
  | 'relationship'
  | 'subscriberId'
  | 'holderLast'
  | 'holderFirst'
  | 'holderBirthDate'
  | 'holderSex'
  | 'holderOrganization'
  | 'holderLine1'
  | 'holderCity'
  | 'holderState'
  | 'holderZip'
  | 'claimNumber'
  | 'adjuster'
  | 'assigned'
  | 'signed'
  | 'basis'
  | 'courtOrder'
  | 'secondaryType'
  | 'validFrom'
  | 'validTo'
  | 'billPatient'
  | 'billPatientWhy';

/** The fields of a coverage that is added or put right, in the form `f`. */
export function CoverageFields({
  f,
  members,
  plan,
  order,
  outside = false,
  injury = false,
  focus,
}: {
  f: Fields<PolicyName>;
  /** The other members of the household, whose policy it may be. */
  members: Choices;
  /** Which plan it is of, and which of the patient's coverages; one that is there keeps them. */
  plan?: React.ReactNode;
  order?: React.ReactNode;
  /** Somebody who is nobody's patient here holds it. */
  outside?: boolean;
  /** It is of an injury. */
  injury?: boolean;
  focus?: string;
}) {
  const on = <Name extends string>(name: Name) => ({ name, focus: focus === name });
  return (
    <>
      {plan}
      <Row>
        <f.Text {...on('memberId')} label="Member id" needed />
        <f.Text {...on('groupNumber')} label="Group number" />
      </Row>
      <Row>
        <f.Choice
          {...on('relationship')}
          label="Whose policy"
          needed
          options={Object.entries(RELATIONSHIPS).map(([value, label]) => ({ value, label }))}
        />
        {members.length > 0 && (
          <f.Choice {...on('subscriberId')} label="Subscriber" options={members} empty="The patient" />
        )}
      </Row>
      <details open={outside || (focus?.startsWith('holder') ?? false)}>
        <summary>Somebody who is no patient here holds it</summary>
        <p className="quiet small">As the insurer has the name and the birth date.</p>
        <Row>
          <f.Text {...on('holderLast')} label="Holder’s last name" maxLength={80} />
          <f.Text {...on('holderFirst')} label="Holder’s first name" maxLength={80} />
        </Row>
        <Row>
          <f.Date {...on('holderBirthDate')} label="Holder’s birth date" />
          <f.Choice {...on('holderSex')} label="Holder’s sex" options={SEXES} empty="Unknown" />
        </Row>
        <f.Text {...on('holderOrganization')} label="or an employer, for an injury at work" maxLength={60} />
        <f.Text
          {...on('holderLine1')}
          label="Where that is, if not where the patient lives"
          placeholder="Street"
          maxLength={55}
        />
        <Row>
          <f.Text {...on('holderCity')} label="City" maxLength={30} />
          <f.Text {...on('holderState')} label="State" placeholder="WA" maxLength={2} />
          <f.Text {...on('holderZip')} label="ZIP" />
        </Row>
      </details>
      <details open={injury}>
        <summary>An injury: the insurer’s claim number and adjuster</summary>
        <Row>
          <f.Text {...on('claimNumber')} label="Claim number of the insurer" maxLength={30} />
          <f.Text {...on('adjuster')} label="Adjuster" maxLength={80} />
        </Row>
      </details>
      <Row>
        <f.Date {...on('validFrom')} label="In force from" />
        <f.Date {...on('validTo')} label="until" />
        {order}
      </Row>
      <Row>
        <f.Choice
          {...on('basis')}
          label="The holder"
          empty="Not said"
          options={Object.entries(BASES).map(([value, label]) => ({ value, label }))}
        />
        <f.YesNo {...on('courtOrder')} label="A court says it is first" />
      </Row>
      <f.Choice
        {...on('secondaryType')}
        label="Medicare comes after another insurer, because"
        empty="It does not, or is not Medicare"
        options={Object.entries(SECONDARY_TYPES).map(([value, label]) => ({
          value,
          label: `${label} (${value})`,
        }))}
      />
      <Row>
        <f.YesNo {...on('assigned')} label="The payer pays us" />
        <f.YesNo {...on('signed')} label="Signature on file" />
      </Row>
      <Row>
        <f.Choice
          {...on('billPatient')}
          label="Bill the patient what it passes on"
          options={Object.entries(BILL_PATIENT).map(([value, label]) => ({ value, label }))}
        />
        <f.Choice
          {...on('billPatientWhy')}
          label="What forbids it"
          empty="Nothing"
          options={Object.entries(BILL_PATIENT_WHY).map(([value, label]) => ({ value, label }))}
        />
      </Row>
    </>
  );
}

/** Who somebody is, in the form `f`; `focus` says which field has the cursor. */
export function PersonFields({
  f,
  focus,
}: {
  f: Fields<'last' | 'first' | 'birthDate' | 'sex'>;
  focus?: string;
}) {
  const on = <Name extends string>(name: Name) => ({ name, focus: focus === name });
  return (
    <>
      <Row>
        <f.Text {...on('last')} label="Last name" needed maxLength={80} />
        <f.Text {...on('first')} label="First name" needed maxLength={80} />
      </Row>
      <Row>
        <f.Date {...on('birthDate')} label="Birth date" needed />
        <f.Choice {...on('sex')} label="Sex" needed options={SEXES} />
      </Row>
    </>
  );
}

/** Where somebody lives, in the form `f`. */
export function AddressFields({
  f,
  focus,
}: {
  f: Fields<'line1' | 'line2' | 'city' | 'state' | 'zip' | 'phone' | 'email'>;
  focus?: string;
}) {
  const on = <Name extends string>(name: Name) => ({ name, focus: focus === name });
  return (
    <>
      <Row>
        <f.Text {...on('line1')} label="Street" needed />
        <f.Text {...on('line2')} label="Street, second line" />
      </Row>
      <Row>
        <f.Text {...on('city')} label="City" needed />
        <f.Text {...on('state')} label="State" needed placeholder="WA" maxLength={2} />
        <f.Text {...on('zip')} label="ZIP" needed />
      </Row>
      <Row>
        <f.Text {...on('phone')} label="Phone" />
        <f.Text {...on('email')} label="E-mail" />
      </Row>
    </>
  );
}

/** The coverage that somebody new begins with, or none, in the form `f`. */
export const FirstCoverageFields = ({
  f,
  plans,
}: {
  f: Fields<'insurancePlanId' | 'memberId' | 'groupNumber' | 'validFrom'>;
  plans: Choices;
}) => (
  <>
    <f.Choice name="insurancePlanId" label="Insurance plan" options={plans} empty="None: the patient pays" />
    <Row>
      <f.Text name="memberId" label="Member id" />
      <f.Text name="groupNumber" label="Group number" />
      <f.Date name="validFrom" label="In force from" />
    </Row>
  </>
);
