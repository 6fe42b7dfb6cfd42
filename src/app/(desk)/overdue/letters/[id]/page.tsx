import { notFound } from 'next/navigation';
import { findList } from '../../../../../server/lists/read';
import { readLetters } from '../../../../../server/overdue/letters';
import { signedIn } from '../../../../session';
import { LetterEditor } from './letter-editor';

/** What the browser shows as title. */
export const metadata = { title: 'Letter' };

/** One letter: its parts, and how it looks for a real account. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const { id } = await params;
  const letter = (await readLetters(context)).find((one) => String(one.id) === id) ?? null;
  if (!letter && id !== 'new') notFound();
  const { rows } = await findList(context, 'overdue', { view: 'all', pageSize: 50 });
  return (
    <LetterEditor
      key={letter?.version ?? 0}
      letter={letter}
      accounts={rows.map((row) => ({ value: row.householdId, label: `${row.guarantor} · ${row.account}` }))}
    />
  );
}
