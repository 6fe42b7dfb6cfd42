/** How remittances look, wherever they stand. */
import { Tag } from 'antd';

const WORDS = {
  ready: { words: 'ready to post' },
  posting: { words: 'being posted', color: 'gold' },
  held: { words: 'held', color: 'volcano' },
  posted: { words: 'posted' },
} satisfies Record<string, { words: string; color?: string }>;

/** A remittance's status in words. */
export function RemitStatus({ status }: { status: keyof typeof WORDS }) {
  const found: { words: string; color?: string } = WORDS[status];
  return <Tag color={found.color}>{found.words}</Tag>;
}
