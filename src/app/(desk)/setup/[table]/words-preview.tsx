'use client';
import { useEffect, useState } from 'react';
import { UNREACHED } from '../../../../ui/act';
import { PersonField } from '../../../../ui/person-field';
import { wordsAction } from '../../statements/actions';
import css from '../setup.module.css';

/** Words with variables as they would stand on a household's statement today, while they are typed. */
export function WordsPreview({ words }: { words: string }) {
  const [householdId, setHousehold] = useState(0);
  const [shown, setShown] = useState('');
  useEffect(() => {
    if (householdId === 0) return;
    let here = true;
    const timer = setTimeout(
      () =>
        void wordsAction({ householdId, words })
          .catch(() => UNREACHED)
          .then((answer) => here && setShown(answer.ok ? answer.value : answer.message)),
      200,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [words, householdId]);
  return (
    <section className={css.history} aria-label="As it would stand">
      <h2>As it would stand</h2>
      <PersonField
        id="preview-household"
        label="On whose statement"
        choose={(href) => setHousehold(Number(/^\/accounts\/(\d+)/.exec(href)?.[1]) || 0)}
      />
      <p role="status">{shown}</p>
    </section>
  );
}
