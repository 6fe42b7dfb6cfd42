'use client';
import { Button, Segmented } from 'antd';
import { useState } from 'react';
import { LEDGER_VIEWS, type LedgerView } from '../../../../core/accounts/ledger-views';
import type { AccountPage } from '../../../../server/account-page/read';
import { Choose } from '../../../../ui/choose';
import { DateInput } from '../../../../ui/date-input';
import { useDesk } from '../../../../ui/desk';
import { DeskDrawer } from '../../../../ui/drawer';
import css from './account.module.css';

/** What of the account is printed: a view of the ledger or an itemized receipt, of which days, site and person. */
export function PrintDrawer({
  account,
  sites,
  view,
  member,
  shownCase,
  onClose,
}: {
  account: AccountPage;
  sites: { value: number; label: string }[];
  /** The view and the member that the page shows. */
  view: LedgerView;
  member: number;
  /** The case that the page shows; 0 for all of them. */
  shownCase: number;
  onClose: () => void;
}) {
  const { today } = useDesk();
  const [what, setWhat] = useState<LedgerView | 'receipt'>(view);
  const [from, setFrom] = useState('');
  const [to, setTo] = useState('');
  const [site, setSite] = useState(0);
  const [person, setPerson] = useState(member);
  const [ofCase, setCase] = useState(shownCase);
  const [each, setEach] = useState(false);
  const cases = account.members.find(({ id }) => id === person)?.cases ?? [];
  const asked = new URLSearchParams({
    what,
    ...(from ? { from } : {}),
    ...(to ? { to } : {}),
    ...(site ? { siteId: String(site) } : {}),
    ...(person ? { patientId: String(person) } : {}),
    ...(ofCase ? { caseId: String(ofCase) } : {}),
    ...(each && person === 0 ? { each: '1' } : {}),
  });
  const apart = account.confidential.map(({ patient }) => patient);
  return (
    <DeskDrawer size={480} title="Print" onClose={onClose}>
      <div className={css.print}>
        <Labelled id="print-what" label="What">
          <Choose
            id="print-what"
            autoFocus
            value={what}
            onChange={setWhat}
            options={[
              ...(Object.keys(LEDGER_VIEWS) as LedgerView[]).map((value) => ({
                value,
                label: LEDGER_VIEWS[value].words,
              })),
              { value: 'receipt' as const, label: 'Itemized receipt of what was paid' },
            ]}
          />
        </Labelled>
        <div className={css.beside}>
          <Labelled id="print-from" label="From">
            <DateInput id="print-from" label="From" value={from} onChange={setFrom} />
          </Labelled>
          <Labelled id="print-to" label="To">
            <DateInput id="print-to" label="To" value={to} onChange={setTo} />
          </Labelled>
        </div>
        {what === 'receipt' && (
          <div className={css.beside}>
            {[0, 1].map((ago) => {
              const year = String(Number(today.slice(0, 4)) - ago);
              return (
                <Button
                  key={year}
                  size="small"
                  onClick={() => {
                    setFrom(`${year}-01-01`);
                    setTo(`${year}-12-31`);
                  }}
                >
                  All of {year}
                </Button>
              );
            })}
          </div>
        )}
        <div className={css.beside}>
          <Labelled id="print-site" label="Site">
            <Choose
              id="print-site"
              value={site}
              onChange={setSite}
              options={[{ value: 0, label: 'All sites' }, ...sites]}
            />
          </Labelled>
          <Labelled id="print-person" label="Person">
            <Choose
              id="print-person"
              value={person}
              onChange={(id) => {
                setPerson(id);
                setCase(0);
              }}
              options={[
                { value: 0, label: 'Everybody' },
                ...account.members.map(({ id, first }) => ({ value: id, label: first })),
              ]}
            />
          </Labelled>
        </div>
        {cases.length > 1 && (
          <Labelled id="print-case" label="Case">
            <Choose
              id="print-case"
              value={ofCase}
              onChange={setCase}
              options={[
                { value: 0, label: 'All cases' },
                ...cases.map(({ id, name }) => ({ value: id, label: name })),
              ]}
            />
          </Labelled>
        )}
        {person === 0 && account.members.length > 1 && (
          <Segmented
            aria-label="Documents"
            value={each}
            onChange={setEach}
            options={[
              { value: false, label: 'One document' },
              { value: true, label: 'One for each person' },
            ]}
          />
        )}
        {apart.length > 0 && person === 0 && (
          <p className="quiet">
            Without {apart.join(', ')}, whose address is confidential: choose the person to print that apart.
          </p>
        )}
        <div>
          <Button
            type="primary"
            href={`/api/accounts/${account.household.id}?${asked.toString()}`}
            target="_blank"
          >
            Print
          </Button>
        </div>
      </div>
    </DeskDrawer>
  );
}

const Labelled = ({ id, label, children }: { id: string; label: string; children: React.ReactNode }) => (
  <div className={css.labelled}>
    <label htmlFor={id}>{label}</label>
    {children}
  </div>
);
