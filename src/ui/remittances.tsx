/** How remittances look, wherever they stand. */
import { Tag, type Tone } from './tag';

const WORDS = {
  ready: { words: 'ready to post' },
  posting: { words: 'being posted', tone: 'look' },
  held: { words: 'held', tone: 'stop' },
  posted: { words: 'posted' },
} satisfies Record<string, { words: string; tone?: Tone }>;

/** A remittance's status in words. */
export function RemitStatus({ status }: { status: keyof typeof WORDS }) {
  const found: { words: string; tone?: Tone } = WORDS[status];
  return <Tag tone={found.tone}>{found.words}</Tag>;
}
