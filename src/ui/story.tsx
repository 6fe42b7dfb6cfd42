/** The balance story as it stands on the screen; the statement prints the same sentences. */
import Link from 'next/link';
import type { ChargeStory } from '../core/statements/story';
import { Money } from './figures';
import css from './story.module.css';

/** The story of a household or of one charge; each sentence leads to its charge in the ledger. */
export function Story({
  charges,
  closing,
  householdId,
}: {
  charges: ChargeStory[];
  closing?: string;
  householdId: number;
}) {
  return (
    <div>
      {charges.length === 0 && <p>Nothing is open on this account.</p>}
      {charges.map((charge) => (
        <section key={charge.chargeId} className={css.charge}>
          <div className={css.title}>
            <strong>{charge.title}</strong>
            <Money cents={charge.owed} strong />
          </div>
          {charge.sentences.map((sentence, index) => (
            <p className={css.sentence} key={index}>
              {sentence.entryId ? (
                <Link
                  href={`/accounts/${householdId}?charge=${charge.chargeId}#entry-${sentence.entryId}`}
                  className={css.link}
                >
                  {sentence.words}
                </Link>
              ) : (
                sentence.words
              )}
            </p>
          ))}
        </section>
      ))}
      {closing && (
        <p>
          <strong>{closing}</strong>
        </p>
      )}
    </div>
  );
}
