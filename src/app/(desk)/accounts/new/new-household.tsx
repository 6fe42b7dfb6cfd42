'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { DeskForm, useUnsaved } from '../../../../ui/form';
import { Head, Panel } from '../../../../ui/page';
import { PersonFields } from '../../../../ui/person-form';
import { registerAction } from '../actions';
import css from './new-household.module.css';

/** Registers a household, its guarantor as patient, and one coverage. */
export function NewHousehold({ plans }: { plans: { value: number | string; label: string }[] }) {
  const router = useRouter();
  const [unsaved, setUnsaved] = useState(false);
  useUnsaved(unsaved);
  return (
    <div className={css.form}>
      <Head title="New household" />
      <DeskForm
        initial={{ state: 'WA', sex: 'F' }}
        once
        action={registerAction}
        done={(made) => router.push(`/accounts/${made.householdId}`)}
        words="Register household"
        onUnsaved={setUnsaved}
        beside={<Button onClick={() => router.back()}>Leave</Button>}
      >
        <Panel title="Guarantor and patient">
          <PersonFields parts={['person', 'address']} focus="last" />
        </Panel>
        <Panel title="Coverage" below>
          <PersonFields parts={['coverage']} plans={plans} />
        </Panel>
      </DeskForm>
    </div>
  );
}
