'use client';
/** The fields of a person, an address and a coverage, used wherever people are registered or put right. */
import { BILL_PATIENT, BILL_PATIENT_WHY } from '../core/accounts/bill-patient';
import { RELATIONSHIPS } from '../core/accounts/input';
import { ChoiceField, DateField, Row, TextField } from './form';

type Choices = { value: number | string; label: string }[];

const SEXES = [
  { value: 'F', label: 'Female' },
  { value: 'M', label: 'Male' },
  { value: 'U', label: 'Unknown' },
];

/** The fields of a coverage that is added or put right. */
export function CoverageFields({
  plans,
  members,
  orders,
  focus,
}: {
  /** The plans to choose from; a coverage that is there keeps its own. */
  plans?: Choices;
  /** The other members of the household, whose policy it may be. */
  members: Choices;
  orders?: boolean;
  focus?: string;
}) {
  const on = (name: string) => ({ name, focus: focus === name });
  return (
    <>
      {plans && <ChoiceField {...on('planId')} label="Insurance plan" needed options={plans} />}
      <Row>
        <TextField {...on('memberId')} label="Member id" needed />
        <TextField {...on('groupNumber')} label="Group number" />
      </Row>
      <Row>
        <ChoiceField
          {...on('relationship')}
          label="Whose policy"
          needed
          options={Object.entries(RELATIONSHIPS).map(([value, label]) => ({ value, label }))}
        />
        {members.length > 0 && (
          <ChoiceField {...on('subscriberId')} label="Subscriber" options={members} empty="The patient" />
        )}
      </Row>
      <Row>
        <DateField {...on('validFrom')} label="In force from" />
        <DateField {...on('validTo')} label="until" />
        {orders && (
          <ChoiceField
            {...on('position')}
            label="Order"
            needed
            options={['First', 'Second', 'Third'].map((label, index) => ({ value: index + 1, label }))}
          />
        )}
      </Row>
      <Row>
        <ChoiceField
          {...on('billPatient')}
          label="Bill the patient what it passes on"
          options={Object.entries(BILL_PATIENT).map(([value, label]) => ({ value, label }))}
        />
        <ChoiceField
          {...on('billPatientWhy')}
          label="What forbids it"
          empty="Nothing"
          options={Object.entries(BILL_PATIENT_WHY).map(([value, label]) => ({ value, label }))}
        />
      </Row>
    </>
  );
}

/** `parts` says which groups of fields are shown, `focus` which field has the cursor. */
export function PersonFields({
  parts,
  plans,
  focus,
}: {
  parts: ('person' | 'address' | 'coverage')[];
  plans?: Choices;
  focus?: string;
}) {
  const on = (name: string) => ({ name, focus: focus === name });
  return (
    <>
      {parts.includes('person') && (
        <>
          <Row>
            <TextField {...on('last')} label="Last name" needed maxLength={80} />
            <TextField {...on('first')} label="First name" needed maxLength={80} />
          </Row>
          <Row>
            <DateField {...on('birthDate')} label="Birth date" needed />
            <ChoiceField {...on('sex')} label="Sex" needed options={SEXES} />
          </Row>
        </>
      )}
      {parts.includes('address') && (
        <>
          <Row>
            <TextField {...on('line1')} label="Street" needed />
            <TextField {...on('line2')} label="Street, second line" />
          </Row>
          <Row>
            <TextField {...on('city')} label="City" needed />
            <TextField {...on('state')} label="State" needed placeholder="WA" maxLength={2} />
            <TextField {...on('zip')} label="ZIP" needed />
          </Row>
          <Row>
            <TextField {...on('phone')} label="Phone" />
            <TextField {...on('email')} label="E-mail" />
          </Row>
        </>
      )}
      {parts.includes('coverage') && (
        <>
          {plans && (
            <ChoiceField
              {...on('planId')}
              label="Insurance plan"
              options={plans}
              empty="None: the patient pays"
            />
          )}
          <Row>
            <TextField {...on('memberId')} label="Member id" />
            <TextField {...on('groupNumber')} label="Group number" />
            <DateField {...on('validFrom')} label="In force from" />
          </Row>
        </>
      )}
    </>
  );
}
