/** How remittances look, wherever they stand. */
import { useMay } from './desk';
import { Link } from './link';
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

/** A reason code, with the way to its page for who may look there. @param code such as CO-45 */
export function ReasonTag({ code }: { code: string }) {
  const seen = useMay()('read remittances');
  return seen ? (
    <Link href={`/remittances/reasons/${code.replace('-', '/')}`}>
      <Tag>{code}</Tag>
    </Link>
  ) : (
    <Tag>{code}</Tag>
  );
}
