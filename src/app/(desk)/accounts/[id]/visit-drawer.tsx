'use client';
import { Button, Input } from 'antd';
import { useState } from 'react';
import { ORAL_AREAS } from '../../../../core/accounts/oral-areas';
import { formatDate } from '../../../../core/calendar';
import { add, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import { WithReason, useAct } from '../../../../ui/act';
import { useMay } from '../../../../ui/desk';
import { DeskDrawer } from '../../../../ui/drawer';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Loaded } from '../../../../ui/loaded';
import { makeSetAction, undoVisitAction, visitAction } from '../actions';
import css from './account.module.css';
import type { AccountDesk } from './section';

/** A visit as one thing: what was done, printed, taken back whole, made a set. */
export function VisitDrawer({ desk, chargeId }: { desk: AccountDesk; chargeId: number }) {
  const may = useMay();
  const { run } = useAct();
  const entered = may('enter charges');
  return (
    <DeskDrawer size={640} title="Visit" onClose={desk.close}>
      <Loaded of={String(chargeId)} read={() => visitAction({ chargeId })}>
        {(visit) => (
          <>
            <p>
              <strong>{visit.patient}</strong> on {formatDate(visit.date)} with {visit.provider}, {visit.site}
              {visit.caseName && `, for “${visit.caseName}”`}
            </p>
            <LineTable
              label="Services of the visit"
              rows={visit.lines}
              rowKey={(line) => String(line.chargeId)}
              columns={[
                {
                  key: 'service',
                  title: 'Service',
                  render: (line) => (
                    <>
                      {[line.code, ...line.modifiers].join(' ')} {line.description}
                      {line.tooth && ` · tooth ${line.tooth}${line.surfaces}`}
                      {line.area && ` · ${ORAL_AREAS[line.area] ?? line.area}`}
                      {line.diagnoses.length > 0 && (
                        <span className="quiet"> · {line.diagnoses.join(', ')}</span>
                      )}
                      {line.feeWhy && <span className="quiet"> · other fee: {line.feeWhy}</span>}
                      {line.claim && <span className="quiet"> · on claim {line.claim}</span>}
                    </>
                  ),
                },
                {
                  key: 'units',
                  title: 'Units',
                  width: 110,
                  render: (line) => (line.minutes ? `${line.units} (${line.minutes} min)` : line.units),
                },
                { key: 'fee', title: 'Fee', money: (line) => add(line.fee, line.tax), sum: true },
              ]}
              words={counted(visit.lines.length, 'service')}
              empty="Nothing"
            />
            {sum(visit.lines.map(({ tax }) => tax)) > 0 && <p className="small quiet">Tax is in the fees.</p>}
            <div className={css.visit}>
              <Button href={`/api/visits/${chargeId}`} target="_blank">
                Print
              </Button>
              {entered &&
                (visit.lines.every(({ claim }) => claim === null) ? (
                  <WithReason
                    size="middle"
                    words="Take the visit back"
                    ask="Why is it taken back?"
                    danger
                    act={async (why) => {
                      const done = await run(
                        () => undoVisitAction({ chargeId, why }),
                        (many) => `${counted(many, 'service')} taken back`,
                      );
                      if (done) desk.close();
                      return done;
                    }}
                  />
                ) : (
                  <span className="small quiet">
                    It is billed: correct its claim, on the page of <Link href="/claims">the claim</Link>.
                  </span>
                ))}
            </div>
            {entered && <MakeSet chargeIds={visit.lines.map((line) => line.chargeId)} />}
          </>
        )}
      </Loaded>
    </DeskDrawer>
  );
}

/** Makes a set of the services, by a name. */
function MakeSet({ chargeIds }: { chargeIds: number[] }) {
  const { busy, run } = useAct();
  const [name, setName] = useState('');
  const make = async (): Promise<void> => {
    if (name.trim() === '' || busy) return;
    const done = await run(
      () => makeSetAction({ name, chargeIds }),
      `“${name}” can be entered as a set from now on`,
    );
    if (done) setName('');
  };
  return (
    <div className={css.visit}>
      <Input
        aria-label="Name of the set"
        placeholder="name of a charge set"
        value={name}
        maxLength={60}
        onChange={(event) => setName(event.target.value)}
        onPressEnter={() => void make()}
      />
      <Button loading={busy} disabled={name.trim() === ''} onClick={() => void make()}>
        Make a set of these
      </Button>
    </div>
  );
}
