import { may } from '../../../server/access';
import { type ListAddress, readList } from '../../../server/lists/read';
import { previewRun } from '../../../server/statements/choosing';
import { previewLate } from '../../../server/statements/late';
import { readRunChoices } from '../../../server/statements/run-choices';
import { signedIn } from '../../session';
import { ChooseHouseholds } from './choose';
import { LateCharges } from './late-charges';
import { BatchList, StatementList, StatementsDue } from './statement-list';

/** What the browser shows as title. */
export const metadata = { title: 'Statements' };

/** Who gets a statement and why not; those due one by one; the batches; the statements sent. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<ListAddress & { set?: string }>;
}) {
  const context = await signedIn();
  const address = await searchParams;
  const mayPrepare = may(context.user.role, 'prepare statements');
  const view = String(address.view ?? (mayPrepare ? 'choose' : 'due'));
  if (['sent', 'back', 'void'].includes(view))
    return <StatementList list={await readList(context, 'statements', address)} mayPrepare={mayPrepare} />;
  if (['open', 'all'].includes(view))
    return <BatchList list={await readList(context, 'batches', address)} mayPrepare={mayPrepare} />;
  if (view === 'late' && mayPrepare) return <LateCharges rows={await previewLate(context)} />;
  if (view !== 'choose' || !mayPrepare)
    return (
      <StatementsDue list={await readList(context, 'statements-due', address)} mayPrepare={mayPrepare} />
    );
  const choices = await readRunChoices(context);
  const wanted = Number(address.set) || 0;
  const set = choices.sets.find(({ id }) => id === wanted);
  return (
    <ChooseHouseholds
      key={set?.id ?? 0}
      choices={choices}
      set={set ?? null}
      first={await previewRun(context, set ? { rows: set.rows } : {})}
    />
  );
}
