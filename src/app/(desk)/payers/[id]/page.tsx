import { readPayerNotices } from '../../../../server/notes/notes';
import { readPayer, readPayerParts } from '../../../../server/payers/read';
import { readSetupRow } from '../../../../server/setup/read';
import { idOf, orNotFound, signedInFor } from '../../../session';
import { PayerView } from './payer-view';

/** What the browser shows as title. */
export const metadata = { title: 'Payer' };

/** One payer: how its claims leave, who of ours it knows, its plans, and what is open with it. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read setup');
  const payer = await orNotFound(idOf(params).then((id) => readPayer(context, id)));
  const [own, parts, notices] = await Promise.all([
    readSetupRow(context, 'payers', String(payer.id)),
    readPayerParts(context, payer.id),
    readPayerNotices(context, payer.id),
  ]);
  return <PayerView payer={payer} own={own} parts={parts} notices={notices} />;
}
