import { parseDate } from '../../../../core/calendar';
import { SIDES, readContractCheck } from '../../../../server/remittances/contract-check';
import { signedInFor } from '../../../session';
import { ContractView } from './contract-view';

/** What the browser shows as title. */
export const metadata = { title: 'Contract check' };

/** What payers allowed against their contracts; days, payer and side come from the address, and what is none of them is left out. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<Record<string, string | undefined>>;
}) {
  const context = await signedInFor('read remittances');
  const { from, to, payer, side, group } = await searchParams;
  const [begins, ends] = [parseDate(from ?? ''), parseDate(to ?? '')];
  const check = await readContractCheck(context, {
    ...(begins && begins <= (ends ?? context.today) ? { from: begins } : {}),
    ...(ends ? { to: ends } : {}),
    ...(/^[1-9]\d{0,14}$/.test(payer ?? '') ? { payerId: Number(payer) } : {}),
    ...(SIDES.find((one) => one === side) ? { side: SIDES.find((one) => one === side) } : {}),
  });
  return <ContractView check={check} groupKey={group ?? null} />;
}
