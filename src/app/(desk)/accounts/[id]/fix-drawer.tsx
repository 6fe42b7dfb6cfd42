'use client';
import { useRouter } from 'next/navigation';
import { useSearchParams } from 'next/navigation';
import type { AccountPage } from '../../../../server/accounts/read';
import type { QuickChoices } from '../../../../server/setup/choices';
import { ChoiceField, FormDrawer, Row, TextField } from '../../../../ui/form';
import { PersonFields } from '../../../../ui/person-form';
import { addMemberAction, changeChargeAction, changePatientAction } from '../actions';

interface Props {
  kind: 'person' | 'member' | 'charge';
  account: AccountPage;
  plans: { value: number | string; label: string }[];
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
  const shared = {
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
        <PersonFields parts={['person', 'coverage']} plans={plans} focus="first" />
      </FormDrawer>
    );
  if (kind === 'person') {
    const person =
      account.members.find((item) => item.id === Number(params.get('patient'))) ?? account.members[0];
    if (!person) return null;
    return (
      <FormDrawer
        {...shared}
        title={`${person.first} ${person.last}`}
        initial={{ ...h, ...person, validFrom: person.validFrom ?? '' }}
        along={{ patientId: person.id }}
        version={person.version}
        action={changePatientAction}
      >
        <PersonFields
          parts={person.payer ? ['person', 'address', 'coverage'] : ['person', 'address']}
          focus={focus}
        />
      </FormDrawer>
    );
  }
  const charge = account.charges.find((item) => item.id === Number(params.get('charge')));
  if (!charge) return null;
  return (
    <FormDrawer
      {...shared}
      title={`${charge.code} ${charge.description}`}
      initial={{
        diagnoses: charge.diagnoses,
        tooth: charge.tooth,
        surfaces: charge.surfaces,
        modifiers: charge.modifiers.join(' '),
      }}
      along={{ chargeId: charge.id }}
      version={charge.version}
      action={(values) =>
        changeChargeAction({
          ...values,
          modifiers: String(values.modifiers ?? '')
            .toUpperCase()
            .split(/[\s,]+/)
            .filter(Boolean),
        })
      }
    >
      <ChoiceField
        name="diagnoses"
        label="Diagnoses, the principal one first"
        several
        most={4}
        focus={focus === 'diagnoses'}
        options={choices.diagnoses.map((item) => ({
          value: item.code,
          label: `${item.code} ${item.description}`,
        }))}
      />
      <TextField name="modifiers" label="Modifiers" placeholder="25 59" focus={focus === 'modifiers'} />
      <Row>
        <TextField name="tooth" label="Tooth" focus={focus === 'tooth'} />
        <TextField name="surfaces" label="Surfaces" focus={focus === 'surfaces'} />
      </Row>
    </FormDrawer>
  );
}
