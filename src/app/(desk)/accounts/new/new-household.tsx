'use client';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { Likeness } from '../../../../server/accounts/register';
import { Day } from '../../../../ui/figures';
import { DeskForm, useUnsaved } from '../../../../ui/form';
import { Head, Notice, Panel } from '../../../../ui/page';
import { AddressFields, FirstCoverageFields, PersonFields } from '../../../../ui/person-form';
import { likeAction, registerAction } from '../actions';
import css from './new-household.module.css';

/** Registers a household, its guarantor as patient, and one coverage. */
export function NewHousehold({ plans }: { plans: { value: number | string; label: string }[] }) {
  const router = useRouter();
  const [unsaved, setUnsaved] = useState(false);
  const [typed, setTyped] = useState<Record<string, unknown>>({});
  useUnsaved(unsaved);
  return (
    <div className={css.form}>
      <Head title="New household" />
      <Alike typed={typed} />
      <DeskForm
        initial={{ state: 'WA', sex: 'F' }}
        once
        action={registerAction}
        done={(made) => router.push(`/accounts/${made.householdId}`)}
        words="Register household"
        onTyped={setTyped}
        onUnsaved={setUnsaved}
        beside={<Button onClick={() => router.back()}>Leave</Button>}
      >
        {(f) => (
          <>
            <Panel title="Guarantor and patient">
              <PersonFields f={f} focus="last" />
              <AddressFields f={f} />
            </Panel>
            <Panel title="Coverage" below>
              <FirstCoverageFields f={f} plans={plans} />
            </Panel>
          </>
        )}
      </DeskForm>
    </div>
  );
}

/** Households that are there already and may be the one that is typed. */
function Alike({ typed }: { typed: Record<string, unknown> }) {
  const [found, setFound] = useState<Likeness[]>([]);
  const { last = '', first = '', birthDate = '', phone = '' } = typed as Record<string, string>;
  useEffect(() => {
    let here = true;
    const timer = setTimeout(() => {
      if (last === '' && phone === '') return setFound([]);
      void likeAction({ last, first, birthDate, phone }).then(
        (answer) => here && setFound(answer.ok ? answer.value : []),
        () => undefined,
      );
    }, 250);
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [last, first, birthDate, phone]);
  if (found.length === 0) return null;
  return (
    <Notice>
      {found.map((item) => (
        <div key={item.householdId} role="status">
          {item.same === 'person' ? 'Registered already: ' : 'The same telephone: '}
          {/* Beside the form, so that nothing typed is lost by looking. */}
          {item.closed ? (
            item.name
          ) : (
            <>
              <Link href={`/accounts/${item.householdId}`} target="_blank">
                {item.name}, {item.number}
              </Link>
              , born <Day date={item.birthDate} /> {item.phone && `· ${item.phone}`}
            </>
          )}
        </div>
      ))}
    </Notice>
  );
}
