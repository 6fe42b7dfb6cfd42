'use client';
import { sum } from '../../../../../core/money';
import { AGING_BUCKETS } from '../../../../../core/statements/aging';
import { Figure, Figures } from '../../../../../ui/figures';
import css from '../account.module.css';
import { type AccountSection, useAccount } from '../section';

/** The balance and its parts, and how old what the patient owes is. */
export const figures: AccountSection = { Panel: HeadFigures };

function HeadFigures() {
  const { figures: f, aging } = useAccount().account;
  const apart =
    f.atAgency === 0 ? 'On plan' : f.onPlan === 0 ? 'With the agency' : 'On plan, with the agency';
  return (
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
  );
}
