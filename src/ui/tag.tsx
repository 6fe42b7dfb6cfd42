/** A word on how something stands, in tones whose contrast holds in both modes. */
import css from './tag.module.css';

/** `look` asks for a look, `stop` is wrong; most words are plain. */
export type Tone = 'plain' | 'look' | 'stop';

/** The word. */
export const Tag = ({ tone = 'plain', children }: { tone?: Tone; children: React.ReactNode }) => (
  <span className={`${css.tag} ${css[tone]}`}>{children}</span>
);
