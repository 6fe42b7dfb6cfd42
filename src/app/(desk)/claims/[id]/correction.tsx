'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { formatMoneyPlain } from '../../../../core/money';
import type { ClaimPage } from '../../../../server/claims/read';
import { useAct } from '../../../../ui/act';
import { FormDrawer } from '../../../../ui/form';
import { LineTable } from '../../../../ui/line-table';
import { Line, Panel } from '../../../../ui/page';
import { addLinesAction, correctProviderAction, leaveOutLineAction, putBackLineAction } from '../actions';

type Part = Pick<ClaimPage, 'id' | 'lines' | 'providerId' | 'locationId'> & {
  correction: NonNullable<ClaimPage['correction']>;
};

/** What a draft says otherwise than the claim in whose place it stands, and what can be put right on it as a whole. */
export function CorrectionPanel({ claim, mayWork }: { claim: Part; mayWork: boolean }) {
  const [open, setOpen] = useState<'provider' | 'add' | null>(null);
  const { run, busy } = useAct();
  const { correction, lines, id: claimId } = claim;
  const stay = lines.filter(({ leftOut }) => !leftOut);
  return (
    <Panel title="What it says otherwise" below>
      {correction.differences.length === 0 ? (
        <p className="quiet">Nothing yet: change what was wrong.</p>
      ) : (
        <LineTable
          label="What it says otherwise"
          rows={correction.differences.map((one, index) => ({ ...one, key: String(index) }))}
          rowKey={({ key }) => key}
          empty="Nothing yet: change what was wrong"
          columns={[
            { key: 'what', title: 'What', width: 110, render: ({ what }) => what },
            { key: 'was', title: 'Was', render: ({ was }) => was || '–' },
            { key: 'is', title: 'Is', render: ({ is }) => is || 'left out' },
          ]}
        />
      )}
      <p className="small">{correction.money}</p>
      {mayWork && (
        <Line>
          <Button size="small" onClick={() => setOpen('provider')}>
            Who did it, and where
          </Button>
          {correction.addable.length > 0 && (
            <Button size="small" onClick={() => setOpen('add')}>
              Add a service
            </Button>
          )}
          {stay.length > 1 &&
            stay.map(({ number, code }) => (
              <Button
                key={number}
                size="small"
                loading={busy}
                onClick={() => void run(() => leaveOutLineAction({ claimId, line: number }), 'Left out')}
              >
                Leave out line {number} ({code})
              </Button>
            ))}
          {lines
            .filter(({ leftOut }) => leftOut)
            .map(({ number, code }) => (
              <Button
                key={number}
                size="small"
                loading={busy}
                onClick={() => void run(() => putBackLineAction({ claimId, line: number }), 'On it again')}
              >
                Put {code} back
              </Button>
            ))}
        </Line>
      )}
      {open === 'provider' && (
        <FormDrawer
          title="Who did it, and where"
          initial={{ providerId: claim.providerId, locationId: claim.locationId }}
          along={{ claimId }}
          action={correctProviderAction}
          done={() => setOpen(null)}
          onClose={() => setOpen(null)}
          words="Put right"
        >
          {(f) => (
            <>
              <p className="quiet small">
                For all lines of the claim. What moved until now counted for who stands there, and goes over
                today; what was paid and decided stays as it is.
              </p>
              <f.Choice
                name="providerId"
                label="Done by"
                options={correction.providers.map(({ id, name }) => ({ value: id, label: name }))}
              />
              <f.Choice
                name="locationId"
                label="Done at"
                options={correction.sites.map(({ id, name }) => ({ value: id, label: name }))}
              />
            </>
          )}
        </FormDrawer>
      )}
      {open === 'add' && (
        <FormDrawer
          title="Add a service"
          initial={{ chargeIds: correction.addable.slice(0, 1).map(({ id }) => id) }}
          along={{ claimId }}
          action={addLinesAction}
          done={() => setOpen(null)}
          onClose={() => setOpen(null)}
          words="Add"
        >
          {(f) => (
            <f.Choice
              several
              name="chargeIds"
              label="Done and on no claim"
              options={correction.addable.map(({ id, date, code, description, billed }) => ({
                value: id,
                label: `${date} ${code} ${description}, ${formatMoneyPlain(billed as never)}`,
              }))}
            />
          )}
        </FormDrawer>
      )}
    </Panel>
  );
}
