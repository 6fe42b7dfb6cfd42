'use client';
/** The balance story as it stands on the screen; the statement prints the same sentences. */
import { Link } from './link';
import { useEffect, useRef } from 'react';
import type { ChargeStory } from '../core/statements/story';
import { Money } from './figures';
import css from './story.module.css';

/** The story of a household or of one charge; each sentence leads to its charge in the ledger. */
export function Story({
  charges,
  closing,
  householdId,
  lit = 0,
  here,
}: {
  charges: ChargeStory[];
  closing?: string;
  householdId: number;
  /** The charge that is lit, here as in the ledger. */
  lit?: number;
  /** What else stands in the address of the page that this stands beside. */
  here?: Readonly<Record<string, string>>;
}) {
  const marked = useRef<HTMLElement>(null);
  useEffect(() => {
    marked.current?.scrollIntoView({ block: 'nearest' });
  }, [lit]);
  const href = (chargeId: number, entryId: number): string =>
    `/accounts/${householdId}?${new URLSearchParams({ ...here, charge: String(chargeId) })}#entry-${entryId}`;
  return (
    <div>
      {charges.length === 0 && <p>Nothing is open on this account.</p>}
      {charges.map((charge) => (
        <section
          key={charge.chargeId}
          ref={charge.chargeId === lit ? marked : undefined}
          className={charge.chargeId === lit ? `${css.charge} ${css.lit}` : css.charge}
        >
          <div className={css.title}>
            <strong>{charge.title}</strong>
            <Money cents={charge.owed} strong />
          </div>
          {charge.sentences.map((sentence, index) => (
            <p className={css.sentence} key={index}>
              {sentence.entryId ? (
                <Link
                  href={href(charge.chargeId, sentence.entryId)}
                  replace={here !== undefined}
                  scroll={false}
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
