'use client';
import { formatMoneyPlain, sum } from '../../../../../core/money';
import { AGING_BUCKETS } from '../../../../../core/statements/aging';
import { Figure, Figures, Money } from '../../../../../ui/figures';
import { Loaded } from '../../../../../ui/loaded';
import { collectAction } from '../../actions';
import css from '../account.module.css';
import { type AccountSection, useAccount } from '../section';

/** The balance and its parts, and how old what the patient owes is. */
export const figures: AccountSection = { Panel: HeadFigures };

/** What to ask each person for today; one line, and the whole of it on paper. */
function CollectLine() {
  const { account, shownCase } = useAccount();
  const householdId = account.household.id;
  const caseId = shownCase?.id ?? null;
  return (
    <Loaded
      of={`${householdId}/${caseId}/${account.figures.withPatient}/${account.figures.credit}/${account.charges.length}`}
      read={() => collectAction({ householdId, caseId })}
    >
      {(people) => {
        const asked = people.filter(({ total, why }) => total > 0 || why !== '');
        if (asked.length === 0) return null;
        return (
          <p className={`small ${css.collect}`} aria-label="To collect today" role="status">
            <strong>To collect today:</strong>{' '}
            {asked.map(({ patientId, name, parts, total, why }, index) => (
              <span key={patientId}>
                {index > 0 && ' · '}
                {people.length > 1 && `${name} `}
                {total > 0 && <Money cents={total} strong />}
                {(parts.length > 0 || why !== '') && (
                  <span className="quiet">
                    {' '}
                    (
                    {[
                      ...parts.map(({ words, amount }) => `${words} ${formatMoneyPlain(amount)}`),
                      ...(why ? [why] : []),
                    ].join(', ')}
                    )
                  </span>
                )}
              </span>
            ))}{' '}
            <a
              href={`/api/accounts/${householdId}?what=collect${caseId === null ? '' : `&caseId=${caseId}`}`}
              target="_blank"
              rel="noreferrer"
            >
              print
            </a>
          </p>
        );
      }}
    </Loaded>
  );
}

function HeadFigures() {
  const { figures: f, aging } = useAccount().account;
  const apart =
    f.atAgency === 0 ? 'On plan' : f.onPlan === 0 ? 'With the agency' : 'On plan, with the agency';
  return (
    <>
      <div className={css.figures}>
        <Figures label="Balance and its parts">
          <Figure words="With payers" cents={f.withPayer} />
          <Figure words="Patient owes now" cents={f.withPatient} owed id="owed" />
          <Figure words={apart} cents={sum([f.onPlan, f.atAgency])} />
          <Figure
            words={f.held === 0 ? 'Less credit' : 'Less credit, and held'}
            cents={sum([f.credit, f.held])}
            less
          />
          <Figure words="Balance" cents={f.balance} id="balance" />
        </Figures>
        <Figures label="Age of what the patient owes">
          {AGING_BUCKETS.map((bucket, index) => (
            <Figure key={bucket} words={bucket} cents={aging[index]!} slim />
          ))}
        </Figures>
      </div>
      {f.reserved > 0 && (
        <p className="small quiet">
          <Money cents={f.reserved} /> of the credit is reserved for a visit to come, and lowers nothing else.
        </p>
      )}
      <CollectLine />
    </>
  );
}
