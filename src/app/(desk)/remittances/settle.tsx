'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { PASSING, PASSINGS } from '../../../core/books/passing';
import { formatMoneyPlain } from '../../../core/money';
import { WithReason, useAct } from '../../../ui/act';
import { FormDrawer } from '../../../ui/form';
import { Line } from '../../../ui/page';
import { settleAction } from './actions';

/** What can be done with an amount that a payer does not pay: taken off, or passed on to the patient or the next payer. */
export function Settle({ chargeId, coverageId }: { chargeId: number; coverageId: number | undefined }) {
  const { run } = useAct();
  const [passing, setPassing] = useState(false);
  return (
    <Line>
      <WithReason
        words="Write off"
        ask="Why is it written off?"
        act={(why) =>
          run(
            () => settleAction({ chargeId, coverageId, to: 'off', why }),
            (amount) => `${formatMoneyPlain(amount)} written off`,
          )
        }
      />
      <Button size="small" onClick={() => setPassing(true)}>
        Pass on
      </Button>
      {passing && (
        <FormDrawer
          title="Pass on what the payer does not pay"
          initial={{ to: 'patient', exception: null }}
          along={{ chargeId, coverageId }}
          action={settleAction}
          done={() => setPassing(false)}
          onClose={() => setPassing(false)}
          words="Pass on"
        >
          {(f) => (
            <>
              <f.Choice
                name="to"
                label="To"
                focus
                options={[
                  { value: 'patient', label: 'The patient' },
                  { value: 'next', label: 'The next payer' },
                ]}
              />
              <f.Choice
                name="exception"
                label="Exception"
                empty="None"
                hint="What the payer took off under CO or PI is the patient’s by an exception alone."
                options={PASSINGS.map((value) => ({ value, label: PASSING[value].label }))}
              />
              <f.Text name="why" label="Why, in words for the patient" needed maxLength={300} />
            </>
          )}
        </FormDrawer>
      )}
    </Line>
  );
}
